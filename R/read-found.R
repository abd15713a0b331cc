# What a reading is not told is found, as inspect_file() finds it, and told.

# Which of the columns of dates and of figures a reading lacks: a grid knows its
# own axis of time, as do dates across.
roles_lacking <- function(file, given) {
  undated <- is.null(given$when) && !identical(given$layout, "dates across") &&
    !is_grid(file)
  c(if (is.null(given$measures)) "measures", if (undated) "when")
}

is_grid <- function(file) {
  if (!is.character(file) || length(file) == 0) {
    return(FALSE)
  }
  first <- if (file.exists(file[[1]])) file[[1]] else Sys.glob(file[[1]])[1]
  !is.na(first) && file_kind_cpp(first) == "regular" &&
    file_format(first) == "netcdf"
}

# A pipe or a device can be read but once, and so not looked through first.
read_once <- function(file) {
  vapply(file, function(one) file_kind_cpp(one) == "other", NA)
}

# Records of `file`; `given` are the arguments that a call has, which are never
# overruled.
read_as_found <- function(file, given) {
  found <- settled_found(do.call(inspect_file, c(list(file), given)))
  rlang::inform(
    c(
      roles_in_words(found),
      stats::setNames(
        as.character(found$notes), rep("i", length(found$notes))
      ),
      ">" = "Said in full:", found$call
    ),
    class = "backfill_message_found"
  )
  found$records
}

# Two readings that give different figures are for the user to decide between.
settled_found <- function(found) {
  open <- intersect(found$undecided, c("date_order", "decimal_mark"))
  if (length(open) > 0 || is.null(found$records)) {
    found$arguments[open] <- NULL
    found$records <- do.call(read_records, c(
      list(found$file), found$arguments
    ))
  }
  found
}

# "Read as: day the date, mill the series, sacks a flow, water a level."
roles_in_words <- function(found) {
  of <- function(role) found$columns$column[found$columns$role == role]
  kinds <- vapply(found$arguments$measures, function(one) {
    parts <- stated_parts(one)
    paste(c(parts$kind, if (!is.null(parts$unit)) c("in", parts$unit)),
          collapse = " ")
  }, "")
  series <- c(of("series"), of("series across"))
  sprintf("Read as: %s.", in_words(c(
    if (length(of("date")) > 0) paste(in_words(of("date")), "the date"),
    if (length(series) > 0) paste(in_words(series, 4), "the series"),
    paste(names(kinds), "a", kinds)
  ), 8))
}
