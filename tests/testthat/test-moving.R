moving_of <- function(value, window, align = "trailing") {
  day <- as.Date("2031-01-01") + seq_along(value) - 1
  add_moving(
    roll_up(records_of(day, kilos = value), "day"), window, align = align
  )$moving_mean
}

test_that("moving means by hand: trailing, centred odd, centred even", {
  value <- c(2, 4, 9, 1, 5, 3)
  expect_equal(moving_of(value, 3), c(NA, NA, 5, 14 / 3, 5, 3))
  expect_equal(moving_of(value, 3, "centred"), c(NA, 5, 14 / 3, 5, 3, NA))
  # 2 by 4: (2/2 + 4 + 9 + 1 + 5/2) / 4 and (4/2 + 9 + 1 + 5 + 3/2) / 4
  expect_equal(
    moving_of(value, 4, "centred"), c(NA, NA, 17.5 / 4, 18.5 / 4, NA, NA)
  )
  expect_identical(moving_of(value, 7), rep(NA_real_, 6))
})

test_that("moving means agree with stats::filter for every width, and no NA is bridged", {
  withr::local_seed(3)
  value <- rnorm(80)
  value[c(1, 30, 31, 62)] <- NA
  for (width in c(2:13, 40, 80)) {
    trailing <- as.numeric(
      stats::filter(value, rep(1 / width, width), sides = 1)
    )
    expect_equal(moving_of(value, width), trailing, label = width)
    half <- width %/% 2
    weights <- if (width %% 2 == 1) {
      rep(1, width)
    } else {
      c(0.5, rep(1, width - 1), 0.5)
    }
    centred <- if (length(weights) <= 80) {
      stats::filter(value, weights / width)
    } else {
      rep(NA, 80)
    }
    expect_equal(
      moving_of(value, width, "centred"), as.numeric(centred), label = width
    )
  }
})

test_that("a million-point window never drifts, also over values of very different size", {
  withr::local_seed(5)
  value <- rnorm(1e6) + rep(c(1e9, 0), each = 5e5)
  moving <- function(stat, share = 0) {
    backfill:::moving_cpp(
      rep(1L, 1e6), as.numeric(1:1e6), value, 364L, 0L, numeric(), FALSE, stat,
      share, 1
    )$value
  }
  mean <- moving(0L)
  median <- moving(5L, 0.5)
  # Also at the seams of the stretches that a long series is worked on in.
  for (at in c(365, 123456, 131072:131074, 500364, 500365, 777777, 1e6)) {
    expect_equal(mean[[at]], sum(value[(at - 364):at]) / 365, tolerance = 1e-12)
    expect_identical(median[[at]], stats::median(value[(at - 364):at]))
  }
})

test_that("nothing later changes anything earlier", {
  withr::local_seed(6)
  value <- exp(rnorm(50))
  later <- replace(value, 36:50, 1000)
  expect_identical(moving_of(later, 7)[1:35], moving_of(value, 7)[1:35])
})

test_that("a window does not reach into the next series, and a period without a row is no neighbour", {
  monthly <- add_moving(roll_up(inns(), "month"), "1 year")
  wherry <- monthly[monthly$inn == "Wherry", ]
  expect_identical(which(is.na(wherry$moving_mean)), c(1:11, 22:34))
  expect_equal(wherry$moving_mean[[12]], mean(wherry$value[1:12]))
  # Without the row in between, the window around it is not closed up.
  short <- add_moving(wherry[-5, setdiff(names(wherry), "moving_mean")], 3)
  expect_identical(which(is.na(short$moving_mean))[1:4], c(1L, 2L, 5L, 6L))
})

test_that("lost ends and broken windows are counted", {
  monthly <- add_moving(roll_up(inns(), "month"), 12, align = "centred")
  note <- attr(monthly, "backfill")$added$moving_mean
  expect_identical(sum(note$withheld), sum(is.na(monthly$moving_mean)))
  expect_identical(note$withheld[[1]], 4L * 12L)
})

test_that("bad calls are refused", {
  monthly <- roll_up(inns(), "month")
  expect_error(
    add_moving(monthly, 1), "at least 2", class = "backfill_error_window"
  )
  expect_error(
    add_moving(monthly, "3 weeks"), "whole number of months",
    class = "backfill_error_window"
  )
  expect_error(
    add_moving(monthly, 3, align = "left"), "leading",
    class = "backfill_error_argument"
  )
  expect_error(
    add_moving(monthly, 3, name = "value"), "already",
    class = "backfill_error_column"
  )
})

# By base R, window by window. `value` lies on a grid without holes.
moving_by_hand <- function(value, width, stat, align, enough) {
  figure <- switch(
    stat, mean = mean, sum = function(x) mean(x) * width, sd = stats::sd,
    lowest = min, highest = max, median = stats::median,
    "10%" = function(x) unname(stats::quantile(x, 0.1))
  )
  starts <- function(at) {
    if (at < 1 || at + width - 1 > length(value)) return(NA_real_)
    x <- value[at:(at + width - 1)]
    x <- x[!is.na(x)]
    if (length(x) == 0 || length(x) < enough * width) NA_real_ else figure(x)
  }
  vapply(seq_along(value), function(i) {
    switch(align, trailing = starts(i - width + 1), leading = starts(i),
           centred = if (width %% 2 == 1) starts(i - width %/% 2) else
             (starts(i - width %/% 2) + starts(i - width %/% 2 + 1)) / 2)
  }, 0)
}

