daily_of <- function(value, kind = "level") {
  day <- as.Date("2031-01-01") + seq_along(value) - 1
  roll_up(
    records_of(day[!is.na(value)], x = value[!is.na(value)], kind = kind),
    "day", cadence = "day"
  )
}

monthly_of <- function(x) {
  month <- seq(as.Date("2000-01-01"), by = "month", length.out = nrow(x))
  roll_up(
    records_of(
      rep(month, ncol(x)), g = rep(seq_len(ncol(x)), each = nrow(x)),
      x = as.vector(x), series = "g", kind = "level"
    ),
    "month"
  )
}

test_that("lag-1 autocorrelations of reference data are right to 12 digits", {
  # The univariate reference datasets of NIST: NumAcc1, NumAcc2 and Michelso,
  # with certified values.
  lag_1 <- function(value) {
    autocorrelation(
      daily_of(value), lags = 1
    )$coefficient
  }
  expect_equal(lag_1(c(10000001, 10000003, 10000002)), -0.5, tolerance = 1e-12)
  expect_equal(lag_1(c(1.2, rep(c(1.1, 1.3), 500))), -0.999, tolerance = 1e-12)
  expect_equal(
    lag_1((299000 + datasets::morley$Speed) / 1000), 0.535199668621283,
    tolerance = 1e-12
  )
})

test_that("coefficients are those of stats::acf and stats::pacf, with missing values too", {
  withr::local_seed(91)
  value <- as.numeric(stats::arima.sim(list(ar = 0.6), 300))
  gaps <- replace(value, c(5, 60:70, 200), NA)
  for (x in list(value, gaps)) {
    found <- autocorrelation(daily_of(x), lags = 40)
    expect_equal(
      found$coefficient,
      stats::acf(x, 40, na.action = stats::na.pass, plot = FALSE)$acf[-1]
    )
    expect_equal(
      found$partial_coefficient,
      as.vector(
        stats::pacf(x, 40, na.action = stats::na.pass, plot = FALSE)$acf
      )
    )
    off <- x - mean(x, na.rm = TRUE)
    expect_equal(
      found$products[[7]], sum(off[1:293] * off[8:300], na.rm = TRUE)
    )
    expect_identical(found$pairs[[7]], sum(!is.na(off[1:293] * off[8:300])))
  }
  memory <- summary(autocorrelation(daily_of(value), lags = 40))
  test <- stats::Box.test(value, memory$ljung_box_lags, type = "Ljung-Box")
  expect_equal(memory$ljung_box, unname(test$statistic))
  expect_equal(memory$ljung_box_p, test$p.value)
  expect_equal(
    memory$outside_p,
    stats::binom.test(memory$outside, 40, 0.05, "greater")$p.value
  )
  # Two series in one table are apart, and in any order of the rows.
  day <- as.Date("2031-01-01") + 0:299
  two <- roll_up(
    records_of(
      rep(day, 2), g = rep(c("a", "b"), each = 300), x = c(value, rev(value)^2),
      series = "g", kind = "level"
    ),
    "day"
  )
  both <- autocorrelation(two[sample(600), ], lags = 40)
  expect_equal(
    both$coefficient[both$g == "a"],
    autocorrelation(daily_of(value), lags = 40)$coefficient
  )
})

test_that("through Fourier transforms it is the same as one by one", {
  withr::local_seed(92)
  for (n in c(5000, 30011)) {
    value <- cumsum(rnorm(n))
    for (most in c(10, 400, 2047)) {
      one_by_one <- backfill:::lag_products_cpp(value, most, FALSE)
      expect_equal(
        backfill:::lag_products_cpp(value, most, TRUE), one_by_one,
        tolerance = 1e-10
      )
    }
  }
  # And lags far beyond a block, as long as the series.
  value <- rnorm(700)
  expect_equal(
    backfill:::lag_products_cpp(value, 699, TRUE),
    backfill:::lag_products_cpp(value, 699, FALSE), tolerance = 1e-10
  )
})

