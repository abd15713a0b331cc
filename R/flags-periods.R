#' Flag periods that depart from their past
#'
#' Compares each period with a baseline made of prior periods alone, and flags
#' those that lie beyond the limits. Nothing that comes later changes a flag.
#'
#' | `against` | the baseline |
#' |---|---|
#' | `"previous period"` | the period before |
#' | `"a cycle before"` | that of the period one cycle before, or the mean or median of the `last` so many cycles |
#' | `"last periods"` | mean, median or smoothed level of the `last` so many periods |
#' | `"season"` | the seasonal index of what came before the cycle, times the level of the last cycle |
#' | `"year to date"` | of the total since the start of the year, the one up to the same date of the year before |
#' | name of a column | the figures in it, such as a target |
#'
#' By default periods are compared with the season where one was known by then,
#' else with the last periods. A season is known from the first of 2.5, 3, 3.5,
#' 4, 5, 6, ... cycles whose periods differ between the positions of the cycle
#' at \eqn{p < 0.01} (the analysis of variance of [seasonal_index()], of the
#' periods up to there alone), and used from when it has a limit on. Where all
#' values so far are above zero the season is multiplicative, else additive. A
#' column `against` says what each row was compared with. Simulated, four years
#' of months with noise of 4%: a fall of 40% in one month from the third year on
#' was found in 98 to 100% beside a season of 40% (in none by the last periods),
#' a fall of 15% in 12 to 26%; without a season in 100% and in 61 to 63%. Of
#' what was judged 0.04 to 0.10% were flagged where nothing departs from a
#' season, 0.21 to 0.25% where there is none; within ten years, 5% of series
#' without a season were taken to have one.
#'
#' Limits are given by `beyond`, of which several can be asked for at once:
#' `percent` of the baseline (which counts only where the deviation is `floor`
#' or more in the measure's unit, and where the baseline is above zero);
#' `amount` in the unit; `sd` standard deviations of the past deviations from
#' their mean; `mad` robust ones, 1.4826 times the median absolute deviation,
#' from their median; `quantile`, the share of past deviations that lie within.
#'
#' The latter three need at least 8 past deviations, a quantile as many as it
#' takes to be estimated at all (39 for 0.95 on both sides). As few deviations
#' say little about their spread, \eqn{k} standard deviations are widened to
#' \eqn{t_{n-1}(\Phi(k)) \sqrt{1 + 1/n}}{t(n - 1) at the probability of k, times
#' sqrt(1 + 1/n)}, so that a period in line with its past is flagged as often as
#' a normal figure lies beyond \eqn{k}; robust ones likewise with \eqn{n / 2}.
#' In simulations of independent normal figures the shares flagged were 4.1 to
#' 4.6% at 2 and 0.22 to 0.30% at 3 of either kind (4.6 and 0.27 by the normal
#' distribution), and 4.7% beyond a quantile of 0.95. Autocorrelated figures
#' depart together, and more often. Against a multiplicative season past
#' deviations are shares of their baselines.
#'
#' @section False alarms: By design of the rule a share of the judged periods is
#'   flagged though nothing departs: of independent normal figures that of the
#'   normal distribution beyond the limit for `sd` and `mad`, and what lies
#'   without for `quantile`; half of it in one direction. The printed sentence
#'   has that number for the periods judged, and the share of figures with long
#'   tails, Student's t with 3 degrees of freedom. Limits in percent and amounts
#'   have no such share of their own: it depends on how much the figures vary.
#'   Where deviations are autocorrelated (at lag 1, above 0 at 99%), more are
#'   flagged, and the sentence says so.
#'
#'   Episodes are found as periods come, from what was known by then; they do
#'   not date a change of level, which [level_shifts()] does, looking back.
#'
#'   A shift of 8 or more periods on one side of what was usual begins by chance
#'   in 1 of 300 independent periods against the mean of the last 12, 1 of 260
#'   against the same position and 1 of 400 against a season (simulated). Usual
#'   is the mean of all deviations before. Against a season or the same position
#'   it is that of amounts or of shares of the baseline, whichever has changed
#'   less with time so far, as a baseline lags behind a straight trend by a
#'   steady amount and behind growth by a steady share. With a trend it is 1 of
#'   190 against the same position and 1 of 270 against a season; a season that
#'   the baseline does not know of begins shifts of its own, up to three times
#'   as many as chance. A level that moves by 2 standard deviations is found in
#'   42% against the mean of the last 12, 65% against the same position and 33%
#'   against a season; by 3 in 73%, 90% and 58%.
#'
#'   Against a season limits are wide while it is little known: 0.10% are
#'   flagged at 3.
#'
#'   With `spread_of` the limit is not widened: the last 12 values say little
#'   about their own spread, so that beyond 3 of their standard deviations lie
#'   1.5% of independent normal figures against their mean (not 0.27%), and 8.1%
#'   beyond 2. The sentence has the share for the number that is asked for.
#'
#' @section Not judged: Rows without enough prior periods are `no baseline yet`,
#'   those with a baseline but too few past deviations `no limit yet`. Partial,
#'   imputed, empty and projected periods are listed with that judgement; they
#'   are neither flagged nor part of a baseline.
#'
#' @eval rates_section("flag_periods")
#'
#' @inheritParams add_growth
#' @param against What periods are compared with, see the table in the details.
#'   By default the season where one is known, else the last periods; the last
#'   periods where `last`, `need`, `stat` or `spread_of` is given, and the
#'   season where `cycle` or `form` is.
#' @param beyond The limits, a named vector such as `c(percent = 10)` or
#'   `c(sd = 3, amount = 50)`.
#' @param direction `"both"`, `"up"` or `"down"`.
#' @param floor The least deviation, in the measure's unit, for which a
#'   percentage counts: so much or more.
#' @param need How many of the `last` must be there, by default half of them, or
#'   a quarter for a season.
#' @param last How many periods or cycles make the baseline: by default one
#'   cycle of periods, and one cycle back. Of a smoothed level its half-life.
#' @param stat `"mean"` or `"median"` of them, or `"smoothed"`.
#' @param cycle Length of the cycle; `NULL` for the one that the periods have by
#'   themselves.
#' @param form `"multiplicative"` (the default) or `"additive"`, of a season.
#' @param beyond_all `TRUE` flags what is beyond all limits, `FALSE` beyond any.
#' @param exclude_flagged `TRUE` keeps flagged periods out of later baselines
#'   and past deviations.
#' @param spread_of The standard deviations of `sd` are by default those of past
#'   deviations. A number of periods or a length of time, such as `"12 months"`,
#'   makes them those of so many last values, half of which and three must be
#'   there: the limit is then the baseline and so many standard deviations
#'   either way.
#' @return A tibble with a row for each row of `x`: the series columns,
#'   `measure`, `period`, `value`, `baseline`, `n_prior` (the periods that it is
#'   made of), `deviation`, `percent`, `score` (standard deviations, or robust
#'   ones), `lower` and `upper` (the limits), `flag` (`NA` where not judged),
#'   `direction` (of the limit that was passed) and `judgement`. `summary()` of
#'   it: the flagged rows, the largest first, with the `reason` in words; or
#'   with `type = "episodes"` runs of flagged periods and shifts (8 or more
#'   periods whose deviations lie on one side of the mean, or of `mad` the
#'   median, of past ones), each with its start, end, periods, size (the sum of
#'   the deviations) and largest deviation. Printed, drawn and written tables
#'   have the reasons too.
#' @section Errors: `backfill_error_input`; `backfill_error_column` for a name
#'   that is none; `backfill_error_argument`; `backfill_error_season` for values
#'   of zero or less and a multiplicative season.
#' @references Shewhart, W. A. (1931). *Economic Control of Quality of
#'   Manufactured Product*. Van Nostrand. Iglewicz, B. and Hoaglin, D. C.
#'   (1993). *How to Detect and Handle Outliers*. ASQC. Hyndman, R. J. and Fan,
#'   Y. (1996). Sample quantiles in statistical packages. *The American
#'   Statistician* 50, 361-365.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), when = "month", series = "inn",
#'   measures = c(guest_nights = "flow")
#' )
#' flags <- flag_periods(
#'   roll_up(nights, every = "month"), "a cycle before", c(percent = 10)
#' )
#' flags
#' summary(flags, type = "episodes")
#' @concept percentile
#' @concept outlier
#' @concept anomaly
#' @export
flag_periods <- function(
  x, against = NULL, beyond = c(sd = 3), direction = "both",
  floor = 0, need = NULL, last = NULL, stat = "mean", cycle = NULL,
  form = NULL, beyond_all = FALSE, exclude_flagged = FALSE,
  spread_of = NULL, of = "value"
) {
  check_given()
  x <- check_periods(x)
  against <- against %||%
    baseline_implied(x, last, need, stat, spread_of, cycle, form)
  check_against(against, x)
  check_beyond(beyond)
  spread_of <- check_spread_of(spread_of, beyond, against, facts(x)$calendar)
  check_flag_rule(against, beyond, beyond_all, floor, stat, form)
  check_floor(floor)
  cycled <- cycle_of_baseline(cycle, against, facts(x)$calendar)
  last <- check_last(last, against, cycled, x)
  check_meant(
    stat != "mean" && last == 1, "stat", "the baseline is one value (`last`)"
  )
  need <- need %||% needed_of(last, against)
  check_whole(need, "need", 1, 1e6, "how many prior periods a baseline needs")
  asked <- list(
    against = against, beyond = beyond, direction = direction, floor = floor,
    need = need, last = last, stat = stat, form = form %||% "multiplicative",
    beyond_all = beyond_all, exclude_flagged = exclude_flagged, of = of,
    spread_of = spread_of,
    cycle = cycled[c("length", "words")]
  )
  x$standing <- standing_recorded(x)
  if (against == "year to date") {
    asked$of <- unused_name("year_to_date", x)
    x <- with_year_to_date(x, of, asked$of)
  }
  along <- along_counted(x, asked$of)
  standing <- column_along(x$standing, along)
  along$value[which(standing == "imputed")] <- NA
  if (against == "season" && asked$form == "multiplicative") {
    check_above_zero(along, asked$of)
  }
  asked$closed <- !is.null(along$opened)
  if (against == baseline_if_known) {
    return(flags_if_known(x, along, standing, asked))
  }
  judged_against(x, along, standing, asked, cycle)
}