test_that("every statistic, place, width and share of a window is what base R gives window by window", {
  withr::local_seed(21)
  value <- round(rnorm(60), 1)
  value[c(1, 2, 20:24, 40, 59)] <- NA
  day <- as.Date("2031-01-01") + 0:59
  daily <- roll_up(
    records_of(day[!is.na(value)], x = value[!is.na(value)]), "day",
    cadence = "day"
  )
  value <- daily$value
  for (stat in c("mean", "sum", "sd", "lowest", "highest", "median", "10%")) {
    for (align in c("trailing", "centred", "leading")) {
      for (width in c(2, 3, 7, 12, 40)) {
        for (enough in c(1, 0.5)) {
          found <- add_moving(
            daily, width, stat, align, present = enough, name = "m"
          )
          expected <- moving_by_hand(value, width, stat, align, enough)
          expect_equal(
            found$m, expected, label = paste(stat, align, width, enough)
          )
        }
      }
    }
  }
  # Rows that are missing count as missing periods.
  some <- daily[-c(5, 6, 30), ]
  expect_equal(add_moving(some, 5, "highest", present = 0.4)$moving_highest,
               moving_by_hand(
                 replace(value, c(5, 6, 30), NA), 5, "highest", "trailing", 0.4
               )[-c(5, 6, 30)])
})

test_that("windows over a missing value in every position, of one, two, equal and no values", {
  for (at in 1:7) {
    value <- replace(c(3, 1, 4, 1, 5, 9, 2), at, NA)
    for (stat in c("mean", "lowest", "median")) {
      x <- roll_up(
        records_of((as.Date("2031-01-01") + 0:6)[-at], x = value[-at]), "day",
        cadence = "day"
      )
      on_grid <- value[as.integer(x$period - as.Date("2031-01-01")) + 1]
      expected <- moving_by_hand(on_grid, 3, stat, "trailing", 1)
      expect_equal(
        add_moving(x, 3, stat, name = "m")$m, expected,
        label = paste(at, stat)
      )
    }
  }
  expect_identical(moving_of(5, 2), NA_real_)
  expect_identical(moving_of(c(5, 7), 2), c(NA, 6))
  constant <- roll_up(records_of(as.Date("2031-01-01") + 0:9, x = 0.1), "day")
  expect_identical(
    add_moving(constant, 3, "sd")$moving_sd, c(NA, NA, rep(0, 8))
  )
  none <- replace(
    constant, "standing",
    factor(rep("partial", 10), levels(constant$standing))
  )
  expect_true(all(is.na(
    add_moving(none, 3, "median", present = 0.1)$moving_median
  )))
})

test_that("small noise on a large level is not lost, nor does it build up", {
  withr::local_seed(22)
  noise <- sample(0:7, 5000, TRUE)
  x <- roll_up(
    records_of(
      as.Date("2001-01-01") + 0:4999, x = 1e15 + noise, kind = "level"
    ),
    "day"
  )
  for (stat in c("mean", "sd", "median", "highest")) {
    found <- add_moving(x, 100, stat, name = "m")$m
    off <- found - (if (stat == "sd") 0 else 1e15) - moving_by_hand(
      noise, 100, stat, "trailing", 1
    )
    # Figures near 1e15 lie an eighth apart, a mean may be two of these off; a
    # standard deviation does not depend on where they lie.
    expect_lte(
      max(abs(off), na.rm = TRUE), if (stat == "sd") 1e-12 else 1 / 4,
      label = stat
    )
  }
})

test_that("a window of time holds as many periods as start in it", {
  day <- seq(as.Date("2031-01-01"), as.Date("2032-12-31"), by = "day")
  daily <- add_moving(roll_up(records_of(day, x = 1), "day"), "1 year", "sum")
  expect_identical(range(daily$moving_sum, na.rm = TRUE), c(365, 366))
  expect_identical(which(!is.na(daily$moving_sum))[[1]], 365L)
  weekday <- day[as.POSIXlt(day)$wday %in% 1:5]
  working <- roll_up(
    records_of(weekday, x = as.numeric(weekday), kind = "level"),
    calendar("working day", workdays = 1:5)
  )
  found <- add_moving(working, "30 days", "lowest")$moving_lowest
  expected <- vapply(
    seq_along(weekday),
    function(i) min(as.numeric(weekday[weekday > weekday[i] - 30])), 0
  )
  expect_equal(found[-(1:22)], expected[-(1:22)])
  # A month before the hours of 29 to 31 March are those of 28 February, which a
  # window reaches back to but once.
  hour <- seq(
    as.POSIXct("2031-02-20", tz = "UTC"), as.POSIXct("2031-04-03", tz = "UTC"),
    by = "hour"
  )
  hourly <- add_moving(
    roll_up(records_of(hour, x = 1), "hour"), "1 month", "sum"
  )
  local <- as.POSIXlt(hour)
  back <- ISOdatetime(
    2031, local$mon, pmin(local$mday, ifelse(local$mon == 2, 28, 31)),
    local$hour, 0, 0, "UTC"
  )
  expected <- (as.numeric(hour) - cummax(as.numeric(back))) / 3600
  known <- back >= hour[[1]]
  expect_equal(hourly$moving_sum[known], expected[known])
  expect_error(
    add_moving(working, "30 days", align = "centred"), "trailing",
    class = "backfill_error_window"
  )
})

