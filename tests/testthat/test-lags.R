daily_of <- function(value, kind = "level") {
  day <- as.Date("2031-01-01") + seq_along(value) - 1
  roll_up(records_of(day[!is.na(value)], x = value[!is.na(value)], kind = kind), "day", cadence = "day")
}

test_that("lag-1 autocorrelations of reference data are right to 12 digits", {
  # The univariate reference datasets of NIST: NumAcc1, NumAcc2 and Michelso, with certified values.
  lag_1 <- function(value) autocorrelation(daily_of(value), lags = 1)$coefficient
  expect_equal(lag_1(c(10000001, 10000003, 10000002)), -0.5, tolerance = 1e-12)
  expect_equal(lag_1(c(1.2, rep(c(1.1, 1.3), 500))), -0.999, tolerance = 1e-12)
  expect_equal(lag_1((299000 + datasets::morley$Speed) / 1000), 0.535199668621283, tolerance = 1e-12)
})

test_that("coefficients are those of stats::acf and stats::pacf, with missing values too", {
  withr::local_seed(91)
  value <- as.numeric(stats::arima.sim(list(ar = 0.6), 300))
  gaps <- replace(value, c(5, 60:70, 200), NA)
  for (x in list(value, gaps)) {
    found <- autocorrelation(daily_of(x), lags = 40)
    expect_equal(found$coefficient, stats::acf(x, 40, na.action = stats::na.pass, plot = FALSE)$acf[-1])
    expect_equal(found$partial, as.vector(stats::pacf(x, 40, na.action = stats::na.pass, plot = FALSE)$acf))
    off <- x - mean(x, na.rm = TRUE)
    expect_equal(found$products[[7]], sum(off[1:293] * off[8:300], na.rm = TRUE))
    expect_identical(found$pairs[[7]], sum(!is.na(off[1:293] * off[8:300])))
  }
  memory <- summary(autocorrelation(daily_of(value), lags = 40))
  test <- stats::Box.test(value, memory$ljung_box_lags, type = "Ljung-Box")
  expect_equal(memory$ljung_box, unname(test$statistic))
  expect_equal(memory$ljung_box_p, test$p.value)
  expect_equal(memory$outside_p, stats::binom.test(memory$outside, 40, 0.05, "greater")$p.value)
  # Two series in one table are apart, and in any order of the rows.
  day <- as.Date("2031-01-01") + 0:299
  two <- roll_up(records_of(rep(day, 2), g = rep(c("a", "b"), each = 300), x = c(value, rev(value)^2), series = "g",
                            kind = "level"), "day")
  both <- autocorrelation(two[sample(600), ], lags = 40)
  expect_equal(both$coefficient[both$g == "a"], autocorrelation(daily_of(value), lags = 40)$coefficient)
})

test_that("through Fourier transforms it is the same as one by one", {
  withr::local_seed(92)
  for (n in c(5000, 30011)) {
    value <- cumsum(rnorm(n))
    for (most in c(10, 400, 2047)) {
      one_by_one <- backfill:::lag_products_cpp(value, most, FALSE)
      expect_equal(backfill:::lag_products_cpp(value, most, TRUE), one_by_one, tolerance = 1e-10)
    }
  }
  # And lags far beyond a block, as long as the series.
  value <- rnorm(700)
  expect_equal(backfill:::lag_products_cpp(value, 699, TRUE), backfill:::lag_products_cpp(value, 699, FALSE),
               tolerance = 1e-10)
})

