#' Trend line
#'
#' The straight line through each series without its season, by least squares,
#' with how much of the variation it is and whether it is more than chance.
#'
#' Neighbouring periods are mostly alike, so that a series holds less
#' information than its number of periods suggests; and autocorrelation may hide
#' behind noise, where that of lag 1 hardly shows it. The residuals are
#' therefore taken to be, in turn, each of some 30 kinds: independent, an
#' autoregression of one lag, a random walk, each with more or less noise
#' beside. The variances that they give the slope are averaged, each weighted by
#' its restricted likelihood (Harville 1977) and a weight set beforehand:
#' \eqn{s^2}{s^2}. The series counts as \eqn{n_e = 2 + \mathrm{RSS} / (S_{tt}
#' s^2)}{ne = 2 + RSS / (Stt s^2)} independent figures, never more than it has,
#' so that the standard error of the slope is \eqn{\sqrt{\mathrm{RSS} / (n_e -
#' 2) / S_{tt}}}{sqrt(RSS / (ne - 2) / Stt)}, and \eqn{p} comes from Student's t
#' with \eqn{n_e - 2} degrees of freedom, or with 1 where these are fewer.
#'
#' Where a column still has a season, the printed sentences say so: where the
#' ranks of its positions differ at 1%. Of 600 simulated series of 60 and 120
#' months it was said of 0.3 to 0.5% of noise, of 2 to 5% with an
#' autocorrelation of 0.6, of 4 to 6% of random walks; and of 16 and 82% with a
#' season whose standard deviation is half that of the noise, of 91 and 100%
#' where they are alike.
#'
#' @inheritParams add_growth
#' @param of Name of the column, by default the one that [deseasonalise()] adds,
#'   or `value` where there is none.
#' @param confidence The share of cases in which the interval of the slope holds
#'   the true one.
#' @return A tibble with a row for each series and measure: `from` and `to` (the
#'   first and the last period with a figure), `n` (figures), `start` and `end`
#'   (of the line, at these), `slope` (per period), `slope_per_year`,
#'   `percent_per_year` (of the mean; `NA` where figures lie below zero),
#'   `slope_se` (the standard error of the slope), `lower` and `upper` (its
#'   interval), `p`, `r_squared`, `autocorrelation` and `n_effective`
#'   (\eqn{n_e}{ne}). `NA` where there are too few figures.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_column`; `backfill_error_argument`.
#' @eval rates_section("trend_line")
#' @references Harville, D. A. (1977). Maximum likelihood approaches to variance
#'   component estimation and to related problems. *Journal of the American
#'   Statistical Association* 72, 320-338.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' trend_line(deseasonalise(monthly))
#' @export
trend_line <- function(x, confidence = 0.95, of = NULL) {
  check_given()
  x <- check_periods(x)
  of <- of %||% if ("adjusted" %in% names(x)) "adjusted" else "value"
  along <- along_series(x, of)
  known <- which(!is.na(along$value))
  if (length(known) == 0) {
    abort_backfill("input", "Column \"{of}\" has no figures.")
  }
  first <- known[!duplicated(along$series[known])]
  last <- known[!duplicated(along$series[known], fromLast = TRUE)]
  found <- trend_cpp(
    along$series[known], along$number[known], along$value[known]
  )
  rownames(found) <- c(
    "level", "slope", "mean", "n", "r_squared", "autocorrelation",
    "n_effective", "slope_se"
  )
  fitted <- as.list(as.data.frame(t(found)))
  from <- along$number[first]
  to <- along$number[last]
  below <- along$series[known][along$value[known] < 0]
  ends <- trend_ends(
    fitted, from, to, along$calendar, !along$series[first] %in% below
  )
  out <- new_rows(
    keys_at(x, along, first),
    from = period_start(from, along$calendar),
    to = period_start(to, along$calendar), n = as.integer(fitted$n),
    ends, trend_chance(fitted, confidence),
    r_squared = fitted$r_squared,
    autocorrelation = fitted$autocorrelation,
    n_effective = fitted$n_effective
  )
  new_result(out, "trends", list(
    of = of, seasonal = seasonal_still(x, of), confidence = confidence,
    calendar = facts(x)$calendar,
    series = facts(x)$series, measures = facts(x)$measures,
    sources = facts(x)$sources, points = plain_tibble(x)[along$order[known], ]
  ))
}

# Whether the series still have a season, which hides a trend, by series and
# measure: a tibble of those that have one.
seasonal_still <- function(x, of) {
  taken_out <- identical(facts(x)$added[[of]]$verb, "deseasonalised")
  if (taken_out || is.null(known_cycle(facts(x)$calendar))) {
    return(NULL)
  }
  tests <- tryCatch(
    summary(seasonal_index(x, form = "additive", of = of)),
    backfill_error = function(cnd) NULL
  )
  if (is.null(tests)) {
    return(NULL)
  }
  keys <- c(facts(x)$series, "measure")
  plain_tibble(tests)[which(tests$ranks_p < 0.01), keys]
}

# Where the line starts and ends, and what it rises by: also of its mean, which
# is no measure of figures that lie on both sides of zero.
trend_ends <- function(fitted, from, to, calendar, above_zero) {
  slope <- fitted$slope
  years <- years_between(from, to, calendar)
  per_year <- ifelse(to > from, slope * (to - from) / years, NA_real_)
  new_rows(
    start = fitted$level, end = fitted$level + slope * (to - from),
    slope = slope,
    slope_per_year = per_year,
    percent_per_year = percent_above_zero(
      per_year, ifelse(above_zero, fitted$mean, NA)
    )
  )
}

# How sure the slope is, by as many values as the remainders are worth. Fewer
# than one degree of freedom count as one, whose limits are the widest that a
# test can have. Of a series of one value nothing is to be said.
trend_chance <- function(fitted, confidence) {
  slope <- fitted$slope
  se <- ifelse(is.na(fitted$r_squared), NA_real_, fitted$slope_se)
  free <- pmax(fitted$n_effective - 2, 1)
  reach <- se * stats::qt((1 + confidence) / 2, free)
  new_rows(
    slope_se = se, lower = slope - reach, upper = slope + reach,
    p = 2 * stats::pt(-abs(slope / se), free)
  )
}