test_that("published weights, which let a cubic through", {
  # The first half of Henderson's, as tables print them: rounded so that they
  # add up to 1.
  published <- list(
    "5" = c(-0.073, 0.294, 0.558), "7" = c(-0.059, 0.059, 0.294, 0.413),
    "9" = c(-0.041, -0.010, 0.119, 0.267, 0.331),
    "13" = c(-0.019, -0.028, 0, 0.066, 0.147, 0.214, 0.240),
    "23" = c(
      -0.004, -0.011, -0.016, -0.015, -0.005, 0.013, 0.039, 0.068, 0.097, 0.122,
      0.138, 0.144
    )
  )
  for (terms in names(published)) {
    found <- moving_weights(paste("henderson", terms))
    expect_lt(
      max(abs(found[seq_along(published[[terms]])] - published[[terms]])),
      0.0015
    )
    expect_equal(found, rev(found))
  }
  cubic <- (1:40 - 20)^3 + 7 * (1:40)
  level <- roll_up(
    records_of(as.Date("2031-01-01") + 0:39, x = cubic, kind = "level"), "day"
  )
  for (name in c("spencer 15", paste("henderson", c(5, 7, 9, 13, 23)))) {
    expect_equal(sum(moving_weights(name)), 1, label = name)
    half <- length(moving_weights(name)) %/% 2
    found <- add_moving(level, weights = name)$moving_mean
    expect_equal(
      found, replace(cubic, c(seq_len(half), 40 + 1 - seq_len(half)), NA),
      label = name
    )
  }
  mine <- add_moving(level, weights = c(1, 2, 5))$moving_mean
  expect_equal(
    mine[3:40],
    as.numeric(stats::filter(cubic, c(5, 2, 1) / 8, sides = 1))[3:40]
  )
  expect_error(
    add_moving(level, 5, weights = c(1, 2, 5)), "3 weights",
    class = "backfill_error_argument"
  )
  expect_error(
    add_moving(level, weights = "henderson 4"),
    class = "backfill_error_argument"
  )
  expect_error(
    add_moving(level, weights = c(1, 2), stat = "sd"), "for a mean",
    class = "backfill_error_argument"
  )
})

test_that("exponential smoothing by hand", {
  day <- as.Date("2031-01-01") + c(0, 1, 3, 4)
  x <- roll_up(records_of(day, x = c(8, 4, 4, 2)), "day", cadence = "day")
  expect_identical(add_smoothed(x, alpha = 0.5)$smoothed, c(8, 6, NA, 5, 3.5))
  expect_identical(
    add_smoothed(x, half_life = 1)$smoothed,
    add_smoothed(x, alpha = 0.5)$smoothed
  )
  expect_equal(
    add_smoothed(x, half_life = "1 week")$smoothed[2], 8 - 4 * (1 - 2^(-1 / 7))
  )
  expect_error(add_smoothed(x), "one of", class = "backfill_error_argument")
})

test_that("a sum of fewer periods than its window has says so, and is traced", {
  data <- data.frame(
    day = as.Date("2031-01-01") + c(0:3, 5:11), count = 10 * 1:11
  )
  x <- roll_up(as_records(data, "day", c(count = "flow")), "day")
  made <- add_moving(x, window = 4, stat = "sum", present = 0.5)
  # 20 + 30 + 40 of 2 to 5 January stand for four days.
  expect_equal(made$moving_sum[[5]], 90 / 3 * 4)
  expect_output(
    print(made),
    "missing in the windows of 4 figures.*enlarged.*by up to\\s+33%"
  )
  for (row in 4:12) {
    trace <- trace_value(
      made, column = "moving_sum", period = made$period[[row]]
    )
    expect_equal(eval(str2lang(trace$worked[[1]])), made$moving_sum[[row]])
  }
  centred <- add_moving(
    x, window = 4, stat = "sum", present = 0.5, align = "centred"
  )
  trace <- trace_value(
    centred, column = "moving_sum", period = "2031-01-05"
  )
  expect_equal(eval(str2lang(trace$worked[[1]])), centred$moving_sum[[5]])
  whole <- add_moving(x, window = 4, stat = "sum")
  expect_no_match(capture.output(print(whole)), "enlarged")
})