test_that("verdicts: noise has no structure, seasons are seasonal, what is left of them is noise", {
  withr::local_seed(93)
  day <- as.Date("2031-01-01") + 0:139
  noise <- roll_up(
    records_of(
      rep(day, 300), g = rep(1:300, each = 140), x = rnorm(300 * 140),
      series = "g", kind = "level"
    ),
    "day"
  )
  memory <- summary(autocorrelation(noise))
  expect_lt(mean(memory$verdict != "no structure"), 0.08)
  expect_equal(mean(memory$outside / memory$lags), 0.05, tolerance = 0.25)
  # The Anchor has no season, but a trend; the season of the Wherry moves, and
  # an index that stays leaves some of it.
  houses <- roll_up(inns(), "month")
  expect_identical(
    summary(autocorrelation(houses))$verdict,
    paste0("structure, ", c("not ", "", "", ""), "seasonal")
  )
  left <- add_remainder(houses)
  of_rest <- summary(autocorrelation(left, of = "remainder"))
  expect_identical(
    of_rest$verdict[of_rest$inn %in% c("Anchor", "Lantern")],
    rep("no structure", 2)
  )
  index <- seasonal_index(houses)
  adjusted <- deseasonalise(houses, index)
  lantern <- adjusted$inn == "Lantern"
  at <- 1:46
  fit <- stats::lm(adjusted$adjusted[lantern] ~ at)
  expect_equal(left$remainder[lantern],
               unname(
                 adjusted$adjusted[lantern] /
                   stats::predict(fit, data.frame(at = at)) - 1
               ))
  wandering <- summary(autocorrelation(daily_of(cumsum(rnorm(200)))))
  expect_identical(wandering$verdict, "structure, not seasonal")
  # Bartlett's band: z sqrt((1 + 2 sum of squares before) / n).
  large <- autocorrelation(
    daily_of(cumsum(rnorm(200))), lags = 5, limits = "large lag"
  )
  expect_equal(large$upper[[4]],
               stats::qnorm(0.975) * sqrt(
                 (1 + 2 * sum(large$coefficient[1:3]^2)) * 196 / (200 * 202)
               ))
})

test_that("of two series the one that leads is found, by how much it leads", {
  withr::local_seed(94)
  first <- as.numeric(stats::arima.sim(list(ar = 0.5), 200))
  second <- c(rnorm(3), first[1:197]) + rnorm(200, sd = 0.3)
  day <- as.Date("2031-01-01") + 0:199
  two <- roll_up(
    records_of(
      rep(day, 2), g = rep(c("fuel", "fares"), each = 200),
      x = c(first, second), series = "g", kind = "level"
    ),
    "day"
  )
  found <- cross_correlation(two, "fuel", "fares", lags = 10, on = "values")
  expect_identical(found$lag[which.max(found$coefficient)], 3L)
  for (k in 0:10) {
    at <- seq_len(200 - k)
    expect_equal(
      found$coefficient[found$lag == k], stats::cor(first[at], second[at + k])
    )
    expect_equal(
      found$coefficient[found$lag == -k], stats::cor(first[at + k], second[at])
    )
  }
  back <- cross_correlation(two, "fares", "fuel", lags = 10)
  expect_identical(back$lag[which.max(back$coefficient)], -3L)
  expect_match(
    paste(utils::capture.output(print(back)), collapse = " "),
    "fuel leads fares most at 3 days"
  )
  # Walks that have nothing to do with each other.
  walks <- two
  walks$value <- ave(rnorm(400), walks$g, FUN = cumsum)
  expect_warning(
    cross_correlation(walks, "fuel", "fares", on = "values"), "hardly move",
    class = "backfill_warning_use"
  )
  expect_lt(
    sum(cross_correlation(walks, "fuel", "fares", lags = 20)$outside), 7
  )
  expect_error(
    cross_correlation(two, "fuel", "fuel"), class = "backfill_error_argument"
  )
})

test_that("cycles are suggested where there are any, and none for noise", {
  days <- suggest_cycle(roll_up(crossings(), "day"))
  expect_true(7L %in% days$cycle[days$measure == "market"])
  # High water comes at the same hour again after 14.77 days.
  # Of whole days, four of them come nearest.
  expect_true(59L %in% days$cycle[days$measure == "tide"])
  expect_false(7L %in% days$cycle[days$measure == "tide"])
  months <- suggest_cycle(roll_up(inns(), "month"))
  expect_identical(
    months$cycle[months$inn %in% c("Lantern", "Hearth")], c(12L, 12L)
  )
  expect_false("Anchor" %in% months$inn)
  withr::local_seed(95)
  expect_identical(nrow(suggest_cycle(daily_of(rnorm(100)))), 0L)
  expect_identical(nrow(suggest_cycle(daily_of(cumsum(rnorm(100))))), 0L)
  expect_identical(
    suggest_cycle(daily_of(rep(c(1, 5, 2, 8, 3), 20) + rnorm(100)))$cycle, 5L
  )
})

