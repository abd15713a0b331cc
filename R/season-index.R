#' Seasonal index
#'
#' How each position of a recurring season, such as a month of the year,
#' compares with the average: for each series and position of the cycle an
#' index, of which 1.62 says 62% above the average (or, in additive form, a
#' difference in the measure's unit).
#'
#' \describe{ \item{1. Reference}{With `method = "centred average"` the centred
#' moving average over one cycle, \eqn{m_t}{m[t]}; for an even number of periods
#' the mean of the two windows around the period. With `"overall average"` the
#' mean of the averages at each position, one figure for all periods, which
#' takes a trend for season.} \item{2.
#' Ratio}{\eqn{r_t = x_t / m_t}{r[t] = x[t] / m[t]}, or
#' \eqn{x_t - m_t}{x[t] - m[t]} in additive form.} \item{3. Index}{At each
#' position the mean of its ratios, their median, or with `"trimmed mean"` the
#' mean without the highest and the lowest, where there are three or more, or
#' with `"mean without outliers"` the mean of those that do not stand apart (see
#' Tests; where more than a tenth do, of all). The periods of outliers are
#' bridged in the centred average, too, and lose nothing but their ratio. With
#' `"moving mean"` each period has an index of its own, see below.}
#' \item{4. Normalised}{All are divided by their mean, so that they average 1
#' (or their mean is taken off, so that they average 0).} }
#'
#' Half a cycle at either end has no centred average and so no ratio: these ends
#' are lost for the index, not for the adjusted values. Partial and empty
#' periods never have a ratio. In the centred average a missing period is
#' bridged by the mean of the nearest values at its position before and after
#' (or the one that there is); an average of which more than half would be
#' bridged is not made.
#'
#' @section Form: Where `form` is not given ratios are taken, and the sentence
#'   names the series with a season that differences fit better. `form = "auto"`
#'   takes the one that fits better over all series that have a season. Either
#'   compares the likelihood of what the two forms leave, of the values or of
#'   their logarithms (Box and Cox 1964), by mean absolute deviations, so that
#'   an outlier does not decide. Ratios, which compare from series to series,
#'   are given up only for differences under which what is left is 3 times as
#'   likely. Values of zero or less leave differences alone. A table whose
#'   series differ in this is better worked out apart. Of 60 simulated series of
#'   96 months, under growth of 10% a year and a season of 30%, the adjusted
#'   values of the wrong form missed the truth by 5 times as much as those of
#'   the right one; `"auto"` missed as little as the right one. Of 300 such
#'   series of 48 and of 96 months differences were named for 76 and 100% of
#'   those made by differences, for 8 and 0% of those made by ratios, and for 8
#'   and 7% of those made by ratios at a level that stays, where the forms
#'   hardly differ; in a random walk with a season by ratios for 20 and 11%.
#'
#' @section Cycle: Months, quarters, thirds and weeks have the year, working
#'   days, days and hours the week, shorter periods the day. Positions are those
#'   of the calendar: months, weekdays, hours of the local clock. 29 February
#'   shares the position of the 28th, week 53 that of week 52.
#'
#' @section A season that moves: With `combine = "moving mean"` the index of a
#'   period is the mean of the ratios at its position, without outliers, of
#'   which one that lies \eqn{k} cycles away has the weight
#'   \eqn{\lambda^k}{lambda^k}. The share \eqn{\lambda}{lambda} that a ratio
#'   keeps from cycle to cycle is found for each series: the one of 1, 0.95,
#'   0.9, 0.85, 0.8, 0.7, 0.6, 0.5, 0.4 and 0.3 under which the ratios, taken as
#'   levels that wander seen through noise, are most likely (Muth 1960); 1, a
#'   season that stays, unless another is better by a likelihood ratio test at
#'   5% (Self and Liang 1987), in which neighbours that go together count as
#'   fewer (see [summary()][summary.backfill_seasonal_index]) and positions that
#'   vary unlike each other by how far. A ratio is left out where it stands
#'   apart (see Tests) from the mean of the others around it, allowing for how
#'   many these are; of five or fewer only where it lies twice as far off as the
#'   next. What comes out is normalised over the cycle around each period. This
#'   is done twice: of the ratios to the centred average, and of those to a line
#'   through the adjusted values of the cycle before and after, weighted by
#'   their distance (Cleveland 1979), which reaches to both ends. Rows have the
#'   latest index of each position; `summary(index, type = "worksheet")` has
#'   that of every period, which [deseasonalise()] takes. Beyond the periods
#'   that it was made of the nearest of its position goes on. The tests are
#'   those of a season that stays.
#'
#'   Of 25 simulated series of 60, 120 and 240 months the adjusted values missed
#'   the truth by 1.02, 0.94 and 0.96 times what the best of `decompose()` and
#'   of three settings of `stl()` did, under a season that wanders (by `"mean
#'   without outliers"` 1.2, 1.5 and 2.1), by 0.99, 1.06 and 1.03 under one that
#'   stays (1.1), by 0.85, 0.6 and 0.5 with outliers (0.9, 0.7 and 0.65), and
#'   under one that fades along a straight line by 0.6, 1.0 and 1.3 (1.5, 2.8
#'   and 4.1).
#'
#' @section Tests: Whether there is a season: an analysis of variance of the
#'   ratios over the positions (F), and the same of their ranks (Kruskal and
#'   Wallis 1952). Whether it moves over the cycles: a straight line over time
#'   at each position against none (F), of ratios and of ranks, where there are
#'   four degrees of freedom or more to judge that by. Of both the worse p
#'   decides, and autocorrelated neighbours count as fewer, see
#'   [summary.backfill_seasonal_index()]. Where it moves, the other form is
#'   tried, and named where it does not move in that. The F tests allow for what
#'   the centred average takes from the degrees of freedom. A ratio disagrees
#'   where it lies further from the median at its position than the largest of
#'   all would in 1 of 20 series, in robust standard deviations (of the median
#'   absolute deviation of all positions, or of its own, with a limit for as few
#'   figures, where positions vary unlike each other at 10%; Iglewicz and
#'   Hoaglin 1993); of three or four ratios only where it lies three times as
#'   far off as the next. `share` is the part of the ratios' variation that the
#'   index explains. [summary()][summary.backfill_seasonal_index] gives them.
#'
#' @eval rates_section("seasonal_index")
#'
#' @inheritParams add_growth
#' @param cycle After how long the season comes back: a number of periods, or a
#'   length of time such as `"1 year"`; `NULL` for the one that the periods have
#'   by themselves, see below.
#' @param form `"multiplicative"`, for a season that grows with the level,
#'   `"additive"`, or `"auto"`, the one of these that fits better over all
#'   series, see below; a series more may then change it for all.
#' @param method `"centred average"` or `"overall average"`.
#' @param combine `"mean"`, `"median"`, `"trimmed mean"`, `"mean without
#'   outliers"` or `"moving mean"`, which follows a season that moves.
#' @param normalise `FALSE` leaves the indices as they come out.
#' @return A tibble with a row for each series, measure and position: the series
#'   columns, `measure`, `position` (a factor), `index`, `n` (the ratios that it
#'   is made of), `sd` (their standard deviation), `lowest`, `highest`, and
#'   `disagree` (the years, or periods, whose ratios are outliers).
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_season` where no series has two full cycles and a ratio at
#'   every position, and where a multiplicative form meets a value of zero or
#'   less; `backfill_error_window` for a cycle that the periods have no rule
#'   for; `backfill_error_column`, `backfill_error_argument`. Series that have
#'   no index beside others that have are named in a warning of class
#'   `backfill_warning_season`.
#' @references Box, G. E. P. and Cox, D. R. (1964). An analysis of
#'   transformations. *Journal of the Royal Statistical Society B* 26, 211-252.
#'   Cleveland, W. S. (1979). Robust locally weighted regression and smoothing
#'   scatterplots. *Journal of the American Statistical Association* 74,
#'   829-836. Muth, J. F. (1960). Optimal properties of exponentially weighted
#'   forecasts. *Journal of the American Statistical Association* 55, 299-306.
#'   Self, S. G. and Liang, K. (1987). Asymptotic properties of maximum
#'   likelihood estimators under nonstandard conditions. *Journal of the
#'   American Statistical Association* 82, 605-610. Macaulay, F. R. (1931). *The
#'   Smoothing of Time Series*. National Bureau of Economic Research. Kendall,
#'   M. and Ord, J. K. (1990). *Time Series*, 3rd ed., chapter 4. Edward Arnold.
#'   Kruskal, W. H. and Wallis, W. A. (1952). Use of ranks in one-criterion
#'   variance analysis. *Journal of the American Statistical Association* 47,
#'   583-621. Iglewicz, B. and Hoaglin, D. C. (1993). *How to Detect and Handle
#'   Outliers*. ASQC.
#' @seealso [deseasonalise()], [project()], [cycle_profile()], [write_index()];
#'   [calendar_effects()], which the printed index points to where weekdays
#'   matter (p < 0.01) in one of up to 30 series of sums.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' index <- seasonal_index(roll_up(nights, every = "month"))
#' index
#' summary(index)
#' summary(index, type = "worksheet")
#' @export
seasonal_index <- function(
  x, cycle = NULL, form = "multiplicative", method = "centred average",
  combine = "mean without outliers", normalise = TRUE, of = "value"
) {
  check_given()
  x <- check_periods(x)
  cycle <- check_cycle(cycle, facts(x)$calendar)
  check_not_empty(x)
  along <- along_series(x, of)
  at <- positions_along(along, cycle)
  find <- function(form, combine) {
    season_cpp(
      along$series, along$number, along$value, at$position - 1L, at$first,
      cycle$length, form == "multiplicative",
      method == "overall average", match(combine, combines) - 1L, normalise
    )
  }
  # An index that moves follows the wrong form, too.
  stays <- if (combine == "moving mean") "mean without outliers" else combine
  rows <- first_rows(along)
  keys <- keys_at(x, along, rows$first)
  position <- at$position[along$number - at$first + 1]
  chosen <- form_of_season(
    form, !missing(form), function(form) find(form, stays), along, position,
    names_of_lines(keys)
  )
  form <- chosen$form
  found_by <- function(form) chosen$tried[[form]] %||% find(form, stays)
  found <- if (stays == combine) found_by(form) else find(form, combine)
  facts <- season_facts(found$facts)
  check_season(facts, keys, along, cycle, x)
  positions <- factor(cycle$labels, cycle$labels)
  index <- new_rows(
    vctrs::vec_rep_each(keys, cycle$length), position = rep(
      positions, nrow(keys)
    ), index = as.vector(found$index),
    n = as.vector(found$count), sd = as.vector(found$spread),
    lowest = as.vector(found$lowest),
    highest = as.vector(found$highest),
    disagree = disagreeing(found$odd, rows$line, along, at, cycle, nrow(keys))
  )
  new_result(index, "seasonal_index", list(
    calendar = facts(x)$calendar, series = facts(x)$series,
    measures = facts(x)$measures, sources = facts(x)$sources,
    cycle = cycle[c("length", "words", "noun", "own")], form = form,
    form_said = chosen$said, method = method, combine = combine,
    by_weekdays = moved_by_weekdays(along, keys, form, facts(x)),
    normalised = normalise, of = of, tests = new_rows(
      season_tests(keys, facts, cycle),
      drift_p_other = if (method == "centred average") drift_otherwise(
        facts, found_by, form
      ) else NA_real_,
      day_shapes(along, position, found$part, cycle, along$calendar)
    ),
    worksheet = new_worksheet(
      x, along, found, form, reference_name(method, combine),
      positions[position]
    ), moving = if (combine == "moving mean") index_by_period(
      x, along, positions[position], found$of_row
    )
  ))
}

# An index for another verb; one whose form nobody `asked` for says what it
# would say by itself.
index_in_form <- function(x, form, asked, ...) {
  if (asked) seasonal_index(x, form = form, ...) else seasonal_index(x, ...)
}

# The p of a moving season in the other form, of series where it moves in this.
drift_otherwise <- function(facts, find, form) {
  moves <- which(drift_p_of(facts) < 0.05)
  out <- rep(NA_real_, length(facts$f))
  if (length(moves) > 0) {
    found <- find(setdiff(season_forms, form))
    out[moves] <- drift_p_of(season_facts(found$facts))[moves]
  }
  out
}

season_methods <- c("centred average", "overall average")

# The column of a worksheet with what figures are set against.
reference_name <- function(method, combine) {
  if (combine == "moving mean" && method == "centred average") {
    return("local_line")
  }
  gsub(" ", "_", method)
}

# In the order of enum class Combine in src/kernels/season_parts.h.
combines <- c(
  "mean", "median", "trimmed mean", "mean without outliers", "moving mean"
)

without_outliers <- function(combine) {
  combine %in% c("mean without outliers", "moving mean")
}

# list(first, position): the position, from 1, of each period from the number
# `first` on.
positions_along <- function(along, cycle) {
  ends <- range(along$number)
  list(
    first = ends[[1]],
    position = as.integer(
      cycle$position(seq(ends[[1]], ends[[2]]), along$calendar)
    )
  )
}

# In the order of enum Fact in src/season.cpp.
season_facts <- function(facts) {
  rownames(facts) <- c(
    "fault", "span", "bridged", "parts", "f", "f_free", "f_within", "h",
    "h_free", "drift", "drift_free", "drift_within", "drift_ranks", "memory",
    "share", "sd_before", "sd_after", "range_before", "range_after",
    "kept"
  )
  as.list(as.data.frame(t(facts)))
}

# For each position of each series the years, or the periods, whose ratios stand
# apart.
disagreeing <- function(odd, line, along, at, cycle, lines) {
  out <- rep("", lines * cycle$length)
  if (length(odd) > 0) {
    place <- (line[odd] - 1) * cycle$length + at$position[
      along$number[odd] - at$first + 1
    ]
    said <- cycle_label(along$number[odd], along$calendar, cycle)
    each <- split(said, place)
    out[sort(unique(place))] <- vapply(each, paste, "", collapse = ", ")
  }
  out
}

# What tells the cycles apart: the year, else the period itself.
cycle_label <- function(number, calendar, cycle) {
  label <- period_label(period_start(number, calendar), calendar)
  if (
    grepl("year", cycle$words) || cycle$noun %in% c(
      "month", "quarter", "week", "day of the year"
    )
  ) {
    sub("^((FY)?[0-9]{4}).*", "\\1", label)
  } else {
    label
  }
}
