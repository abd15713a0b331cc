#' List the gaps: runs of periods without a value
#'
#' @param x A periods table, from [roll_up()].
#' @return A tibble with a row for each run: the series columns, `measure`,
#'   `from` and `to` (the starts of the first and last period of the run),
#'   `periods` (how many), and `place`: `"before"` the series' first value,
#'   `"within"`, or `"after"` its last one. Periods without a row in the table
#'   count as missing, as long as another series has them. It prints with a
#'   sentence.
#' @section Errors: `backfill_error_input` where `x` is not a periods table.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' gaps(roll_up(nights, every = "month"))
#' @export
gaps <- function(x) {
  x <- check_periods(x)
  check_not_empty(x)
  along <- along_series(x, "value")
  grid <- along_grid(along, x$value[along$order])
  missing <- is.na(grid$value)
  # A run starts where a missing period follows a value or another series.
  first <- missing & (
    grid$number == min(along$number) | c(TRUE, !missing[-length(missing)])
  )
  run <- cumsum(first)[missing]
  start <- which(first)
  length <- tabulate(run, length(start))
  known <- which(!missing)
  lowest <- known[match(grid$series, grid$series[known])]
  highest <- rev(known)[match(grid$series, rev(grid$series[known]))]
  row <- along$order[match(grid$series[start], along$series)]
  out <- new_rows(
    vctrs::vec_slice(keys_of(x), row),
    from = period_start(grid$number[start], along$calendar),
    to = period_start(grid$number[start] + length - 1, along$calendar),
    periods = length,
    place = as.character(ifelse(
      is.na(lowest[start]) | start < lowest[start], "before",
      ifelse(start > highest[start], "after", "within")
    ))
  )
  new_result(out, "gaps", c(
    facts(x)[c("calendar", "series", "measures", "sources")],
    several = several_measures(x), list(
      ends = period_start(range(along$number) + 0:1, along$calendar)
    )
  ))
}

# Every series over all periods of the table, whether they have a row or not:
# `series`, `number`, and the `value` of the sorted rows.
along_grid <- function(along, value) {
  ends <- range(along$number)
  count <- diff(ends) + 1
  lines <- unique(along$series)
  grid <- list(
    series = rep(lines, each = count),
    number = rep(seq(ends[[1]], ends[[2]]), length(lines))
  )
  grid$row <- (match(
    along$series, lines
  ) - 1) * count + along$number - ends[[1]] + 1
  grid$value <- rep(NA_real_, length(grid$series))
  grid$value[grid$row] <- value
  grid
}
