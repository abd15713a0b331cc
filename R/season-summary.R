#' Summarise a seasonal index
#'
#' For each series whether there is a season, how much of the variation it is
#' and what taking it out does; or the worksheet, with every step of the
#' calculation row by row.
#'
#' @param object A seasonal index, from [seasonal_index()].
#' @param type `"tests"` or `"worksheet"`.
#' @param ... Not used.
#' @return With `"tests"` a tibble with a row for each series and measure:
#'   `periods` (from the first to the last whole value), `cycles` (full ones),
#'   `ratios`, `bridged` (missing periods that the centred average was bridged
#'   over), `highest_at`, `highest`, `lowest_at` and `lowest` (positions and
#'   their indices), `explained` (the share of the variation of the ratios that
#'   is season, 0 to 1), `season_p` (what the verdict goes by, see below),
#'   `positions_f` and `positions_p` (analysis of variance over the positions),
#'   `ranks_h` and `ranks_p` (the same of ranks), `memory` (the autocorrelation
#'   of the ratios about the means of their positions, at lag 1), `drift_f` and
#'   `drift_p` (whether it moves over the cycles, judged as `season_p` is),
#'   `drift_p_other` (the same in the other form, where it moves in this), and
#'   before and after the season is
#'   taken out `range_before`, `range_after`, `sd_before`, `sd_after` and
#'   `removed` (the share of the variance that goes with it), and `kept` (of a
#'   moving mean the share of its weight that a ratio keeps from cycle to cycle,
#'   1 where the season stays). Where the cycle is
#'   a week of hours or other parts of a day, also `shape_share` (the share of
#'   the variation of days about their own means that lies between weekdays)
#'   and `shape_p` (the share of 199 draws, the days as they are among them, in
#'   which as much does when whole days are given other weekdays). `NA` where
#'   there are too few ratios.
#'
#'   With `"worksheet"` a tibble with a row for each period: the series columns,
#'   `measure`, `period`, `position`, `value`, `centred_average` (or
#'   `overall_average`; `local_line` of a moving mean), `ratio` (or
#'   `difference`), `raw_index` (what the ratios of the position have in
#'   common), `normaliser` (what it is multiplied by so that the indices average
#'   1; or what is added, so that they add up to 0), `index`, `adjusted` and
#'   `standing`, which is `lost` where the centred average reaches outside the
#'   data, or would be bridged for the most part.
#' @section What a verdict goes by: `season_p` and `drift_p` are the larger of
#'   two p, of the ratios and of their ranks (Conover and Iman 1981), so that
#'   neither one far off nor positions that vary unlike each other decide. Where
#'   neighbouring ratios are autocorrelated, both count with the degrees of
#'   freedom that such figures are worth, \eqn{(1 - r^2) / (1 + r^2)} of them
#'   with \eqn{r} in `memory` (Bartlett 1935).
#' @references Bartlett, M. S. (1935). Some aspects of the time-correlation
#'   problem in regard to tests of significance. *Journal of the Royal
#'   Statistical Society* 98, 536-543. Conover, W. J. and Iman, R. L. (1981).
#'   Rank transformations as a bridge between parametric and nonparametric
#'   statistics. *The American Statistician* 35, 124-129.
#' @section One course of the day: `shape_p` was simulated with hours that go
#'   together by an autocorrelation of 0, 0.8 and 0.95: below 0.05 lay 4, 6 and
#'   7 of 100 series of 8 weeks, and 2, 6 and 6 of 26 weeks, whose days had one
#'   course and weekdays their levels. One noon of each weekend day, higher by
#'   the standard deviation of the rest, was found in 13 to 16 of 100 series of
#'   8 weeks and 38 to 63 of 26 weeks.
#' @section Errors: `backfill_error_input` where the index was read from a file,
#'   which has no worksheet.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' index <- seasonal_index(roll_up(nights, every = "month"))
#' summary(index)
#' write_periods(summary(index, type = "worksheet"), tempfile(fileext = ".csv"))
#' @export
summary.backfill_seasonal_index <- function(object, type = "tests", ...) {
  check_one_of(type, c("tests", "worksheet"), "type")
  season <- facts(object)
  if (is.null(season$worksheet)) {
    abort_backfill(
      "input",
      "The index was read from a file, which holds neither its tests nor its",
      "worksheet.",
      ">" = "Make it again with seasonal_index()."
    )
  }
  if (type == "worksheet") {
    return(new_result(season$worksheet, "worksheet", of_summary(season)))
  }
  lines <- index_lines(object)
  out <- vctrs::vec_slice(
    season$tests, vctrs::vec_match(lines, season$tests[names(lines)])
  )
  ends <- index_ends(object)
  behind <- match("bridged", names(out))
  new_result(
    new_rows(out[seq_len(behind)], ends, out[-seq_len(behind)]),
    "season_tests", of_summary(season)
  )
}

