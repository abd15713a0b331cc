#' Add the remainder
#'
#' What is left of each value without its season and its trend: with \eqn{s} the
#' seasonal index and \eqn{l} the straight line through the values without the
#' season, \eqn{x / (s\,l) - 1}{x / (s l) - 1} where the index is multiplicative
#' (a share of what was expected), else \eqn{x - s - l}{x - s - l}. Ready for
#' [autocorrelation()].
#'
#' Season and line are those of the whole span, so that a remainder knows of
#' later periods.
#'
#' @inheritParams add_growth
#' @param index A seasonal index, from [seasonal_index()]; by default that of
#'   the table itself, multiplicative.
#' @param name Name of the new column.
#' @return The table with one column more.
#' @section Errors: As those of [seasonal_index()] and [deseasonalise()];
#'   `backfill_error_season` where the line falls to zero or below and the index
#'   is multiplicative. Of several series those whose line does have none, with
#'   a warning of class `backfill_warning_season`.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), when = "month", series = "inn",
#'   measures = c(guest_nights = "flow")
#' )
#' autocorrelation(
#'   add_remainder(roll_up(nights, every = "month")), of = "remainder"
#' )
#' @export
add_remainder <- function(x, index = NULL, of = "value", name = "remainder") {
  x <- check_periods(x)
  check_new_name(name, x)
  index <- index %||% seasonal_index(x, of = of)
  along <- along_series(x, of)
  ratio <- check_index(index, x)$form == "multiplicative"
  made <- made_with_index(index)
  own <- index_along(made, x, along)
  level <- if (ratio) along$value / own else along$value - own
  line <- trend_cpp(along$series, along$number, level)
  rows <- first_rows(along)
  fitted <- line[1, rows$line] + line[2, rows$line] * (
    along$number - along$number[rows$first][rows$line]
  )
  if (ratio) {
    fitted <- above_zero(
      fitted, !is.na(level), rows$line, keys_at(x, along, rows$first),
      "The line of the trend falls",
      "Make the index with `form` as \"additive\"."
    )
  }
  value <- if (ratio) level / fitted - 1 else level - fitted
  note <- new_note(
    "remainder", of, "remainder of {of} without season and trend",
    drifts = FALSE,
    unit = if (!ratio) facts(x)$added[[of]]$unit,
    made = made,
    withheld = c(
      "the period is not whole, or there is no index" = sum(is.na(value))
    )
  )
  add_column(x, name, value, along, note)
}