test_that("smooth cycles are found in values, a year beside a week, and memory makes none", {
  withr::local_seed(96)
  year <- 100 + stats::rnorm(120) + sqrt(2) * sin(2 * pi * 1:120 / 12)
  found <- suggest_cycle(monthly_of(matrix(year)))
  expect_identical(found$cycle, 12L)
  expect_identical(found$seen_in, "values")
  # As much as a fit of the wave explains.
  line <- stats::resid(stats::lm(year ~ seq_along(year)))
  angle <- 2 * pi * 1:120 / 12
  fit <- stats::lm(line ~ 0 + cos(angle) + sin(angle))
  expect_equal(found$explained, sum(stats::fitted(fit)^2) / sum(line^2))
  day <- seq_len(1461)
  both <- daily_of(
    20 * sin(2 * pi * day / 365.25) + c(8, rep(0, 4), -4, -4)[day %% 7 + 1] +
      stats::rnorm(1461, 0, 8)
  )
  expect_setequal(suggest_cycle(both)$cycle, c(365L, 7L))
  remembering <- apply(matrix(stats::rnorm(120 * 200), 120), 2, function(x) {
    as.numeric(stats::filter(x, 0.7, "recursive"))
  })
  wandering <- apply(matrix(stats::rnorm(120 * 200), 120), 2, cumsum)
  for (value in list(remembering, wandering)) {
    series <- unique(suggest_cycle(monthly_of(value))$g)
    # Twice what is stated, and two standard errors of 200 series.
    expect_lt(length(series) / 200, 0.1 + 0.042)
  }
})

test_that("bad calls are refused", {
  x <- daily_of(rnorm(20))
  expect_error(
    autocorrelation(x, lags = 20), "no series is longer",
    class = "backfill_error_over"
  )
  expect_error(
    autocorrelation(x, lags = "1 year"), class = "backfill_error_over"
  )
  expect_error(
    autocorrelation(x, confidence = 1), class = "backfill_error_argument"
  )
  expect_error(autocorrelation(data.frame()), class = "backfill_error_input")
  expect_identical(
    summary(autocorrelation(daily_of(c(2, 2, 2, 2))))$verdict, "constant"
  )
})

test_that("a season is found behind a trend, and said to be hidden by it", {
  withr::local_seed(101)
  n <- 60
  noise <- matrix(rnorm(n * 300), n)
  season <- 3 * cos(2 * pi * seq_len(n) / 12)
  found <- summary(autocorrelation(monthly_of(
    0.5 * seq_len(n) + season + noise
  )))
  expect_gt(mean(found$verdict == "structure, seasonal"), 0.98)
  expect_gt(mean(found$hidden), 0.9)
  # A bent trend too; and no season where there is none.
  bent <- summary(autocorrelation(monthly_of(
    0.01 * seq_len(n)^2 + season + noise
  )))
  expect_gt(mean(bent$verdict == "structure, seasonal"), 0.98)
  plain <- summary(autocorrelation(monthly_of(0.5 * seq_len(n) + noise)))
  expect_identical(sum(plain$verdict == "structure, not seasonal") >= 294, TRUE)
  walk <- summary(autocorrelation(monthly_of(apply(noise, 2, cumsum))))
  expect_lt(mean(walk$seasonal), 0.07)
  one <- autocorrelation(monthly_of(matrix(
    0.5 * seq_len(n) + season + noise[, 1]
  )))
  expect_match(
    paste(trimws(utils::capture.output(print(one))), collapse = " "),
    "The trend hides the season: around"
  )
})

test_that("the band and the number expected outside fit the estimator, at any length and lag", {
  withr::local_seed(102)
  for (n in c(12, 60)) {
    for (lags in list(NULL, n - 2)) {
      memory <- autocorrelation(
        monthly_of(matrix(rnorm(n * 600), n)), lags = lags
      )
      found <- summary(memory)
      expect_equal(mean(found$outside), mean(found$expected), tolerance = 0.2)
      expect_lte(
        max(memory$lag[!is.na(memory$coefficient)]),
        if (is.null(lags)) {
          n / 4
        } else {
          n
        }
      )
      expect_gte(min(memory$pairs[!is.na(memory$outside)]), 5)
    }
  }
  # sqrt((n - k) / (n (n + 2))) standard errors.
  k <- memory$lag[1:50]
  expect_equal(
    memory$upper[k], stats::qnorm(0.975) * sqrt((60 - k) / (60 * 62))
  )
})

