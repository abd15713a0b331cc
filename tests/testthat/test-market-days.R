# What came before a Monday of a market is its Friday: the cadence travels with
# the table, and all verbs count the same figures.

market_records <- function(n = 140, names = c("a", "b")) {
  withr::local_seed(2)
  day <- seq(as.Date("2031-01-01"), by = "day", length.out = n)
  day <- day[as.POSIXlt(day)$wday %in% 1:5]
  data.frame(
    day = rep(day, length(names)), fund = rep(names, each = length(day)),
    price = exp(3 + unlist(lapply(names, function(name) {
      cumsum(stats::rnorm(length(day), 0, 0.01))
    })))
  )
}

market <- function(...) {
  roll_up(as_records(
    market_records(...), "day", c(price = "level"), series = "fund"
  ), "day")
}

test_that("returns, descriptions, correlations and lags of a market count the same figures", {
  data <- market_records()
  prices <- split(data$price, data$fund)
  returns <- lapply(prices, function(p) p[-1] / p[-length(p)] - 1)
  count <- length(returns$a)
  daily <- add_returns(market())
  given <- !is.na(daily$return)
  expect_identical(as.vector(tapply(given, daily$fund, sum)), rep(count, 2))
  expect_equal(daily$return[given], unlist(returns, use.names = FALSE))
  pair <- correlations(daily, of = "return")
  expect_identical(pair$n, count)
  expect_equal(pair$coefficient, stats::cor(returns$a, returns$b))
  changes <- correlations(market())
  expect_identical(changes$n, count)
  expect_equal(
    changes$coefficient, stats::cor(diff(prices$a), diff(prices$b))
  )
  lags <- autocorrelation(daily, of = "return", lags = 5)
  expect_identical(lags$pairs, rep(count - 1:5, 2))
  own <- unlist(lapply(returns, function(r) {
    stats::acf(r, 5, plot = FALSE)$acf[2:6]
  }))
  expect_equal(lags$coefficient, unname(own))
  said <- series_summary(daily, of = "return")
  expect_identical(said$n, rep(count, 2))
  expect_equal(said$autocorrelation, lags$coefficient[lags$lag == 1])
  both <- cross_correlation(market(), "a", "b", lags = 2)
  expect_identical(both$pairs, count - c(2L, 1L, 0L, 1L, 2L))
  # A week has five of its days, and traces work the same out.
  expect_equal(lags$cycles[[5]], 1)
  for (result in list(lags, pair, said)) {
    expect_s3_class(trace_value(
      result, row = 1, column = if (identical(result, said)) "autocorrelation"
      else "coefficient", made_of = daily
    ), "backfill_trace")
  }
})

test_that("the cadence travels with the table through every verb", {
  daily <- market()
  own <- backfill:::facts(daily)$cadences$cadences$weekdays
  expect_identical(own, c(31L, 31L))
  other <- roll_up(as_records(
    market_records(names = "c"), "day", c(price = "level"), series = "fund"
  ), "day")
  results <- every_result(
    as_records(market_records(), "day", c(price = "level"), series = "fund"),
    daily, "price", "price"
  )
  results$put_together <- put_together(daily, other)
  results$basket <- basket(daily, c(a = 0.5, b = 0.5))
  tables <- Filter(function(x) {
    backfill:::is_periods(x) &&
      backfill:::period_noun(backfill:::facts(x)$calendar) == "day"
  }, results)
  expect_gt(length(tables), 12)
  for (name in names(tables)) {
    x <- tables[[name]]
    cadences <- backfill:::facts(x)$cadences$cadences
    expect_true(all(cadences$weekdays == 31L), label = name)
    expect_false(any(backfill:::is_irregular(cadences)), label = name)
  }
  # A portfolio's risk is that of all its days.
  held <- add_returns(results$basket)
  expect_identical(sum(!is.na(held$return)), 99L)
  expect_identical(sum(!is.na(add_returns(results$put_together)$return)), 297L)
})

