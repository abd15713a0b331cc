#' Which of two series leads
#'
#' The correlation of one series with another some periods later or earlier, on changes from period to period (so that a
#' common trend is not taken for a link), with a band that allows for the structure of both.
#'
#' At a lag of 2 the coefficient is that of `first` with `second` two periods later: a peak there says that `first`
#' leads by two periods. The band is \eqn{\pm z \sqrt{(1 + 2 \sum_k r_k s_k) / n}}{+- z sqrt((1 + 2 sum of r[k] s[k]) /
#' n)} with the autocorrelations of both (Bartlett 1935), and no narrower than that of white noise.
#'
#' @inheritParams autocorrelation
#' @param first,second Names of two lines of the table: of their series, or measures, or both with `" / "` between them.
#' @param made What is correlated: `"differences"` from the period before, or `"values"`, with a warning where these are
#'   not stationary.
#' @return A tibble with a row for each lag: `lag`, `cycles`, `coefficient`, `pairs`, `lower`, `upper` and `outside`.
#' @section Errors: `backfill_error_input`, `backfill_error_argument`, `backfill_error_over`. Values whose lag-1
#'   autocorrelation is above 0.6 give a warning of class `backfill_warning_use`.
#' @references Bartlett, M. S. (1935). Some aspects of the time-correlation problem in regard to tests of significance.
#'   *Journal of the Royal Statistical Society* 98, 536-543.
#' @examples
#' nights <- read_records(demo_file("guest-nights.csv"),
#'   when = "month", series = "island", measures = c(guest_nights = "flow")
#' )
#' cross_correlation(roll_up(nights, every = "month"), "Ostrel", "Vannow", lags = 6)
#' @export
cross_correlation <- function(x, first, second, lags = NULL, made = "differences", level = 0.95, of = "value") {
  x <- check_periods(x)
  check_one_of(made, c("differences", "values"), "made")
  check_share(level, "level", below = TRUE)
  names <- unique(line_names(x))
  check_one_of(first, names, "first")
  check_one_of(second, setdiff(names, first), "second")
  along <- along_series(x, of)
  line <- line_names(x)[along$order]
  cycle <- known_cycle(roles(x)$calendar)
  ends <- range(along$number[line %in% c(first, second)])
  grid <- function(name) {
    out <- rep(NA_real_, ends[[2]] - ends[[1]] + 1)
    rows <- which(line == name & along$number >= ends[[1]] & along$number <= ends[[2]])
    out[along$number[rows] - ends[[1]] + 1] <- along$value[rows]
    out
  }
  one <- grid(first)
  two <- grid(second)
  if (made == "differences") {
    one <- one[-1] - one[-length(one)]
    two <- two[-1] - two[-length(two)]
  }
  n <- length(one)
  together <- sum(!is.na(one) & !is.na(two))
  if (together < 4) {
    abort_backfill("input", sprintf("%s and %s have %s in common, too few.", first, second,
                                    count_of(together, "period")))
  }
  most <- if (is.null(lags)) min(n - 1, max(cycle$length, floor(10 * log10(n)))) else
    whole_periods(lags, roles(x)$calendar)
  if (is.null(most) || most >= n) {
    stop_periods(lags, roles(x)$calendar, "lags", "over", caller_env())
  }
  own <- function(value) autocorrelation_cpp(rep(1L, n), as.numeric(seq_len(n)), value, as.integer(n - 1), FALSE)
  r <- own(one)$coefficient
  s <- own(two)$coefficient
  unsteady <- c(first, second)[c(r[[1]], s[[1]]) > 0.6]
  if (made == "values" && length(unsteady) > 0) {
    rlang::warn(sprintf(
      "%s hardly %s from period to period; what two such series have in common is mostly their trend.",
      in_words(unsteady), if (length(unsteady) == 1) "moves" else "move"
    ), class = c("backfill_warning_use", "backfill_warning"))
  }
  later <- cross_correlation_cpp(one, two, as.integer(most))
  earlier <- cross_correlation_cpp(two, one, as.integer(most))
  both <- function(part) c(rev(earlier[[part]])[-(most + 1)], later[[part]])
  weight <- 1 - seq_len(n - 1) / n
  wider <- max(1, 1 + 2 * sum(weight * r * s, na.rm = TRUE))
  reach <- stats::qnorm((1 + level) / 2) * sqrt(wider / together)
  lag <- seq(-most, most)
  out <- tibble::tibble(lag = as.integer(lag), cycles = if (is.null(cycle)) NA_real_ else lag / cycle$length,
                        coefficient = both("coefficient"), pairs = as.integer(both("pairs")), lower = -reach,
                        upper = reach, outside = abs(.data$coefficient) > reach)
  new_result(out, "cross_correlation", list(
    calendar = roles(x)$calendar, sources = roles(x)$sources, cycle = cycle, level = level, of = of, made = made,
    first = first, second = second
  ))
}
