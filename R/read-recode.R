# Names of series that were written in several ways, given one.

# What was written, named by what it is to be; NULL where nothing is asked for.
check_recode <- function(recode) {
  if (is.null(recode)) {
    return(NULL)
  }
  texts <- vapply(recode, function(one) is.character(one) && !anyNA(one), NA)
  if (!rlang::is_named(recode) || !all(texts)) {
    abort_backfill(
      "argument",
      "`recode` must name what was written by what it is to be, in text.",
      ">" = "Write it as list(Petrel = c(\"petrel\", \"Petrle\"))."
    )
  }
  written <- unlist(recode, use.names = FALSE)
  names(written) <- rep(names(recode), lengths(recode))
  if (anyDuplicated(written) > 0) {
    abort_backfill(
      "argument",
      "`recode` gives {quoted(written[duplicated(written)][[1]])} two names."
    )
  }
  written
}

# The same of the series columns of a raw table, with how many rows it changed.
recoded <- function(raw, written) {
  if (is.null(written)) {
    return(raw)
  }
  found <- integer()
  for (name in raw$series) {
    text <- as.character(raw$data[[name]])
    at <- match(trimws(text), written)
    found <- c(found, at[!is.na(at)])
    text[!is.na(at)] <- names(written)[at[!is.na(at)]]
    raw$data[[name]] <- text
  }
  never <- setdiff(seq_along(written), found)
  if (length(never) > 0) {
    abort_backfill(
      "column",
      "`recode` names {quoted(written[[never[[1]]]])}, and no series is called",
      "that.",
      i = if (length(raw$series) == 0) "There are no series columns.",
      ">" = "Look for it as it is written, with its capitals and accents."
    )
  }
  as_now <- paste(quoted(unname(written)), "is now", quoted(names(written)))
  raw$notes <- c(raw$notes, glue(
    "The series of {count_of(length(found), 'row')} is renamed:",
    "{in_words(as_now, 4)}."
  ))
  raw
}
