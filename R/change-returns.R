#' Add returns
#'
#' What a level gained or lost from one period to the next: simple returns \eqn{x_t / x_{t-1} - 1}{x[t] / x[t-1] - 1},
#' in percent, or log returns \eqn{\ln(x_t / x_{t-1})}{ln(x[t] / x[t-1])}; or what these have come to since the start of
#' the series: the wealth of 1 invested, \eqn{x_t / x_1}{x[t] / x[1]}, or the drawdown from the highest value so far,
#' \eqn{x_t / \max_{s \le t} x_s - 1}{x[t] / max(x[1..t]) - 1}, in percent.
#'
#' Simple returns are compounded over time and averaged over series; log returns are added up over time.
#'
#' A return goes back to the latest whole value before, as a market has none on the days on which it is closed; how many
#' returns span more than one period is told. None is given (`NA`) for the first value of a series, for partial and
#' empty periods, and where a value is zero or negative.
#'
#' [summary()][summary.backfill_periods] has what the returns of a series come to in a year: the compound mean
#' \eqn{(x_n / x_1)^{k/(n-1)} - 1}{(x[n] / x[1])^(k / (n - 1)) - 1} and the volatility \eqn{s \sqrt{k}}{s sqrt(k)}, with
#' \eqn{s} the standard deviation of the returns and \eqn{k} their number per year, found from the calendar: the number
#' of returns over the years between the first and the last value.
#'
#' @inheritParams add_growth
#' @param type `"simple"` or `"log"`.
#' @param total `"none"` for the returns of periods, `"wealth"` or `"drawdown"` for what they come to so far.
#' @param name Name of the new column: by default `"return"`, `"log_return"`, `"wealth"` or `"drawdown"`.
#' @return The table with one column more.
#' @section Errors: `backfill_error_input` where `x` is no periods table or has no level, `backfill_error_column`,
#'   `backfill_error_argument`.
#' @references Campbell, J. Y., Lo, A. W. and MacKinlay, A. C. (1997). *The Econometrics of Financial Markets*, chapter
#'   1. Princeton University Press.
#' @examples
#' auction <- read_records(demo_file("fish-auction.csv"), when = "date", series = "species", duplicates = "last",
#'   measures = c(close = "level")
#' )
#' weekly <- add_returns(roll_up(auction, every = "week", use = "last", enough = 0.5))
#' summary(weekly)
#' @export
add_returns <- function(x, type = "simple", total = "none", of = "value", name = NULL) {
  x <- check_periods(x)
  check_one_of(type, c("simple", "log"), "type")
  check_one_of(total, c("none", "wealth", "drawdown"), "total")
  column <- if (total != "none") total else if (type == "log") "log_return" else "return"
  name <- check_new_name(name %||% column, x)
  kinds <- vapply(roles(x)$measures, `[[`, "", "kind")
  along <- along_series(x, of)
  level <- kinds[x$measure[along$order]] %in% c("level", "ratio")
  if (!any(level)) {
    abort_backfill("input", "The table has no level.",
                   i = "A return is what a level, such as a price, gains; of a flow there is growth: add_growth().")
  }
  value <- along$value
  value[!level] <- NA
  made <- returns_cpp(along$series, along$number, value, match(column, return_types) - 1L)
  counts <- made$counts
  note <- list(
    verb = "returns", of = of, type = column, longer = counts[["longer"]],
    unit = if (column %in% c("return", "drawdown")) "%",
    withheld = c(
      "the measure is no level" = sum(!level), "it is the series' first value" = counts[["first"]],
      "the period is not whole" = counts[["not_whole"]] - sum(!level),
      "a value is zero or negative" = counts[["not_positive"]]
    )
  )
  add_column(x, name, made$value, along, note)
}

# In the order of enum class Return in src/kernels/returns.h.
return_types <- c("return", "log_return", "wealth", "drawdown")
