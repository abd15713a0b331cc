#' Time series and matrices of base R
#'
#' The figures of a periods table as base R has them, for what else R can do
#' with them: a time series whose unit is the cycle of its periods (a year of
#' months or quarters, a week of days), or a matrix with a row for each period.
#'
#' Neither has standings, so figures of periods that are not whole are `NA`
#' unless `partial` keeps them; periods that are missing are `NA`.
#'
#' @param x A periods table, from [roll_up()].
#' @param of Name of the column of figures.
#' @param partial `TRUE` keeps the figures of partial periods.
#' @param ... Not used.
#' @return `as.ts()`: a time series; of several series or measures one with a
#'   column for each, named as in sentences. Months and quarters of calendar
#'   years start at their year and place in it, other periods at 1.
#'   `as.matrix()`: a matrix with a row for each period, named by its label, and
#'   a column for each series and measure. [as.data.frame()] gives the rows as
#'   they are, without what a periods table knows of them.
#' @section Errors: `backfill_error_input` where `x` has no rows;
#'   `backfill_error_column` where `of` is not a column of figures.
#' @seealso [as_records()] for the way back, [widen()] for a table to read.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' stats::window(stats::as.ts(monthly), start = c(2031, 6))
#' head(as.matrix(monthly), 3)
#' @name as.ts.backfill_periods
#' @concept ts
NULL

#' @rdname as.ts.backfill_periods
#' @rawNamespace S3method(stats::as.ts, backfill_periods)
as.ts.backfill_periods <- function(x, of = "value", partial = FALSE, ...) {
  grid <- as.matrix(x, of = of, partial = partial)
  calendar <- facts(x)$calendar
  per_cycle <- known_cycle(calendar)$length %||% 1L
  first <- min(x$period)
  in_year <- calendar$number == 1 && calendar$year_start == 1 &&
    calendar$unit %in% c("month", "quarter")
  date <- as.POSIXlt(named_by(first, calendar))
  start <- if (in_year) {
    c(1900L + date$year, date$mon * per_cycle %/% 12L + 1L)
  } else if (calendar$unit == "year" && calendar$number == 1) {
    1900L + date$year
  } else {
    1L
  }
  rownames(grid) <- NULL
  stats::ts(
    if (ncol(grid) == 1) grid[, 1] else grid, start = start,
    frequency = per_cycle
  )
}

#' @rdname as.ts.backfill_periods
#' @export
as.matrix.backfill_periods <- function(
  x, of = "value", partial = FALSE, ...
) {
  wide <- widen(x, side = "series", of = of, partial = partial)
  out <- do.call(cbind, as.list(wide)[-1])
  rownames(out) <- period_label(wide$period, facts(x)$calendar)
  out
}
