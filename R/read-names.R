# The names of columns and series as they are kept: one line each, and none
# rounded.

# Columns whose names are one line each.
with_plain_names <- function(raw) {
  names(raw$data) <- one_line(names(raw$data))
  raw$header <- lapply(raw$header, one_line)
  raw$series <- if (!is.null(raw$series)) one_line(raw$series)
  raw
}

# list(table, note): the names of series as one line each.
series_on_one_line <- function(table, series, call) {
  mended <- 0
  for (column in series) {
    x <- table[[column]]
    names <- if (is.factor(x)) levels(x) else if (is.character(x)) unique(x)
    plain <- one_line(names)
    changed <- plain != names & !is.na(names)
    if (any(changed)) {
      if (anyDuplicated(plain)) {
        abort_backfill(
          "column", sprintf(
            "Two series in column \"%s\" are called alike but for line ends.",
            column
          ),
          call = call
        )
      }
      table[[column]] <- if (is.factor(x)) {
        factor(plain[x], plain)
      } else {
        plain[match(x, names)]
      }
      mended <- mended + sum(changed)
    }
  }
  list(table = table, note = if (mended > 0) sprintf(
    "Line ends in %s of series are written as \\n.", count_of(mended, "name")
  ))
}