# Half of the last, and a quarter of a season's cycle.
needed_of <- function(last, against) {
  ceiling(last / if (against == "season") 4 else 2)
}

judged_against <- function(x, along, standing, asked, cycle = NULL) {
  made <- flags_along(along, asked, baseline_given(x, along, asked, cycle))
  new_flags(x, along, made, standing, c(
    asked, facts(x)[c("calendar", "series", "cadences", "measures", "sources")]
  ))
}

flags_along <- function(along, asked, base) {
  if (!is_counted(asked)) along$opened <- NULL
  judged <- only_counted(along)
  rows <- first_rows(judged)
  most <- max(c(0, judged$number - judged$number[rows$first][rows$line])) + 2
  rule <- rule_of_flags(asked)
  made <- flags_cpp(
    judged$series, judged$number, judged$value, base$cycled %||% numeric(),
    base$given %||% numeric(), base$at$position - 1L,
    min(c(judged$number, Inf)), rule,
    widened_limits(rule$sd, most, 1), widened_limits(rule$mad, most, 0.5)
  )
  made <- lapply(made, of_each_row, along)
  made$prior[is.na(made$prior)] <- 0L
  made
}

# Put together without looking at a row twice, as there may be millions.
new_flags <- function(x, along, made, standing, about) {
  deviation <- along$value - made$baseline
  percent <- 100 * deviation / made$baseline
  percent[which(made$baseline <= 0)] <- NA
  flag <- made$flag
  judgement <- judgements_of(flag, along$value, made$baseline, standing)
  flag[as.integer(judgement) > 4] <- NA
  rows <- which(flag)
  direction <- rep("", length(flag))
  direction[rows] <- ifelse(along$value[rows] > made$upper[rows], "up", "down")
  columns <- lapply(
    as.list(plain_tibble(x))[c(facts(x)$series, "measure", "period")],
    column_along, along = along
  )
  out <- tibble::new_tibble(c(columns, list(
    value = along$value, baseline = made$baseline, n_prior = made$prior,
    deviation = deviation, percent = percent,
    score = made$score, lower = made$lower, upper = made$upper, flag = flag,
    direction = direction, judgement = judgement
  )), nrow = length(flag))
  about$less <- less_would_do(x, least = 0)
  new_result(out, "flags", about)
}

# The first four of them are those of whole periods with a figure.
judgements_of <- function(flag, value, baseline, standing) {
  known <- c(
    "flagged", "within", "no baseline yet", "no limit yet", "no figure",
    setdiff(standings, "complete")
  )
  code <- 2L - flag
  code[is.na(flag)] <- 4L
  code[is.na(flag) & is.na(baseline)] <- 3L
  code[is.na(value)] <- 5L
  of_standing <- match(levels(standing), known)[as.integer(standing)]
  other <- which(!is.na(of_standing))
  code[other] <- of_standing[other]
  structure(code, levels = known, class = "factor")
}
