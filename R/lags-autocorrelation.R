#' Autocorrelation
#'
#' How much a period has to do with those before it: the correlation of each
#' series with itself so many periods earlier, with the band that chance keeps
#' to, partial autocorrelations, and a verdict.
#'
#' \eqn{r_k = c_k / c_0}{r[k] = c[k] / c[0]} with
#' \eqn{c_k = \sum (x_t - \bar{x})(x_{t+k} - \bar{x}) / n}{c[k] = sum of (x[t] -
#' mean)(x[t+k] - mean) /
#' n}. Where periods are missing, the sum is over the \eqn{m_k}{m[k]} pairs that
#' are there and \eqn{n} is their number and \eqn{k}. Partial autocorrelations
#' come from \eqn{r} by the Durbin-Levinson recursion. Those of a series with
#' gaps can come out beyond 1, as can the coefficients themselves: these are
#' withheld, and partial ones from there on. Many periods and lags are
#' multiplied through Fourier transforms.
#'
#' Of independent values \eqn{r_k}{r[k]} has the standard error
#' \eqn{s_k = \sqrt{m_k n / (n + 2)} / (m_k + k)}{s[k] = sqrt(m[k] n / (n + 2))
#' / (m[k] + k)}, which is \eqn{\sqrt{(n - k) / (n (n + 2))}}{sqrt((n - k) / (n
#' (n + 2)))} where no period is missing: it becomes smaller with the lag, and
#' the band with it. A coefficient of fewer than 5 pairs has no band and is not
#' judged.
#'
#' @section Verdict: `summary()` counts the lags outside the band, how many
#'   would be outside by chance, and the probability that chance puts as many
#'   there (each by itself: the binomial distribution); and gives the statistic
#'   of Ljung and Box (1978) over the lags of one cycle, or 10, at most a
#'   quarter of the periods.
#'
#'   There is structure where `p` is below 0.05. It is the smallest p of the
#'   lags up to a quarter of the periods, each divided by the lag's weight: 0.75
#'   for lag 1, 0.125 for one cycle, the rest for all others alike (Bonferroni
#'   with weights). Where squares of the values are correlated at a lag, as
#'   where some months vary far more than others, the error there is wider by
#'   \eqn{\sqrt{1 + q_k}}{sqrt(1 + q[k])} with \eqn{q_k}{q[k]} the covariance of
#'   the squares over that of independent ones (Taylor 1984). The p of a lag is
#'   that of
#'   \eqn{(r_k - \mathrm{E} r_k) / s_k}{(r[k] - E r[k]) / s[k]} as a normal
#'   deviate, with
#'   \eqn{\mathrm{E} r_k = -m_k / ((m_k + k)(n - 1))}{E r[k] = -m[k] / ((m[k] +
#'   k)(n - 1))}. Structure is seasonal where, around the centred average over a
#'   cycle, which takes a trend out, the coefficient of one cycle is above 0 at
#'   99%, no more than a standard error below those beside it, and at two cycles
#'   no more below those two periods from it; of series of
#'   fewer than three cycles, where that of the values lies above the band and
#'   those beside it. Where only the first shows it, the verdict says that the
#'   trend hides it.
#'
#'   Fewer than 8 values, or no lag with 5 pairs, are too short to tell; a
#'   series of one value throughout is constant.
#'
#' @eval rates_section("autocorrelation")
#'
#' @inheritParams add_growth
#' @param lags How many lags: a number of periods or a length of time. By
#'   default two cycles, or where the periods have none
#'   \eqn{10 \log_{10} n}{10 log10(n)}, and of each series at most a quarter of
#'   its periods and none of fewer than 5 pairs.
#' @param partial_coefficients `FALSE` leaves partial autocorrelations out.
#' @param confidence The share of coefficients of a series without structure
#'   that lie within the band.
#' @param limits `"white noise"`: \eqn{\pm z s_k}{+- z s[k]}, for series without
#'   any structure; or `"large lag"`:
#'   \eqn{\pm z s_k \sqrt{1 + 2 \sum_{j<k} r_j^2}}{+- z s[k] sqrt(1 + 2 sum of
#'   r[j]^2 below k)} (Bartlett 1946), for the lags after the last that matters.
#' @return A tibble with a row for each series, measure and lag: `lag`, `cycles`
#'   (the lag in cycles), `coefficient`, `pairs`, `products` (the sum of the
#'   products of the pairs), `lower` and `upper` (the band), `outside`, and
#'   `partial_coefficient`. `summary()` of it: `periods`, `lags` (those with a
#'   band), `outside`, `expected` (as many by chance), `outside_p`, `ljung_box`,
#'   `ljung_box_lags`, `ljung_box_p`, `strongest` (lags), `p`, `seasonal`,
#'   `hidden` (by the trend), `around_trend` (the coefficient of one cycle
#'   without it) and `verdict`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table or
#'   has no figures; `backfill_error_over` for `lags`; `backfill_error_column`,
#'   `backfill_error_argument`.
#' @references Box, G. E. P. and Jenkins, G. M. (1976). *Time Series Analysis*,
#'   rev. ed. Holden-Day. Bartlett, M. S. (1946). On the theoretical
#'   specification of sampling properties of autocorrelated time series.
#'   *Supplement to the Journal of the Royal Statistical Society* 8, 27-41.
#'   Ljung, G. M. and Box, G. E. P. (1978). On a measure of lack of fit in time
#'   series models. *Biometrika* 65, 297-303. Taylor, S. J. (1984). Estimating
#'   the variances of autocorrelations calculated from financial time series.
#'   *Applied Statistics* 33, 300-308.
#' @seealso [add_remainder()] for what is left without season and trend.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' memory <- autocorrelation(roll_up(nights, every = "month"))
#' memory
#' autoplot(memory)
#' @concept correlogram
#' @export
autocorrelation <- function(
  x, lags = NULL, partial_coefficients = TRUE, confidence = 0.95,
  limits = "white noise",
  of = "value"
) {
  check_given()
  x <- check_periods(x)
  along <- along_open(x, of)
  if (all(is.na(along$value))) {
    abort_backfill("input", "Column \"{of}\" has no figures.")
  }
  rows <- first_rows(along)
  cycle <- open_cycle(x)
  most <- lags_asked(lags, along, rows, cycle, facts(x)$calendar)
  made <- autocorrelation_cpp(
    along$series, along$number, along$value, most, partial_coefficients
  )
  if (is.null(lags)) {
    made <- within_quarter(made, most)
  }
  keys <- keys_at(x, along, rows$first)
  within <- stats::qnorm((1 + confidence) / 2) * lag_errors(made) *
    large_lag(made, limits)
  lag <- rep(seq_len(most), nrow(keys))
  coefficient <- as.vector(made$coefficient)
  upper <- as.vector(within)
  out <- new_rows(
    vctrs::vec_rep_each(keys, most), lag = lag,
    cycles = if (is.null(cycle)) NA_real_ else lag / cycle$length,
    coefficient = coefficient, pairs = as.integer(made$pairs),
    products = as.vector(made$products), lower = -upper, upper = upper,
    outside = abs(coefficient) > upper
  )
  if (partial_coefficients) {
    out$partial_coefficient <- as.vector(made$partial)
  }
  new_result(out, "autocorrelation", list(
    calendar = facts(x)$calendar, series = facts(x)$series,
    measures = facts(x)$measures, sources = facts(x)$sources,
    cycle = cycle, confidence = confidence, limits = limits, of = of,
    most = most,
    wider = new_rows(
      vctrs::vec_rep_each(keys, most), lag = lag,
      wider = as.vector(widening(along, along$value, most))
    ),
    count = new_rows(
      keys, periods = as.integer(made$count), reach = as.integer(made$reach),
      constant = made$squares == 0, at_cycle(along, made, cycle$length)
    )
  ))
}

