# What a periods table knows of its own layout, so that verbs in a row need not
# find it out again: how many rows each series has, one after the other and in
# order of period without a gap, the number of its first period, and the laid
# calendar. It holds for as long as the columns hold what it was found for,
# which is looked at each time: a column may be changed where it lies, as
# data.table does. Its `mark` tells, in some nanoseconds a row.

new_layout <- function(x, lengths, first, calendar) {
  list(
    mark = mark_of_rows(x), lengths = as.integer(lengths),
    first = as.double(first), calendar = calendar
  )
}

# Of what was looked at: of figures that is their type alone, as the same
# records in another order may give the last digit otherwise.
mark_of_rows <- function(x) {
  columns <- as.list(x)[facts(x)$needed]
  figures <- columns[c("value", "coverage")]
  exact <- columns[setdiff(names(columns), names(figures))]
  paste(
    c(names(columns), unlist(lapply(figures, class)), fingerprint_cpp(exact)),
    collapse = " "
  )
}

known_layout <- function(x) {
  layout <- facts(x)$layout
  if (!is.null(layout) && identical(layout$mark, mark_of_rows(x)) &&
      length(fault_of_range(x)) == 0) {
    layout
  }
}

with_layout <- function(x, lengths, first, calendar) {
  attr(x, "backfill")$layout <- new_layout(x, lengths, first, calendar)
  x
}

# The layout of rows in order of series and period; NULL where a period is
# missing between two others.
layout_of <- function(x, series, number, calendar) {
  last <- c(which(diff(series) != 0), length(series))
  lengths <- diff(c(0L, last))
  first <- number[last - lengths + 1L]
  if (length(series) > 0 && all(number[last] - first + 1 == lengths)) {
    new_layout(x, lengths, first, calendar)
  }
}

# The series and the period number of each row.
rows_of_layout <- function(layout) {
  rows_of_layout_cpp(layout$lengths, layout$first)
}