test_that("growth, lags, windows and flags of a market count its own days", {
  daily <- market()
  prices <- split(market_records()$price, market_records()$fund)
  rows <- !is.na(daily$value)
  of <- function(f) unlist(lapply(prices, f), use.names = FALSE)
  back <- function(p, k) c(rep(NA, k), utils::head(p, -k))
  grown <- add_growth(daily, over = c(1, 4, 5))
  for (k in c(1, 4, 5)) {
    name <- if (k == 1) "growth_1_day" else sprintf("growth_%d_open_days", k)
    expect_equal(
      grown[[name]][rows], of(function(p) 100 * (p / back(p, k) - 1))
    )
    expect_true(all(is.na(grown[[name]][!rows])))
  }
  # A length of time is that of the calendar: five days before a Friday is a
  # Sunday.
  by_date <- add_growth(daily, over = c("7 days", "5 days"))
  expect_equal(by_date$growth_7_days, grown$growth_5_open_days)
  day <- market_records(names = "a")$day
  expect_equal(!is.na(by_date$growth_5_days[rows]), rep((day - 5) %in% day, 2))
  lagged <- add_lagged(add_lagged(daily, lag = 3), lag = -1)
  expect_equal(lagged$value_3_open_days_before[rows], of(\(p) back(p, 3)))
  expect_equal(lagged$value_1_day_ahead[rows], of(\(p) c(p[-1], NA)))
  mean_of <- function(p, w) {
    as.vector(stats::filter(p, rep(1 / w, w), sides = 1))
  }
  for (window in list(5, "1 week")) {
    moving <- add_moving(daily, window = window)
    expect_equal(moving$moving_mean[rows][6:100], of(\(p) mean_of(p, 5))[6:100])
  }
  centred <- add_moving(daily, window = 6, align = "centred", stat = "sum")
  expect_equal(
    centred$moving_sum[rows],
    of(\(p) as.vector(stats::filter(p, c(0.5, rep(1, 5), 0.5))))
  )
  weighted <- add_moving(daily, weights = 1:3)
  expect_equal(
    weighted$moving_mean[rows],
    of(\(p) as.vector(stats::filter(p, 3:1 / 6, sides = 1)))
  )
  flags <- flag_periods(daily, last = 5, need = 5)
  expect_equal(
    flags$baseline[rows], of(\(p) back(mean_of(p, 5), 1))
  )
  expect_output(print(flags), "the mean of the last 5 open days")
  # The default is a week of the market.
  expect_equal(flag_periods(daily, need = 5)$baseline, flags$baseline)
  before <- flag_periods(daily, "previous period", c(percent = 1))
  expect_equal(before$baseline[rows], of(\(p) back(p, 1)))
  at <- "2031-02-10" # a Monday
  for (table in list(grown, lagged, centred, weighted)) {
    made <- setdiff(names(table), names(daily))
    for (column in made) {
      trace <- trace_value(
        table, column = column, period = at, series = "b"
      )
      expect_false(is.na(trace$worked[[1]]), label = column)
    }
  }
  for (table in list(flags, before)) {
    trace <- trace_value(table, period = at, series = "b")
    expect_false(is.na(trace$worked[[1]]))
    expect_error(
      trace_value(table, period = "2031-02-09", series = "b"), "expects nothing"
    )
  }
  # A run goes on over a weekend.
  runs <- summary(flag_periods(daily, beyond = c(sd = 0.1)), type = "episodes")
  expect_true(any(
    as.numeric(runs$end - runs$start, units = "days") + 1 > runs$periods
  ))
  expect_output(print(grown), "nothing is expected in the period \\(80\\)")
})

test_that("what is open by the clock is counted, too", {
  hour <- seq(
    as.POSIXct("2031-01-06", tz = "UTC"), by = "hour", length.out = 24 * 14
  )
  hour <- hour[as.POSIXlt(hour)$hour %in% 9:16]
  value <- seq_along(hour)^2
  x <- roll_up(keep_dates(
    as_records(data.frame(hour, value), "hour", c(value = "level")),
    hours = 9:16
  ), "hour")
  rows <- !is.na(x$value)
  lagged <- add_lagged(x, lag = 2)
  expect_equal(
    lagged$value_2_open_hours_before[rows], c(NA, NA, utils::head(value, -2))
  )
  expect_equal(
    add_lagged(x, lag = "1 day")$value_1_day_before[rows],
    c(rep(NA, 8), utils::head(value, -8))
  )
  expect_equal(
    add_moving(x, window = "1 day")$moving_mean[rows][-(1:8)],
    as.vector(stats::filter(value, rep(1 / 8, 8), sides = 1))[-(1:8)]
  )
})

