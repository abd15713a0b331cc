#' Differences between series
#'
#' Whether one series lies above another by more than chance, compared period by
#' period where both have a figure: two shops, a pump before and behind a valve,
#' each port against the largest.
#'
#' The difference of two series is taken in each period that they share; what
#' moves both, such as a season or a common trend, falls out. Its mean is tested
#' by Student's t. Neighbouring differences are mostly alike and count as fewer:
#' they are taken to be, in turn, independent or autocorrelated in one of some
#' 25 ways, with more or less noise beside, and the variances that these give
#' the mean are averaged, each weighted by its restricted likelihood (Harville
#' 1977) and a weight set beforehand: \eqn{s^2}{s^2}. The differences, of
#' standard deviation \eqn{d}, then count as \eqn{n_e = d^2 / s^2}{ne = d^2 /
#' s^2} independent ones, never more than there are, and \eqn{t} has
#' \eqn{n_e - 1} degrees of freedom, or 1 where these are fewer. Where the
#' differences have a season of their own, the means of its positions are left
#' out of their spread.
#'
#' Differences that wander have no mean to test: where a random walk has a
#' quarter of the weight or more, the verdict says that they may, and there is
#' no interval and no `p`. A slow drift that hides behind noise may escape this,
#' and then passes for a difference far too often: see the rates of slow memory.
#'
#' @eval rates_section("series_differences")
#'
#' @inheritParams series_summary
#' @param against Name of the series that all others are compared with, as
#'   tables and figures print it; `NULL` for every pair.
#' @param confidence The share of cases in which an interval is to hold the true
#'   difference.
#' @return A tibble with a row for each pair of series of one measure:
#'   `measure`, `first` and `second` (their names), `n` (the periods that both
#'   have), `first_mean` and `second_mean` (over these), `above` and `below` (in
#'   how many of them the first lies above or below the second), `difference`
#'   (the first less the second), `percent` (of the second, where both are above
#'   zero), `lower` and `upper` (its interval), `p`, adjusted for the number of
#'   pairs (Holm), `n_effective` and the `verdict`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table, has
#'   one series, or no two of one measure; `backfill_error_argument` for
#'   `against` that is not a series, and for more than 50 series without it;
#'   `backfill_error_column`.
#' @references Harville, D. A. (1977). Maximum likelihood approaches to variance
#'   component estimation and to related problems. *Journal of the American
#'   Statistical Association* 72, 320-338. Zwiers, F. W. and von Storch, H.
#'   (1995). Taking serial correlation into account in tests of the mean.
#'   *Journal of Climate* 8, 336-351. Holm, S. (1979). A simple sequentially
#'   rejective multiple test procedure. *Scandinavian Journal of Statistics* 6,
#'   65-70.
#' @seealso [group_differences()] for groups of periods of one series.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' series_differences(roll_up(nights, every = "month"), against = "Anchor")
#' @concept paired t test
#' @export
series_differences <- function(
  x, against = NULL, confidence = 0.95, of = "value"
) {
  check_given()
  x <- check_periods(x)
  figures <- figures_across(x, of)
  pairs <- pairs_to_compare(
    figures$lines, x$measure[match(figures$lines, line_names(x))], against
  )
  first <- figures$values[, pairs$first, drop = FALSE]
  second <- figures$values[, pairs$second, drop = FALSE]
  gap <- first - second
  # What is alike but for the rounding of its last digit is the same.
  rounding <- 1e-13 * (abs(first) + abs(second))
  gap[abs(gap) <= rounding] <- 0
  season <- columns_with_season(gap, figures$number, figures$calendar)
  made <- mean_of_gaps(
    gap, season, figures, colMeans(rounding, na.rm = TRUE)
  )
  reach <- made$error * stats::qt(
    (1 + confidence) / 2, pmax(made$n_effective - 1, 1)
  )
  shared_mean <- function(values) {
    colMeans(replace(values, is.na(gap), NA), na.rm = TRUE)
  }
  out <- new_rows(
    measure = pairs$measure, first = figures$lines[pairs$first],
    second = figures$lines[pairs$second], n = as.integer(made$n),
    first_mean = shared_mean(first), second_mean = shared_mean(second),
    above = as.integer(colSums(gap > 0, na.rm = TRUE)),
    below = as.integer(colSums(gap < 0, na.rm = TRUE)),
    difference = made$mean, percent = NA_real_, lower = made$mean - reach,
    upper = made$mean + reach,
    p = adjusted_chance(made$p, rep(1L, nrow(pairs)), 2),
    n_effective = made$n_effective
  )
  above <- which(out$first_mean > 0 & out$second_mean > 0)
  out$percent[above] <- 100 * (out$difference / out$second_mean)[above]
  out$verdict <- verdict_of_gap(out$p, made, confidence)
  new_result(out, "series_differences", list(
    of = of, against = against, confidence = confidence,
    several = length(unique(pairs$measure)) > 1,
    season = known_cycle(figures$calendar)$words[any(season)],
    seasonal = sum(season), unit = figures$unit, calendar = figures$calendar,
    measures = facts(x)$measures, sources = figures$sources
  ), needed = c("first", "second", "difference", "p", "verdict"))
}

