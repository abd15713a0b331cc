#' Which of two series leads
#'
#' The correlation of one series with another some periods later or earlier, on
#' changes from period to period (so that a common trend is not taken for a
#' link), with a band that allows for the structure of both.
#'
#' Each coefficient is Pearson's correlation of the pairs that there are at its
#' lag, about their own means, and so lies between -1 and 1; it is that of
#' [stats::cor()] on those rows. Fewer than 5 pairs give none.
#'
#' At a lag of 2 the coefficient is that of `first` with `second` two periods
#' later: a peak there says that `first` leads by two periods. The band is
#' \eqn{\pm z \sqrt{(1 + 2 \sum_k r_k s_k) / m}}{+- z sqrt((1 + 2 sum of r[k]
#' s[k]) / m)} with the autocorrelations of both (Bartlett 1935) and the \eqn{m}
#' pairs at the lag, and no narrower than that of white noise.
#'
#' One of the two is said to lead where the coefficient that lies furthest out
#' would do so by chance in fewer than 5 of 100 cases among so many lags,
#' \eqn{p = 1 - (1 - p_1)^m}{p = 1 - (1 - p1)^m} of \eqn{m} lags (Sidak 1967),
#' and where not both have a season (as [flag_periods()] finds it), which makes
#' lags stand out by itself. A lead with a correlation of 0.7 was found in 57,
#' 93 and 99 of 100 simulated pairs of 36, 60 and 120 months.
#'
#' @eval rates_section("cross_correlation")
#'
#' @inheritParams autocorrelation
#' @param first,second Names of two lines of the table: of their series, or
#'   measures, or both with `" / "` between them.
#' @param lags How many lags to either side: a number of periods or a length of
#'   time. By default one cycle, or where the periods have none
#'   \eqn{10 \log_{10} n}{10 log10(n)}, at most a quarter of the periods.
#' @param on What is correlated: `"differences"` from the period before, or
#'   `"values"`, with a warning where these are not stationary. By default the
#'   differences, or the values where these are changes already: growth,
#'   returns, differences, remainders and anomalies.
#' @return A tibble with a row for each lag: `lag`, `cycles`, `coefficient`,
#'   `pairs`, `lower`, `upper` and `outside`.
#' @section Errors: `backfill_error_input`, `backfill_error_argument`,
#'   `backfill_error_over`. Values whose lag-1 autocorrelation is above 0.6 give
#'   a warning of class `backfill_warning_use`.
#' @references Bartlett, M. S. (1935). Some aspects of the time-correlation
#'   problem in regard to tests of significance. *Journal of the Royal
#'   Statistical Society* 98, 536-543. Sidak, Z. (1967). Rectangular confidence
#'   regions for the means of multivariate normal distributions. *Journal of the
#'   American Statistical Association* 62, 626-633.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), when = "month", series = "inn",
#'   measures = c(guest_nights = "flow")
#' )
#' cross_correlation(
#'   roll_up(nights, every = "month"), "Lantern", "Hearth", lags = 6
#' )
#' @concept correlation
#' @export
cross_correlation <- function(
  x, first, second, lags = NULL, on = NULL, confidence = 0.95, of = "value"
) {
  check_given()
  x <- check_periods(x)
  names <- unique(line_names(x))
  check_one_of(first, names, "first")
  check_one_of(second, setdiff(names, first), "second")
  along <- along_open(x, of, together = TRUE)
  line <- line_names(x)[along$order]
  change <- is_change(x, of, along, line %in% c(first, second))
  on <- on %||% if (change) "values" else "differences"
  cycle <- open_cycle(x)
  two <- on_one_grid(along, line, c(first, second), on)
  check_common(two, first, second)
  n <- length(two[[1]])
  most <- most_lags(lags, n, cycle, facts(x)$calendar)
  own <- lapply(two, own_memory)
  if (on == "values") {
    close <- vapply(own, function(r) isTRUE(r[[1]] > 0.6), NA)
    warn_unsteady(c(first, second)[close])
  }
  out <- lags_of_two(two, own, as.integer(most), confidence, cycle)
  new_result(out, "cross_correlation", list(
    measures = facts(x)$measures,
    calendar = facts(x)$calendar, sources = facts(x)$sources, cycle = cycle,
    confidence = confidence, of = of, on = on, first = first, second = second,
    largest = largest_of_lags(out, confidence),
    seasons = seasons_of_two(x, of, c(first, second))
  ))
}

