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
