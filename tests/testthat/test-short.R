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

verbs_tried <- list(
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

short_tables <- function() {
  list(
    short_table(5, 1, "level"), short_table(5, 2, "flow"),
    short_table(c(1, 2), 2, "level"),
    short_table(c(NA, NA, 3, rep(NA, 20), 4, NA), 2, "flow")
  )
}

test_that("what is made of next to nothing says so, and is drawn or refused", {
  grDevices::pdf(NULL)
  withr::defer(grDevices::dev.off())
  made <- 0
  # A warning of R's own, or an error that is not ours, fails the test.
  ours <- function(code) {
    tryCatch(code, backfill_error = function(cnd) NULL)
  }
  for (table in short_tables()) for (verb in verbs_tried) {
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

test_that("a column has one type, however little there is", {
  types <- function(x) {
    vapply(as.list(x), function(column) {
      paste(c(class(column), typeof(column)), collapse = " ")
    }, "")
  }
  # Of each result and of its summary.
  typed <- function(verb, table) {
    result <- tryCatch(
      suppressWarnings(verb(table)), backfill_error = function(cnd) NULL
    )
    Filter(is.data.frame, list(result, summary(result)))
  }
  withr::local_seed(1)
  full <- lapply(c("flow", "level"), function(kind) {
    value <- 100 + 10 * sin(2 * pi * 1:96 / 12) + stats::rnorm(96)
    value[c(20, 50)] <- NA
    short_table(value, 3, kind)
  })
  tables <- c(short_tables(), list(
    short_table(rep(0, 40), 2, "flow"), short_table(rep(7, 40), 2, "level"),
    short_table(-(1:40), 2, "level")
  ))
  verbs <- c(verbs_tried, list(
    add_returns, deseasonalise, add_share, add_rebased, add_running,
    function(x) add_moving(x, 3, stat = "sd"),
    function(x) add_anomaly(x, "month"),
    function(x) add_anomaly(x, "month", standardised = TRUE),
    function(x) count_bands(add_bands(x, 2, of = "value")),
    function(x) cycle_grid(x, "month", "year")
  ))
  compared <- 0
  for (verb in verbs) {
    known <- lapply(full, function(table) lapply(typed(verb, table), types))
    known <- Filter(length, known)[[1]]
    for (table in tables) {
      found <- lapply(typed(verb, table), types)
      for (i in seq_along(found)) {
        shared <- intersect(names(found[[i]]), names(known[[i]]))
        expect_identical(
          found[[i]][shared], known[[i]][shared],
          label = paste(deparse(verb)[[1]], i)
        )
        compared <- compared + 1
      }
    }
  }
  expect_gt(compared, 250)
})