# list(lag, coefficient, lags, p): the one that lies furthest out, of how many,
# and how often the furthest of these lies as far out by chance.
largest_of_lags <- function(lags, confidence) {
  off <- abs(lags$coefficient) / lags$upper *
    stats::qnorm((1 + confidence) / 2)
  row <- which.max(off)
  each <- 2 * stats::pnorm(-off[row])
  count <- sum(!is.na(off))
  list(
    lag = lags$lag[row], coefficient = lags$coefficient[row], lags = count,
    p = 1 - (1 - each)^count
  )
}

# Whether both have a season of the cycle that their periods have, which makes
# lags a cycle apart alike.
seasons_of_two <- function(x, of, names) {
  if (is.null(known_cycle(facts(x)$calendar))) {
    return(FALSE)
  }
  along <- along_series(x, of)
  rows <- which(line_names(x)[along$order] %in% names)
  cycle <- check_cycle(NULL, facts(x)$calendar)
  seasonal <- lines_with_season(along, rows, cycle, "additive")
  all(tapply(seasonal, along$series[rows], any))
}

check_common <- function(two, first, second) {
  common <- sum(!is.na(two[[1]]) & !is.na(two[[2]]))
  if (common < least_pairs) {
    abort_backfill(
      "input",
      "{first} and {second} have {count_of(common, 'period')} in common, too",
      "few."
    )
  }
}

# How many lags of `n` periods, as asked or by the length of the two.
most_lags <- function(lags, n, cycle, calendar) {
  if (is.null(lags)) {
    return(max(1, min(n %/% 4, max(cycle$length, floor(10 * log10(n))))))
  }
  most <- whole_periods(lags, calendar)
  if (is.null(most) || most >= n) {
    stop_periods(lags, calendar, "lags", "over")
  }
  most
}

# The table of the lags from -most to most, with limits that the memory of each
# of the two widens.
lags_of_two <- function(two, own, most, confidence, cycle) {
  later <- cross_correlation_cpp(two[[1]], two[[2]], most)
  earlier <- cross_correlation_cpp(two[[2]], two[[1]], most)
  both <- function(part) c(rev(earlier[[part]])[-(most + 1)], later[[part]])
  n <- length(two[[1]])
  pairs <- both("pairs")
  few <- pairs < least_pairs
  weight <- 1 - seq_len(n - 1) / n
  wider <- max(1, 1 + 2 * sum(weight * own[[1]] * own[[2]], na.rm = TRUE))
  reach <- ifelse(
    few, NA, stats::qnorm((1 + confidence) / 2) * sqrt(wider / pairs)
  )
  lag <- seq(-most, most)
  coefficient <- ifelse(few, NA, both("coefficient"))
  new_rows(
    lag = lag,
    cycles = if (is.null(cycle)) NA_real_ else lag / cycle$length,
    coefficient = coefficient,
    pairs = as.integer(pairs), lower = -reach, upper = reach,
    outside = abs(coefficient) > reach
  )
}

# What changes from period to period already has no level to drift, and is not
# differenced once more.
is_change <- function(x, of, along, rows) {
  note <- facts(x)$added[[of]]
  if (!is.null(note)) {
    return(!note$drifts)
  }
  kinds <- vapply(facts(x)$measures, `[[`, "", "kind")
  of == "value" && all(
    kinds[unique(x$measure[along$order[rows]])] %in% c("return", "log return")
  )
}

# The figures of two lines over all periods of either, or their changes.
on_one_grid <- function(along, line, names, on) {
  ends <- range(along$number[line %in% names])
  lapply(names, function(name) {
    out <- rep(NA_real_, ends[[2]] - ends[[1]] + 1)
    rows <- which(line == name)
    out[along$number[rows] - ends[[1]] + 1] <- along$value[rows]
    if (on == "differences") out[-1] - out[-length(out)] else out
  })
}

own_memory <- function(value) {
  n <- length(value)
  autocorrelation_cpp(
    rep(1L, n), as.numeric(seq_len(n)), value, as.integer(max(n - 1, 1)), FALSE
  )$coefficient[, 1]
}

warn_unsteady <- function(names) {
  if (length(names) > 0) {
    warn_backfill(
      "use",
      "{in_words(names)} hardly {if (length(names) == 1) 'moves' else 'move'}",
      "from period to period; what two such series have in common is mostly",
      "their trend."
    )
  }
}