test_that("the verdict keeps its size and has the power of lag 1", {
  withr::local_seed(103)
  rate <- function(x) {
    mean(grepl(
      "^structure", summary(autocorrelation(monthly_of(x)))$verdict
    ))
  }
  for (n in c(12, 24, 60, 120)) {
    # 5%, with three standard errors of 1,500 series.
    expect_lt(
      rate(matrix(rnorm(n * 1500), n)), 0.05 + 3 * sqrt(0.05 * 0.95 / 1500)
    )
  }
  memory <- replicate(600, as.numeric(stats::arima.sim(list(ar = 0.3), 60)))
  expect_gt(rate(memory), 0.5)
  # Structure at other lags than the first is found as well.
  two <- replicate(300, as.numeric(stats::arima.sim(list(ma = c(0, 0.8)), 120)))
  expect_gt(rate(two), 0.8)
})

test_that("months that vary more than others make no structure: the error at a year is wider", {
  withr::local_seed(91)
  lines <- 300
  value <- matrix(stats::rnorm(60 * lines), 60) *
    ifelse(1:60 %% 12 %in% 1:3, 4, 1)
  x <- roll_up(records_of(
    rep(seq(as.Date("2026-01-01"), by = "month", length.out = 60), lines),
    g = rep(seq_len(lines), each = 60), value = as.vector(value), series = "g",
    kind = "level"
  ), "month")
  found <- autocorrelation(x)
  # Twice what is stated, and two standard errors of 300 cases.
  expect_lt(mean(summary(found)$p < 0.05), 0.1 + 0.035)
  one <- backfill:::facts(found)$wider
  one <- one[one$g == one$g[[1]], ]
  off <- value[, 1] - mean(value[, 1])
  square <- off^2 - mean(off^2)
  at <- 12
  product <- sum(square[1:(60 - at)] * square[(1 + at):60])
  band <- 1.645 * sqrt((60 - at) / (60 * 62))
  expect_gt(product / sum(square^2), band)
  wider <- sqrt(1 + product / ((60 - at) * mean(off^2)^2))
  expect_equal(one$wider[[at]], wider)
  # Lags at which they do not hang together keep the plain error.
  expect_true(any(one$wider == 1))
})

test_that("what is too short, constant or without pairs is said to be so", {
  verdict <- function(value) summary(autocorrelation(daily_of(value)))$verdict
  expect_identical(verdict(c(1, 2)), "too short to tell")
  expect_identical(verdict(c(1, 5, 2)), "too short to tell")
  expect_identical(verdict(rep(3, 40)), "constant")
  # Every other day: no pair at lag 1, pairs enough at lag 2.
  gaps <- replace(rnorm(41), seq(2, 40, 2), NA)
  memory <- autocorrelation(daily_of(gaps))
  expect_true(is.na(memory$coefficient[1]))
  expect_match(summary(memory)$verdict, "structure")
  lone <- replace(
    rep(NA_real_, 60), c(1, 2, 4, 8, 15, 27, 40, 60), c(3, 1, 4, 1, 5, 9, 2, 6)
  )
  expect_identical(verdict(lone), "too short to tell")
  said <- paste(
    utils::capture.output(print(autocorrelation(daily_of(rep(3, 40))))),
    collapse = " "
  )
  expect_match(said, "is constant", fixed = TRUE)
})

test_that("no partial autocorrelation lies beyond 1, whatever is missing", {
  withr::local_seed(104)
  withheld <- 0
  for (i in 1:100) {
    value <- replace(
      as.numeric(stats::arima.sim(list(ar = 0.9), 80)), sample(80, 30), NA
    )
    found <- autocorrelation(daily_of(value), lags = 30)
    expect_lte(
      max(
        0, abs(found$partial_coefficient), abs(found$coefficient), na.rm = TRUE
      ), 1
    )
    withheld <- withheld + anyNA(found$partial_coefficient)
  }
  expect_gt(withheld, 0)
})

