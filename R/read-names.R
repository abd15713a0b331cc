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

# Integers that name series and are too long for a double are names: as numbers
# two of them would be one.
with_long_names <- function(data, series, call) {
  for (name in series) {
    x <- data[[name]]
    if (inherits(x, "integer64")) {
      need_package("bit64", "to read 64-bit integers", call)
      rounded <- suppressWarnings(bit64::as.double.integer64(x))
      if (inexact(rounded)) data[[name]] <- bit64::as.character.integer64(x)
    }
  }
  data
}