most_series_in_pairs <- 50

# The pairs of columns of one measure, each once.
pairs_to_compare <- function(lines, measure, against) {
  if (is.null(against)) {
    if (length(lines) > most_series_in_pairs) {
      abort_backfill(
        "argument",
        "Of {count_of(length(lines), 'series', 'series')} there are",
        "{thousands(choose(length(lines), 2))} pairs.",
        ">" = "Name the series to compare the others with: `against`."
      )
    }
    at <- which(upper.tri(diag(length(lines))), arr.ind = TRUE)
    pairs <- data.frame(first = at[, 1], second = at[, 2])
  } else {
    check_one_of(against, lines, "against")
    own <- match(against, lines)
    pairs <- data.frame(first = setdiff(seq_along(lines), own), second = own)
  }
  pairs$measure <- measure[pairs$first]
  pairs <- pairs[pairs$measure == measure[pairs$second], ]
  if (nrow(pairs) == 0) {
    abort_backfill(
      "input", "No two series are of one measure.",
      i = "Series of unlike measures are not compared.",
      ">" = "Columns of one measure are read as its series with `layout` as",
      "\"series across\"."
    )
  }
  pairs[order(pairs$first, pairs$second), ]
}

# What mean_error_cpp() says of each column, and the chance of its mean; one
# that varies by no more than `rounding` has none.
mean_of_gaps <- function(gap, season, figures, rounding = 0) {
  position <- rep(NA_integer_, length(gap))
  cycle <- 0L
  if (any(season)) {
    known <- check_cycle(NULL, figures$calendar)
    cycle <- known$length
    place <- as.integer(
      known$position(figures$number, figures$calendar)
    ) - 1L
    position <- ifelse(season[col(gap)], place[row(gap)], NA_integer_)
  }
  made <- mean_error_cpp(
    as.vector(col(gap)), as.double(figures$number[row(gap)]), as.vector(gap),
    as.integer(position), cycle
  )
  rownames(made) <- c("n", "mean", "n_effective", "error", "wanders")
  made <- as.list(as.data.frame(t(made)))
  made$still <- (made$error <= rounding) %in% TRUE
  told <- made$n >= 3 & made$wanders < wandering & !made$still
  made$error[!told %in% TRUE] <- NA
  made$n_effective[is.na(made$error)] <- NA
  made$p <- 2 * stats::pt(
    -abs(made$mean) / made$error, pmax(made$n_effective - 1, 1)
  )
  made
}

# From which weight of a random walk on there is no mean to test. Simulated, it
# leaves nearly all gaps that keep to a level, and few walks are taken for such.
wandering <- 0.25

verdict_of_gap <- function(p, made, confidence) {
  ifelse(
    is.na(p), ifelse(
      made$n < 3, "too short to tell",
      ifelse(made$still, "constant", "may wander")
    ),
    ifelse(p <= 1 - confidence, "differ", "within chance")
  )
}
