#' Level shifts
#'
#' Where the level of a series changed, by how much, and how certain the date
#' is.
#'
#' The shifts are those that leave the least sum of squares, found one by one:
#' each is the step that takes most of what the ones before leave, after which
#' all are placed again, given the others (Bai 1997). A shift is taken where its
#' chance `p` is no larger than 1 - `confidence`. Chance is the share of 499
#' series without it that have a step as large; these are built from the model's
#' innovations in random order, each with a memory drawn from those that the
#' remainders may have (as in [trend_line()]), one that wanders or hides behind
#' noise among them.
#'
#' With `season` the average of each position of the cycle is estimated along
#' with the shifts, and with `line` a straight line, so that a shift is one
#' beside both. Without `line`, a series that a straight line describes as well
#' is said to have a slope instead. Where it describes it nearly as well, so
#' that of 499 straight lines with such remainders more than 1 - `confidence`
#' look as much like steps, `taken` is `NA`: the level changed, at once or bit
#' by bit. Else a shift is at once unless a ramp in place of the step leaves
#' less by more than chance; then `taken` says over how many periods it changed.
#'
#' The interval of the day holds its true period as often as `confidence` says
#' where the shift is small beside the spread of the values (Yao 1987, Bai
#' 1997), with the spread widened for autocorrelated neighbours; of large
#' shifts it is too wide.
#'
#' @eval rates_section("level_shifts")
#'
#' @inheritParams add_growth
#' @param most How many shifts to look for, at most.
#' @param least How many periods there must be between two shifts, and before
#'   the first and after the last one: a number or a length of time. By default
#'   an eighth of them, and 6 or more.
#' @param season Whether a season is allowed for. By default where the periods
#'   have a cycle of their own, and three whole ones.
#' @param line Whether a straight line is allowed for.
#' @param confidence The share of series without a shift in which none is to be
#'   found, and of cases in which an interval is to hold the truth.
#' @param seed The seed of the random orders. The session's own random numbers
#'   are left alone.
#' @return A tibble with a row for each shift: the series columns, `measure`,
#'   `period` (the first at the new level), `from` and `to` (the interval of
#'   that period), `before` and `after` (the levels), `size` (their difference),
#'   `lower` and `upper` (its interval), `percent` (of the level before, where
#'   that is above zero), `taken` (periods, 1 at once, `NA`
#'   where a straight line cannot be ruled out) and `p`. `summary()` of
#'   it has a row for each series: `n`, `shifts`, `explained` (the share of the
#'   variation that they are, beside season and line), `autocorrelation` (of the
#'   remainders), `p` (of the first shift, or the one that was not taken) and
#'   the `verdict`: `"shifts"`, `"within chance"`, `"a slope instead"`,
#'   `"constant"` or `"too short to tell"`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_column`, `backfill_error_argument`, `backfill_error_over`
#'   for `least`.
#' @references Bai, J. (1997). Estimating multiple breaks one at a time.
#'   *Econometric Theory* 13, 315-352. Yao, Y.-C. (1987). Approximating the
#'   distribution of the maximum likelihood estimate of the change-point in a
#'   sequence of independent random variables. *The Annals of Statistics* 15,
#'   1321-1328. Davison, A. C. and Hinkley, D. V. (1997). *Bootstrap Methods and
#'   their Application*, section 8.2. Cambridge University Press.
#' @seealso [flag_periods()] for periods that depart from their past as they
#'   come; [group_differences()] where the day is known beforehand.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' level_shifts(roll_up(crossings, every = "week"), season = FALSE)
#' @concept change point
#' @concept structural break
#' @concept break point
#' @export
level_shifts <- function(
  x, most = 1, least = NULL, season = NULL, line = FALSE, confidence = 0.95,
  seed = 1, of = "value"
) {
  check_given()
  x <- check_periods(x)
  along <- along_series(x, of)
  known <- which(!is.na(along$value))
  if (length(known) == 0) {
    abort_backfill("input", "Column \"{of}\" has no figures.")
  }
  cycle <- cycle_of_shifts(season, along$calendar)
  made <- level_shifts_cpp(
    along$series[known], along$number[known], along$value[known],
    if (is.null(cycle)) integer() else
      cycle$position(along$number[known], along$calendar) - 1L,
    cycle$length %||% 0L, is.null(season), check_least(least, along$calendar),
    as.integer(most), line, 1 - confidence, as.integer(seed)
  )
  shifts_of(x, along, known, made, list(
    of = of, line = line, cycle = cycle[c("length", "words")],
    confidence = confidence, unit = facts(x)$added[[of]]$unit,
    calendar = facts(x)$calendar, series = facts(x)$series,
    measures = facts(x)$measures, sources = facts(x)$sources
  ))
}

