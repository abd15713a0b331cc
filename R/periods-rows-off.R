# Rows of other periods of the same series: so many before, or a length of time.

# The rows of the periods that lie so far before those of `along`, or behind
# them where `sign` is 1.
rows_off <- function(along, distance, sign = -1, age = 0) {
  if (!is.null(distance$count)) {
    if (!isTRUE(distance$counted)) along$opened <- NULL
    among <- only_counted(along)
    found <- find_rows_cpp(
      among$series, among$number, among$value, -sign * distance$count,
      back = TRUE, max_age = age
    )
    return(of_each_row(among$rows[found], along))
  }
  wanted <- moved(distance, along$number, along$calendar, sign)
  find_rows_cpp(
    along$series, along$number, along$value, wanted, back = FALSE, max_age = age
  )
}

# The row so many periods before each, of those that are counted.
rows_before <- function(along, count = 1) {
  rows_off(along, list(count = count, counted = TRUE))
}

# How many rows are not counted, and so have no other period.
closed_rows <- function(along, distance) {
  if (isTRUE(distance$counted)) sum(is.na(along$opened)) else 0L
}

with_closed <- function(withheld, closed) {
  c(withheld, if (closed > 0) c("nothing is expected in the period" = closed))
}