test_that("rankings and latest figures of a market move from day to day", {
  daily <- market(names = "a")
  price <- market_records(names = "a")$price
  n <- length(price)
  moves <- rank_changes(daily, n = 1000)
  expect_equal(sort(moves$change), sort(diff(price)))
  flat <- rank_changes(daily, order = "flattest", stretch = 5, n = 1)
  ranges <- vapply(5:n, function(i) diff(range(price[(i - 4):i])), 0)
  means <- vapply(5:n, function(i) mean(price[(i - 4):i]), 0)
  expect_equal(flat$percent, min(100 * ranges / means))
  expect_s3_class(
    trace_value(flat, row = 1, column = "percent", made_of = daily),
    "backfill_trace"
  )
  monday <- max(which(format(market_records(names = "a")$day, "%u") == "1"))
  on <- market_records(names = "a")$day[monday]
  now <- latest(daily, on = on)
  expect_equal(now$change, price[monday] - price[monday - 1])
  expect_equal(rank_series(daily, at = on)$change, now$change)
  expect_output(print(now), "on the open day before")
  expect_s3_class(
    trace_value(now, row = 1, column = "change", made_of = daily),
    "backfill_trace"
  )
})

test_that("the lines of a market run on over its weekends, and stop at holes", {
  data <- market_records(names = "a")
  hole <- data$day %in% data$day[31:33]
  x <- add_moving(roll_up(as_records(
    data[!hole, ], "day", c(price = "level"), series = "fund"
  ), "day"), 5)
  for (of in c("value", "moving_mean")) {
    drawn <- backfill:::without_closed(x, of)
    open <- !format(x$period, "%u") %in% c("6", "7")
    expect_identical(drawn$period, x$period[open])
    expect_identical(sum(is.na(drawn$value)), 3L)
  }
  drawn <- autoplot(x)$data
  expect_false(any(format(drawn$period, "%u") %in% c("6", "7")))
})

test_that("a holiday is gone over by returns, also one next to a weekend", {
  data <- market_records(n = 400, names = "a")
  weekday <- format(data$day, "%u")
  # Mondays, Fridays and days within a week, and Monday with Tuesday.
  gone <- c(
    which(weekday == "1")[c(3, 11)], which(weekday == "5")[c(5, 20)],
    which(weekday == "3")[c(8, 30)], which(weekday == "1")[40] + 0:1
  )
  kept <- data[-gone, ]
  x <- add_returns(roll_up(as_records(
    kept, "day", c(price = "level"), series = "fund"
  ), "day"))
  known <- !is.na(x$value)
  expect_equal(
    x$return[known], c(NA, kept$price[-1] / kept$price[-nrow(kept)] - 1)
  )
  # Three days in a row are more than a weekend.
  far <- data[-(which(weekday == "1")[40] + 0:2), ]
  x <- add_returns(roll_up(as_records(
    far, "day", c(price = "level"), series = "fund"
  ), "day"))
  expect_identical(sum(!is.na(x$return)), nrow(far) - 2L)
})

test_that("empty tables and single rows of a market are no fault", {
  daily <- market()
  for (x in list(daily[0, ], daily[1, ])) {
    expect_silent({
      add_growth(x, 3)
      add_lagged(x, 2)
      add_moving(x, 5, stat = "sum", present = 0.5)
      add_moving(x, "1 week")
      flag_periods(x)
      series_summary(x)
    })
  }
  expect_error(latest(daily[0, ]), class = "backfill_error_input")
  expect_error(
    add_moving(daily, "1 day"), class = "backfill_error_window"
  )
})