# The cycle of a season, where one is asked for or goes without saying.
cycle_of_shifts <- function(season, calendar) {
  if (isFALSE(season)) {
    return(NULL)
  }
  if (isTRUE(season) || !is.null(known_cycle(calendar))) {
    check_cycle(NULL, calendar)
  }
}

check_least <- function(least, calendar) {
  if (is.null(least)) {
    return(NA_integer_)
  }
  count <- whole_periods(least, calendar)
  if (is.null(count) || count < 2) {
    stop_periods(least, calendar, "least", "over")
  }
  as.integer(count)
}

# What was found, as a table of shifts with that of the series beside it.
shifts_of <- function(x, along, known, made, about) {
  line <- made$line
  first <- known[match(seq_along(made$n), line)]
  row <- known[made$row]
  of <- line[made$row]
  at <- function(number) period_start(number, along$calendar)
  free <- pmax(made$n[of] - 2, 1)
  reach <- made$error * stats::qt((1 + about$confidence) / 2, free)
  wide <- ceiling(made$reach * date_quantile(about$confidence))
  ends <- neighbours_of(along, known, made)
  # A slope that cannot be told from steps is one that takes its time.
  taken <- ifelse(
    made$line_p[of] > 1 - about$confidence, NA_integer_,
    pmax(1L, as.integer(made$taken))
  )
  out <- new_rows(
    keys_at(x, along, row), period = at(along$number[row]),
    from = at(pmax(along$number[row] - wide, ends$from)),
    to = at(pmin(along$number[row] + wide, ends$to)),
    before = made$before, after = made$before + made$size, size = made$size,
    lower = made$size - reach, upper = made$size + reach,
    percent = ifelse(
      made$before > 0, 100 * made$size / made$before, NA_real_
    ),
    taken = taken, p = made$p
  )
  whole <- new_rows(
    keys_at(x, along, first), n = as.integer(made$n),
    shifts = tabulate(of, length(made$n)), explained = made$explained,
    autocorrelation = made$memory, p = made$p_of_series,
    verdict = verdict_of_shifts(made, of)
  )
  sloped <- whole$verdict == "a slope instead"
  whole$shifts[sloped] <- 0L
  whole$explained[whole$shifts == 0] <- NA
  about$whole <- whole
  about$several <- several_measures(x)
  about$seasonal <- made$seasonal
  about$points <- new_rows(
    keys_at(x, along, known), period = at(along$number[known]),
    value = along$value[known], fitted = made$fitted
  )
  new_result(out[!sloped[of], ], "shifts", about, needed = c(
    "measure", "period", "size"
  ))
}

# The first and the last period that a shift can be moved to: those next to its
# neighbours, or to the ends of the series.
neighbours_of <- function(along, known, made) {
  of <- made$line[made$row]
  number <- along$number[known]
  first <- number[match(of, made$line)]
  last <- number[length(made$line) + 1L - match(of, rev(made$line))]
  own <- number[made$row]
  alike <- c(FALSE, of[-1] == of[-length(of)])[seq_along(of)]
  after <- c(alike[-1], FALSE)[seq_along(of)]
  list(
    from = ifelse(alike, c(NA, own)[seq_along(own)] + 1, first + 1),
    to = ifelse(after, c(own[-1], NA)[seq_along(own)] - 1, last)
  )
}

verdict_of_shifts <- function(made, of) {
  found <- tabulate(of, length(made$n)) > 0
  ifelse(
    made$constant, "constant",
    ifelse(
      is.na(made$p_of_series), "too short to tell",
      ifelse(
        !found, "within chance",
        ifelse(made$line_p > 1, "a slope instead", "shifts")
      )
    )
  )
}

# How far, in units of the variance over the square of the shift, the estimated
# place lies from the true one in a share of cases: Yao (1987), the
# distribution of where a random walk with a drift to both sides is highest.
date_quantile <- function(share) {
  within <- function(x) {
    2 * (
      1 + sqrt(x / (2 * pi)) * exp(-x / 8) -
        (x + 5) / 2 * stats::pnorm(-sqrt(x) / 2) +
        1.5 * exp(x + stats::pnorm(-1.5 * sqrt(x), log.p = TRUE))
    ) - 1
  }
  stats::uniroot(function(x) within(x) - share, c(1e-6, 300))$root
}

#' @rdname level_shifts
#' @param object Shifts, from `level_shifts()`.
#' @param ... Not used.
#' @export
summary.backfill_shifts <- function(object, ...) {
  about <- facts(object)
  new_result(about$whole, "shift_verdicts", about)
}