# The same in the periods that are open: a week of a market has five days.
open_cycle <- function(x) {
  calendar <- facts(x)$calendar
  cycle <- known_cycle(calendar)
  cadences <- facts(x)$cadences$cadences
  if (is.null(cycle) || period_seconds(calendar) != 86400 ||
        calendar$unit == "working day" || any(is_irregular(cadences))) {
    return(cycle)
  }
  open <- sum(bitwAnd(Reduce(bitwOr, cadences$weekdays), 2L^(0:6)) > 0)
  if (cycle$length == 7) cycle$length <- open
  cycle
}

lags_asked <- function(lags, along, rows, cycle, calendar) {
  longest <- max(tabulate(rows$line))
  if (is.null(lags)) {
    wanted <- max(2 * cycle$length, floor(10 * log10(max(longest, 2))))
    return(as.integer(max(1, min(wanted, longest %/% 4))))
  }
  count <- whole_periods(lags, calendar)
  if (is.null(count)) {
    stop_periods(lags, calendar, "lags", "over")
  }
  if (count >= longest) {
    abort_backfill(
      "over",
      "`lags` is {value_in_words(lags)}, but no series is longer than",
      "{count_of_periods(longest, calendar)}."
    )
  }
  as.integer(count)
}

# Fewer pairs than these are a handful, of which nothing follows.
least_pairs <- 5

