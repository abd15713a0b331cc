#' Add a smoothed level
#'
#' Exponential smoothing: a mean of all earlier periods in which each counts
#' less than the one after it,
#' \eqn{s_t = s_{t-1} + \alpha (x_t - s_{t-1})}{s[t] = s[t-1] + alpha (x[t] -
#' s[t-1])}. It starts with the series' first whole value, \eqn{s_1 = x_1}{s[1]
#' = x[1]}, which therefore weighs heavily on the first few periods.
#'
#' Where a period has no whole value nothing is given, and the level stays as it
#' was.
#'
#' @inheritParams add_growth
#' @param half_life After how long a period counts half as much: a number of
#'   periods, not necessarily whole, or a length of time.
#'   \eqn{\alpha = 1 - 2^{-1/h}}{alpha = 1 - 2^(-1/h)}.
#' @param alpha The weight of the latest period, above 0 and up to 1; instead of
#'   `half_life`.
#' @param name Name of the new column.
#' @return The table with one column more, in the unit of `of`.
#' @section Errors: `backfill_error_input`, `backfill_error_column`,
#'   `backfill_error_over` for a half-life that the periods have no rule for,
#'   `backfill_error_argument` where not exactly one of `half_life` and `alpha`
#'   is given.
#' @references Brown, R. G. (1959). *Statistical Forecasting for Inventory
#'   Control*. McGraw-Hill.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' add_smoothed(roll_up(nights, every = "month"), half_life = 3)
#' @concept exponential smoothing
#' @export
add_smoothed <- function(
  x, half_life = NULL, alpha = NULL, of = "value", name = "smoothed"
) {
  x <- check_periods(x)
  if (is.null(half_life) == is.null(alpha)) {
    abort_backfill("argument", "Give one of `half_life` and `alpha`.")
  }
  if (is.null(alpha)) {
    number <- is.numeric(half_life) && length(half_life) == 1 &&
      is.finite(half_life) && half_life > 0
    periods <- if (number) {
      half_life
    } else {
      whole_periods(half_life, facts(x)$calendar)
    }
    if (is.null(periods)) {
      stop_periods(half_life, facts(x)$calendar, "half_life", "over")
    }
    alpha <- 1 - 2^(-1 / periods)
    said <- paste("half-life", if (number) {
      count_of_periods(periods, facts(x)$calendar)
    } else {
      half_life
    })
  } else {
    check_share(alpha, "alpha")
    said <- sprintf("alpha %s", plain_format(alpha))
  }
  check_new_name(name, x)
  along <- along_series(x, of)
  value <- smooth_cpp(along$series, along$value, alpha)
  note <- new_note(
    "smoothed", of, paste0("smoothed {of}, ", said),
    made = list(alpha = alpha),
    unit = facts(x)$added[[of]]$unit,
    withheld = c("the period is not whole" = sum(is.na(value)))
  )
  add_column(x, name, value, along, note)
}