# What a summary keeps of its index: not all of the steps to it.
of_summary <- function(season) season[setdiff(names(season), "worksheet")]

# The series of an index, a row each.
index_lines <- function(index) {
  vctrs::vec_unique(
    plain_tibble(index)[c(facts(index)$series, "measure")]
  )
}

# The positions of each series with the highest and the lowest index.
index_ends <- function(index) {
  lines <- index_lines(index)
  line <- vctrs::vec_match(
    plain_tibble(index)[names(lines)], lines
  )
  end <- function(sign) {
    order <- order(line, sign * index$index, method = "radix")
    order[!duplicated(line[order])]
  }
  highest <- end(-1)
  lowest <- end(1)
  known <- function(x) ifelse(is.na(index$index[highest]), NA, x)
  position <- as.character(index$position)
  new_rows(
    highest_at = known(position[highest]), highest = index$index[highest],
    lowest_at = known(position[lowest]), lowest = index$index[lowest]
  )
}

# Probabilities by R's distribution functions.
beyond_f <- function(f, free, within) {
  stats::pf(f, free, within, lower.tail = FALSE)
}

# What a verdict goes by: the larger p of the figures and of their ranks, which
# neither one far off nor positions that vary unlike each other can decide.
# Neighbours that go together by `memory` count as fewer (Bartlett 1935).
verdict_p <- function(f, f_ranks, free, within, memory) {
  together <- pmax(memory, 0)^2
  worth <- pmax((1 - together) / (1 + together), 0.3)
  pmax(
    beyond_f(f, free * worth, within * worth),
    beyond_f(f_ranks, free * worth, within * worth)
  )
}

# Which rows of tests are of a season that moves: where the other form fits, it
# is the form that is wrong.
moving_seasons <- function(tests) {
  setdiff(which(tests$drift_p < 0.05), other_form_fits(tests))
}

other_form_fits <- function(tests) {
  which(tests$drift_p < 0.05 & tests$drift_p_other >= 0.05)
}

drift_p_of <- function(facts) {
  verdict_p(
    facts$drift, facts$drift_ranks, facts$drift_free, facts$drift_within,
    facts$memory
  )
}

# The ranks by the analysis of variance, which for few ratios holds better than
# a chi-squared distribution does.
season_p_of <- function(facts) {
  h <- facts$h
  f_ranks <- (h / facts$h_free) / ((facts$parts - 1 - h) / facts$f_within)
  verdict_p(facts$f, f_ranks, facts$f_free, facts$f_within, facts$memory)
}

# A row for each series.
season_tests <- function(keys, facts, cycle) {
  new_rows(
    keys, periods = as.integer(facts$span), cycles = as.integer(
      facts$span %/% cycle$length
    ),
    ratios = as.integer(facts$parts), bridged = as.integer(facts$bridged),
    explained = facts$share, season_p = season_p_of(facts),
    positions_f = facts$f,
    positions_p = beyond_f(facts$f, facts$f_free, facts$f_within),
    ranks_h = facts$h,
    ranks_p = stats::pchisq(facts$h, facts$h_free, lower.tail = FALSE),
    memory = facts$memory, drift_f = facts$drift,
    drift_p = drift_p_of(facts),
    range_before = facts$range_before,
    range_after = facts$range_after, sd_before = facts$sd_before,
    sd_after = facts$sd_after,
    removed = 1 - (facts$sd_after / facts$sd_before)^2, kept = facts$kept
  )
}

new_worksheet <- function(x, along, found, form, reference, position) {
  of_rows <- function(column) column_along(column, along)
  standing <- of_rows(x$standing)
  standing[is.na(found$reference) & !is.na(along$value)] <- "lost"
  names <- c(
    reference, if (form == "multiplicative") "ratio" else "difference"
  )
  steps <- stats::setNames(list(found$reference, found$part), names)
  keys <- as.list(keys_of(x))
  tibble::new_tibble(c(
    lapply(keys, of_rows), list(
      period = of_rows(x$period), position = position, value = along$value
    ), steps,
    list(
      raw_index = raw_index(found$of_row, found$scale, form),
      normaliser = found$scale, index = found$of_row,
      adjusted = found$adjusted, standing = standing
    )
  ), nrow = length(along$series))
}

# What the ratios of a position have in common, before they average 1.
raw_index <- function(index, normaliser, form) {
  if (form == "multiplicative") index / normaliser else index - normaliser
}

# Its column of averages.
average_of_sheet <- function(sheet) {
  intersect(c("centred_average", "overall_average", "local_line"), names(sheet))
}