test_that("a cross-correlation is that of its pairs: within 1, and 1 for a perfect link", {
  withr::local_seed(105)
  two_of <- function(first, second) {
    day <- as.Date("2031-01-01") + seq_along(first) - 1
    there <- c(!is.na(first), !is.na(second))
    roll_up(
      records_of(
        rep(day, 2)[there], g = rep(c("a", "b"), each = length(day))[there],
        x = c(first, second)[there], series = "g", kind = "level"
      ),
      "day", cadence = "day"
    )
  }
  # The second repeats the first two days later, but is known for a part only,
  # in which it varies more, or less.
  first <- c(rnorm(60), rnorm(60, sd = 20))
  second <- c(NA, NA, first[1:118])
  for (part in list(1:60, 61:120)) {
    found <- cross_correlation(
      two_of(first, replace(second, -part, NA)), "a", "b", lags = 10,
      on = "values"
    )
    expect_equal(found$coefficient[found$lag == 2], 1)
    expect_lte(max(abs(found$coefficient)), 1)
  }
  gaps <- two_of(
    replace(first, sample(120, 40), NA), replace(second, sample(120, 40), NA)
  )
  found <- cross_correlation(gaps, "a", "b", lags = 20, on = "values")
  grid <- widen(gaps, "series")
  for (lag in c(-7, 0, 3)) {
    at <- seq_len(120 - abs(lag)) + max(0, -lag)
    expect_equal(
      found$coefficient[found$lag == lag],
      stats::cor(grid$a[at], grid$b[at + lag], use = "complete.obs")
    )
    expect_equal(
      found$pairs[found$lag == lag], sum(!is.na(grid$a[at] + grid$b[at + lag]))
    )
  }
  expect_lte(max(cross_correlation(gaps, "a", "b")$lag), 30)
  # Independent series lie outside the band as often as it says.
  outside <- replicate(
    200,
    mean(
      cross_correlation(
        two_of(rnorm(60), rnorm(60)), "a", "b", on = "values"
      )$outside
    )
  )
  expect_equal(mean(outside), 0.05, tolerance = 0.3)
})

test_that("changes are not differenced once more", {
  withr::local_seed(106)
  day <- as.Date("2031-01-01") + 0:99
  prices <- records_of(
    rep(day, 2), g = rep(c("a", "b"), each = 100), x = 100 + cumsum(rnorm(200)),
    series = "g", kind = "level"
  )
  table <- add_growth(add_returns(roll_up(prices, "day")))
  made <- function(...) {
    attr(
      cross_correlation(table, "a", "b", ...), "backfill"
    )$on
  }
  expect_identical(made(), "differences")
  expect_identical(made(of = "return"), "values")
  expect_identical(made(of = "growth_1_day"), "values")
  expect_identical(made(of = "return", on = "differences"), "differences")
  gains <- records_of(
    rep(day, 2), g = rep(c("a", "b"), each = 100), x = rnorm(200, sd = 0.01),
    series = "g", kind = "return"
  )
  expect_identical(
    attr(cross_correlation(roll_up(gains, "day"), "a", "b"), "backfill")$on,
    "values"
  )
})

test_that("one series is not said to lead another more often than by chance", {
  withr::local_seed(80)
  two <- function(n, first, second) {
    when <- seq(as.Date("2001-01-01"), by = "month", length.out = n)
    x <- records_of(
      rep(when, 2), g = rep(c("a", "b"), each = n), x = c(first, second),
      series = "g", kind = "level"
    )
    found <- cross_correlation(roll_up(x, "month"), "a", "b")
    paste(backfill:::describe(found), collapse = " ")
  }
  verdict <- "\\); by chance"
  said <- replicate(100, two(60, rnorm(60), rnorm(60)))
  expect_lt(sum(grepl(verdict, said)), 12)
  # Of some of the lags the same is told.
  found <- cross_correlation(
    roll_up(inns(), "month"), "Lantern", "Hearth"
  )
  expect_identical(
    backfill:::describe(found[found$lag >= 0 | found$outside, ]),
    backfill:::describe(found)
  )
  # Each with a season of its own: no lead is judged.
  season <- 3 * sin(2 * pi * 1:60 / 12)
  expect_match(
    two(60, season + rnorm(60), season + rnorm(60)),
    "No lead is judged, as both have a season"
  )
  news <- rnorm(63)
  expect_match(
    two(60, news[4:63], news[1:60] + 0.3 * rnorm(60)),
    "a leads b most at 3 months .*; by chance the largest of 29 lags would"
  )
})
