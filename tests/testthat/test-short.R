# Tables of next to nothing: one period, two, or hardly a value. Whatever is
# made of them says something, and its figure is drawn or refused with a reason.

short_table <- function(value, series, kind) {
  start <- seq(as.Date("2026-01-01"), by = "month", length.out = length(value))
  data <- expand.grid(start = start, mill = letters[seq_len(series)])
  data$sacks <- as.vector(outer(value, seq_len(series)))
  roll_up(
    as_records(data, "start", stats::setNames(kind, "sacks"), "mill"),
    "month", cadence = "month"
  )
}

test_that("what is made of next to nothing says so, and is drawn or refused", {
  verbs <- list(
    function(x) x, add_growth, function(x) add_moving(x, 3), autocorrelation,
    function(x) seasonal_index(x, form = "additive"), trend_line, level_shifts,
    flag_periods, function(x) flag_periods(x, "previous period"),
    function(x) project(x, 2), function(x) turning_points(x, 2), rank_changes,
    rank_series, series_summary, suggest_cycle, season_spells,
    season_revisions, series_differences, calendar_effects,
    add_calendar_adjusted,
    function(x) cycle_profile(x, "month"), latest, gaps, widen,
    function(x) group_differences(x, "month"), correlations,
    function(x) cross_correlation(x, "a", "b")
  )
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  made <- 0
  # A warning of R's own, or an error that is not ours, fails the test.
  ours <- function(code) {
    tryCatch(code, backfill_error = function(cnd) NULL)
  }
  tables <- list(
    short_table(5, 1, "level"), short_table(5, 2, "flow"),
    short_table(c(1, 2), 2, "level"),
    short_table(c(NA, NA, 3, rep(NA, 20), 4, NA), 2, "flow")
  )
  for (table in tables) for (verb in verbs) {
    result <- ours(suppressWarnings(verb(table), "backfill_warning"))
    if (is.null(result)) next
    made <- made + 1
    said <- c(
      capture.output(print(result)), backfill:::sentences_of(result),
      if (inherits(result, "backfill_table")) backfill:::finding_of(result)
    )
    expect_no_match(said, "NaN|NULL|character\\(0\\)|[^=] -?Inf\\b")
    ours(capture.output(print(summary(result))))
    ours(ggplot2::ggplot_build(autoplot(result)))
  }
  expect_gt(made, 50)
})
