#' Autocorrelation
#'
#' How much a period has to do with those before it: the correlation of each series with itself so many periods earlier,
#' with the band that chance keeps to, partial autocorrelations, and a verdict.
#'
#' \eqn{r_k = c_k / c_0}{r[k] = c[k] / c[0]} with \eqn{c_k = \sum (x_t - \bar{x})(x_{t+k} - \bar{x}) / n}{c[k] = sum of
#' (x[t] - mean)(x[t+k] - mean) / n}. Where periods are missing, the sum is over the pairs that are there and \eqn{n} is
#' their number and \eqn{k}. Partial autocorrelations come from \eqn{r} by the Durbin-Levinson recursion. Many periods
#' and lags are multiplied through Fourier transforms.
#'
#' @section Verdict: `summary()` counts the lags outside the band and the probability that chance puts as many there
#'   (each by itself: the binomial distribution), and gives the statistic of Ljung and Box (1978) over the lags of one
#'   cycle, or 10, at most a quarter of the periods. There is structure where its p is below 0.05; it is seasonal where
#'   the coefficient of one cycle lies above the band and above those beside it.
#'
#' @inheritParams add_growth
#' @param lags How many lags: a number of periods or a length of time. By default two cycles, or where the periods have
#'   none \eqn{10 \log_{10} n}{10 log10(n)}.
#' @param partial `FALSE` leaves partial autocorrelations out.
#' @param level The share of coefficients of a series without structure that lie within the band.
#' @param band `"white noise"`: \eqn{\pm z / \sqrt{n}}{+- z / sqrt(n)}, for series without any structure; or `"large
#'   lag"`: \eqn{\pm z \sqrt{(1 + 2 \sum_{j<k} r_j^2) / n}}{+- z sqrt((1 + 2 sum of r[j]^2 below k) / n)} (Bartlett
#'   1946), for the lags behind the last that matters.
#' @return A tibble with a row for each series, measure and lag: `lag`, `cycles` (the lag in cycles), `coefficient`,
#'   `pairs`, `products` (the sum of the products of the pairs), `lower` and `upper` (the band), `outside`, and
#'   `partial`. `summary()` of it: `periods`, `lags`, `outside`, `expected` (as many by chance), `outside_p`,
#'   `ljung_box`, `ljung_box_lags`, `ljung_box_p`, `strongest` (lags), `seasonal` and `verdict`.
#' @section Errors: `backfill_error_input` where `x` is no periods table or has no figures; `backfill_error_over` for
#'   `lags`; `backfill_error_column`, `backfill_error_argument`.
#' @references Box, G. E. P. and Jenkins, G. M. (1976). *Time Series Analysis*, rev. ed. Holden-Day. Bartlett, M. S.
#'   (1946). On the theoretical specification of sampling properties of autocorrelated time series. *Supplement to the
#'   Journal of the Royal Statistical Society* 8, 27-41. Ljung, G. M. and Box, G. E. P. (1978). On a measure of lack of
#'   fit in time series models. *Biometrika* 65, 297-303.
#' @seealso [add_remainder()] for what is left without season and trend.
#' @examples
#' nights <- read_records(demo_file("guest-nights.csv"),
#'   when = "month", series = "island", measures = c(guest_nights = "flow")
#' )
#' memory <- autocorrelation(roll_up(nights, every = "month"))
#' memory
#' autoplot(memory)
#' @export
autocorrelation <- function(x, lags = NULL, partial = TRUE, level = 0.95, band = "white noise", of = "value") {
  x <- check_periods(x)
  check_flag(partial, "partial")
  check_share(level, "level", below = TRUE)
  check_one_of(band, c("white noise", "large lag"), "band")
  along <- along_series(x, of)
  if (all(is.na(along$value))) {
    abort_backfill("input", sprintf("Column \"%s\" has no figures.", of))
  }
  rows <- first_rows(along)
  cycle <- known_cycle(roles(x)$calendar)
  most <- lags_asked(lags, along, rows, cycle, roles(x)$calendar)
  made <- autocorrelation_cpp(along$series, along$number, along$value, most, partial)
  keys <- keys_at(x, along, rows$first)
  z <- stats::qnorm((1 + level) / 2)
  within <- band_of(made, z, band)
  out <- tibble::tibble(
    vctrs::vec_rep_each(keys, most), lag = rep(seq_len(most), nrow(keys)),
    cycles = if (is.null(cycle)) NA_real_ else .data$lag / cycle$length,
    coefficient = as.vector(made$coefficient), pairs = as.integer(made$pairs), products = as.vector(made$products),
    lower = -as.vector(within), upper = as.vector(within), outside = abs(.data$coefficient) > .data$upper
  )
  if (partial) {
    out$partial <- as.vector(made$partial)
  }
  new_result(out, "autocorrelation", list(
    calendar = roles(x)$calendar, series = roles(x)$series, measures = roles(x)$measures, sources = roles(x)$sources,
    cycle = cycle, level = level, band = band, of = of, most = most,
    count = tibble::tibble(keys, periods = as.integer(made$count), reach = as.integer(made$reach))
  ))
}