test_that("verdicts: noise has no structure, seasons are seasonal, what is left of them is noise", {
  withr::local_seed(93)
  day <- as.Date("2031-01-01") + 0:139
  noise <- roll_up(records_of(rep(day, 300), g = rep(1:300, each = 140), x = rnorm(300 * 140), series = "g",
                              kind = "level"), "day")
  memory <- summary(autocorrelation(noise))
  expect_lt(mean(memory$verdict != "no structure"), 0.1)
  expect_gt(mean(memory$verdict == "no structure"), 0.9)
  expect_equal(mean(memory$outside / memory$lags), 0.05, tolerance = 0.25)
  islands <- roll_up(guest_nights(), "month")
  expect_identical(summary(autocorrelation(islands))$verdict, rep("structure, seasonal", 4))
  left <- add_remainder(islands)
  expect_identical(summary(autocorrelation(left, of = "remainder"))$verdict, rep("no structure", 4))
  index <- seasonal_index(islands)
  adjusted <- deseasonalise(islands, index)
  ostrel <- adjusted$island == "Ostrel"
  at <- 1:46
  fit <- stats::lm(adjusted$adjusted[ostrel] ~ at)
  expect_equal(left$remainder[ostrel],
               unname(adjusted$adjusted[ostrel] / stats::predict(fit, data.frame(at = at)) - 1))
  wandering <- summary(autocorrelation(daily_of(cumsum(rnorm(200)))))
  expect_identical(wandering$verdict, "structure, not seasonal")
  # Bartlett's band: z sqrt((1 + 2 sum of squares before) / n).
  large <- autocorrelation(daily_of(cumsum(rnorm(200))), lags = 5, band = "large lag")
  expect_equal(large$upper[[4]], stats::qnorm(0.975) * sqrt((1 + 2 * sum(large$coefficient[1:3]^2)) / 200))
})

test_that("of two series the one that leads is found, by how much it leads", {
  withr::local_seed(94)
  first <- as.numeric(stats::arima.sim(list(ar = 0.5), 200))
  second <- c(rnorm(3), first[1:197]) + rnorm(200, sd = 0.3)
  day <- as.Date("2031-01-01") + 0:199
  two <- roll_up(records_of(rep(day, 2), g = rep(c("fuel", "fares"), each = 200), x = c(first, second), series = "g",
                            kind = "level"), "day")
  found <- cross_correlation(two, "fuel", "fares", lags = 10, made = "values")
  expect_identical(found$lag[which.max(found$coefficient)], 3L)
  base <- stats::ccf(second, first, 10, plot = FALSE)
  expect_equal(found$coefficient, as.vector(base$acf))
  back <- cross_correlation(two, "fares", "fuel", lags = 10)
  expect_identical(back$lag[which.max(back$coefficient)], -3L)
  expect_match(paste(utils::capture.output(print(back)), collapse = " "), "fuel leads fares most at 3 days")
  # Walks that have nothing to do with each other.
  walks <- two
  walks$value <- ave(rnorm(400), walks$g, FUN = cumsum)
  expect_warning(cross_correlation(walks, "fuel", "fares", made = "values"), "hardly move",
                 class = "backfill_warning_use")
  expect_lt(sum(cross_correlation(walks, "fuel", "fares", lags = 20)$outside), 7)
  expect_error(cross_correlation(two, "fuel", "fuel"), class = "backfill_error_argument")
})

test_that("cycles are suggested where there are any, and none for noise", {
  days <- suggest_cycle(roll_up(sailings(), "day"))
  expect_true(all(c(7L) %in% days$cycle))
  expect_lt(min(abs(days$cycle[days$measure == "north"] - 365)), 4)
  expect_identical(suggest_cycle(roll_up(guest_nights(), "month"))$cycle, rep(12L, 4))
  withr::local_seed(95)
  expect_null(suggest_cycle(daily_of(rnorm(100))))
  expect_null(suggest_cycle(daily_of(cumsum(rnorm(100)))))
  expect_identical(suggest_cycle(daily_of(rep(c(1, 5, 2, 8, 3), 20) + rnorm(100)))$cycle, 5L)
})

test_that("bad calls are refused", {
  x <- daily_of(rnorm(20))
  expect_error(autocorrelation(x, lags = 20), "no series is longer", class = "backfill_error_over")
  expect_error(autocorrelation(x, lags = "1 year"), class = "backfill_error_over")
  expect_error(autocorrelation(x, level = 1), class = "backfill_error_argument")
  expect_error(autocorrelation(data.frame()), class = "backfill_error_input")
  expect_identical(summary(autocorrelation(daily_of(c(2, 2, 2, 2))))$verdict, "too short to tell")
})
