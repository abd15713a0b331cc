# The names of columns and series as they are kept: one line each, and none
# rounded.

# Columns whose names are one line each.
with_plain_names <- function(raw) {
  names(raw$data) <- one_line(names(raw$data))
  raw$header <- lapply(raw$header, one_line)
  raw$series <- if (!is.null(raw$series)) one_line(raw$series)
  raw
}

# Rows that name no series are one of their own.
nameless_note <- function(table, series) {
  count <- vapply(series, function(column) {
    x <- table[[column]]
    sum(is.na(x) | if (is.character(x)) !nzchar(x) else FALSE)
  }, 0)
  sprintf(
    "%s no name in \"%s\", and %s taken for a series of %s own.",
    vapply(count, count_of, "", "row has", "rows have"), series,
    ifelse(count == 1, "is", "are"), ifelse(count == 1, "its", "their")
  )[count > 0]
}

# list(table, note): the names of series as one line each, and what is said of
# them.
series_on_one_line <- function(table, series) {
  mended <- 0
  alike <- character()
  for (column in series) {
    x <- table[[column]]
    names <- if (is.factor(x)) {
      levels(x)
    } else if (is.character(x)) {
      distinct_texts_cpp(x)$text
    }
    plain <- one_line(names)
    changed <- plain != names & !is.na(names)
    if (any(changed)) {
      if (anyDuplicated(plain)) {
        abort_backfill(
          "column",
          "Two series in column \"{column}\" are called alike but for line",
          "ends."
        )
      }
      table[[column]] <- if (is.factor(x)) {
        factor(plain[x], plain)
      } else {
        plain[match(x, names)]
      }
      mended <- mended + sum(changed)
    }
    alike <- c(alike, names_alike_note(column, plain, table[[column]]))
  }
  list(table = table, note = c(if (mended > 0) sprintf(
    "Line ends in %s of series are written as \\n.", count_of(mended, "name")
  ), alike))
}