# The cycle that the periods have by themselves, or NULL.
known_cycle <- function(calendar) {
  cycle <- tryCatch(check_cycle(NULL, calendar), backfill_error = function(cnd) NULL)
  cycle[c("length", "words", "noun")]
}

lags_asked <- function(lags, along, rows, cycle, calendar, call = caller_env()) {
  longest <- max(tabulate(rows$line))
  if (is.null(lags)) {
    wanted <- max(2 * cycle$length, floor(10 * log10(max(longest, 2))))
    return(as.integer(max(1, min(wanted, longest - 1))))
  }
  count <- whole_periods(lags, calendar)
  if (is.null(count)) {
    stop_periods(lags, calendar, "lags", "over", call)
  }
  if (count >= longest) {
    abort_backfill("over", sprintf("`lags` is %s, but no series is longer than %s.", value_in_words(lags),
                                   count_of_periods(longest, calendar)), call = call)
  }
  as.integer(count)
}

# How far the band reaches from 0, by lag and series.
band_of <- function(made, z, band) {
  lags <- nrow(made$coefficient)
  count <- rep(made$count, each = lags)
  wider <- if (band == "large lag") {
    before <- apply(ifelse(is.na(made$coefficient), 0, made$coefficient)^2, 2, cumsum)
    1 + 2 * rbind(0, matrix(before, lags)[-lags, , drop = FALSE])
  } else {
    1
  }
  ifelse(is.na(made$coefficient), NA, z * sqrt(wider / count))
}

#' @rdname autocorrelation
#' @param object An autocorrelation.
#' @param ... Not used.
#' @export
summary.backfill_autocorrelation <- function(object, ...) {
  season <- attr(object, "season")
  rows <- tibble::new_tibble(as.list(object), nrow = nrow(object))
  keys <- rows[c(season$series, "measure")]
  lines <- vctrs::vec_unique(keys)
  line <- vctrs::vec_match(keys, lines)
  count <- vctrs::vec_slice(season$count, vctrs::vec_match(lines, season$count[names(lines)]))
  given <- !is.na(rows$coefficient)
  of_lines <- function(value) as.vector(rowsum(ifelse(given, value, 0), line))
  lags <- of_lines(rep(1, nrow(rows)))
  outside <- of_lines(as.numeric(rows$outside))
  n <- count$periods
  cycle <- season$cycle$length %||% 10L
  tested <- pmax(1, pmin(cycle, lags, n %/% 4))
  within <- given & rows$lag <= tested[line]
  q <- n * (n + 2) * as.vector(rowsum(ifelse(within, rows$coefficient^2 / (n[line] - rows$lag), 0), line))
  q[lags == 0] <- NA
  p <- stats::pchisq(q, tested, lower.tail = FALSE)
  seasonal <- seasonal_lines(rows, line, nrow(lines), season$cycle$length)
  strongest <- strongest_lags(rows, line, nrow(lines))
  new_result(tibble::tibble(
    lines, periods = n, lags = as.integer(lags), outside = as.integer(outside),
    expected = (1 - season$level) * lags,
    outside_p = stats::pbinom(outside - 1, lags, 1 - season$level, lower.tail = FALSE), ljung_box = q,
    ljung_box_lags = as.integer(tested), ljung_box_p = p, strongest = strongest, seasonal = seasonal & p < 0.05,
    verdict = ifelse(is.na(p), "too short to tell", ifelse(p >= 0.05, "no structure", ifelse(
      seasonal, "structure, seasonal", "structure, not seasonal"
    )))
  ), "memory", season)
}

# Whether the coefficient at one cycle lies above the band and no lower than those beside it.
seasonal_lines <- function(rows, line, lines, cycle) {
  if (is.null(cycle)) {
    return(rep(FALSE, lines))
  }
  at <- function(lag) {
    out <- rep(NA_real_, lines)
    here <- rows$lag == lag
    out[line[here]] <- rows$coefficient[here]
    out
  }
  upper <- rep(NA_real_, lines)
  upper[line[rows$lag == cycle]] <- rows$upper[rows$lag == cycle]
  beside <- pmax(at(cycle - 1), at(cycle + 1), na.rm = TRUE)
  found <- at(cycle) > upper & (is.na(beside) | at(cycle) >= beside)
  found %in% TRUE
}

# Up to three lags outside the band, the strongest first, as text.
strongest_lags <- function(rows, line, lines) {
  outside <- which(rows$outside)
  outside <- outside[order(line[outside], -abs(rows$coefficient[outside]), method = "radix")]
  rank <- seq_along(outside) - match(line[outside], line[outside]) + 1
  outside <- outside[rank <= 3]
  said <- vapply(split(rows$lag[outside], factor(line[outside], seq_len(lines))), paste, "", collapse = ", ")
  unname(said)
}