# Of each series the lags up to a quarter of it, and of enough pairs.
within_quarter <- function(made, most) {
  reach <- matrix(
    pmax(1, made$reach %/% 4), most, length(made$reach), byrow = TRUE
  )
  left <- matrix(
    seq_len(most), most, length(made$reach)
  ) > reach | made$pairs < least_pairs
  for (part in c("coefficient", "products", "partial")) {
    made[[part]][left] <- NA
  }
  made
}

# The standard error of each coefficient, if the values are independent, by lag
# and series.
lag_errors <- function(made) {
  lags <- nrow(made$coefficient)
  n <- rep(made$count, each = lags)
  error <- sqrt(made$pairs * n / (n + 2)) / (made$pairs + seq_len(lags))
  error[is.na(made$coefficient) | made$pairs < least_pairs] <- NA
  error
}

# How much wider the errors are by lag and series where figures that lie far off
# follow each other, as where some positions of the cycle vary more than others:
# products of far figures vary more (Taylor 1984). Only where squares hang
# together at that lag, at 95%.
widening <- function(along, value, most) {
  known <- !is.na(value)
  mean <- rowsum(ifelse(known, value, 0), along$series) /
    rowsum(as.double(known), along$series)
  square <- (value - mean[match(along$series, rownames(mean)), 1])^2
  found <- autocorrelation_cpp(
    along$series, along$number, square, most, FALSE
  )
  together <- found$coefficient > stats::qnorm(0.95) * lag_errors(found)
  # Over the product of two mean squares, which is their variance if not.
  usual <- rowsum(ifelse(known, square, 0), along$series) /
    rowsum(as.double(known), along$series)
  more <- found$products / (found$pairs * rep(usual^2, each = most))
  more[!together | is.na(together)] <- 0
  sqrt(1 + more)
}

# How much further the band reaches after lags that matter.
large_lag <- function(made, limits) {
  if (limits != "large lag") {
    return(1)
  }
  lags <- nrow(made$coefficient)
  before <- apply(
    ifelse(is.na(made$coefficient), 0, made$coefficient)^2, 2, cumsum
  )
  sqrt(1 + 2 * rbind(0, matrix(before, lags)[-lags, , drop = FALSE]))
}

# What the lag of one cycle says, by series: its coefficient (`own`), the band
# there, the higher of the coefficients beside it, and its number of pairs;
# the same around the centred average over a cycle, which takes a trend out; and
# by how many errors that of two cycles lies below those two places from it, as
# it does where the true cycle is a little shorter or longer. NA of series of
# fewer than three cycles.
at_cycle <- function(along, made, cycle) {
  none <- rep(NA_real_, length(made$count))
  long <- !is.null(cycle) & made$reach >= 3 * (cycle %||% 0)
  if (!any(long)) {
    return(
      new_rows(
        own = none, own_band = none, own_beside = none, own_pairs = none,
        own_wider = none, around = none, around_band = none,
        around_beside = none, twice_below = none
      )
    )
  }
  level <- moving(
    along, list(count = as.integer(cycle)), "mean", "centred", NULL, 0.5
  )$value
  plain <- peak_at(along, along$value, cycle, long)
  level_out <- peak_at(along, along$value - level, cycle, long)
  new_rows(
    own = plain$coefficient, own_band = plain$band, own_beside = plain$beside,
    own_pairs = plain$pairs,
    own_wider = widening(along, along$value, as.integer(cycle))[cycle, ],
    around = level_out$coefficient,
    around_band = level_out$band, around_beside = level_out$beside,
    twice_below = level_out$twice_below
  )
}

peak_at <- function(along, value, cycle, long) {
  found <- autocorrelation_cpp(
    along$series, along$number, value, as.integer(2 * cycle + 2), FALSE
  )
  at <- function(lag) {
    ifelse(
      long & found$pairs[lag, ] >= least_pairs, found$coefficient[lag, ],
      NA_real_
    )
  }
  list(
    coefficient = at(cycle),
    band = stats::qnorm(0.975) * lag_errors(found)[cycle, ],
    pairs = found$pairs[cycle, ],
    beside = pmax(at(cycle - 1), at(cycle + 1), na.rm = TRUE),
    twice_below = (
      pmax(at(2 * cycle - 2), at(2 * cycle + 2), na.rm = TRUE) - at(2 * cycle)
    ) / lag_errors(found)[2 * cycle, ]
  )
}
