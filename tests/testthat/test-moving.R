moving_of <- function(value, window, align = "trailing") {
  day <- as.Date("2031-01-01") + seq_along(value) - 1
  add_moving(roll_up(records_of(day, kilos = value), "day"), window, align)$moving_mean
}

test_that("moving means by hand: trailing, centred odd, centred even", {
  value <- c(2, 4, 9, 1, 5, 3)
  expect_equal(moving_of(value, 3), c(NA, NA, 5, 14 / 3, 5, 3))
  expect_equal(moving_of(value, 3, "centred"), c(NA, 5, 14 / 3, 5, 3, NA))
  # 2 by 4: (2/2 + 4 + 9 + 1 + 5/2) / 4 and (4/2 + 9 + 1 + 5 + 3/2) / 4
  expect_equal(moving_of(value, 4, "centred"), c(NA, NA, 17.5 / 4, 18.5 / 4, NA, NA))
  expect_identical(moving_of(value, 7), rep(NA_real_, 6))
})

test_that("moving means agree with stats::filter for every width, and no NA is bridged", {
  withr::local_seed(3)
  value <- rnorm(80)
  value[c(1, 30, 31, 62)] <- NA
  for (width in c(2:13, 40, 80)) {
    trailing <- as.numeric(stats::filter(value, rep(1 / width, width), sides = 1))
    expect_equal(moving_of(value, width), trailing, label = width)
    half <- width %/% 2
    weights <- if (width %% 2 == 1) rep(1, width) else c(0.5, rep(1, width - 1), 0.5)
    centred <- if (length(weights) <= 80) stats::filter(value, weights / width) else rep(NA, 80)
    expect_equal(moving_of(value, width, "centred"), as.numeric(centred), label = width)
  }
})

test_that("a million-point window never drifts, also over values of very different size", {
  withr::local_seed(5)
  value <- rnorm(1e6) + rep(c(1e9, 0), each = 5e5)
  mean <- backfill:::moving_cpp(rep(1L, 1e6), as.numeric(1:1e6), value, 364L, 0L, numeric(), FALSE, 0L, 0, 1)$value
  for (at in c(365, 123456, 500364, 500365, 777777, 1e6)) {
    expect_equal(mean[[at]], sum(value[(at - 364):at]) / 365, tolerance = 1e-12)
  }
})

test_that("nothing later changes anything earlier", {
  withr::local_seed(6)
  value <- exp(rnorm(50))
  later <- replace(value, 36:50, 1000)
  expect_identical(moving_of(later, 7)[1:35], moving_of(value, 7)[1:35])
})

test_that("a window does not reach into the next series, and a period without a row is no neighbour", {
  monthly <- add_moving(roll_up(guest_nights(), "month"), "1 year")
  lissary <- monthly[monthly$island == "Lissary", ]
  expect_identical(which(is.na(lissary$moving_mean)), c(1:11, 22:34))
  expect_equal(lissary$moving_mean[[12]], mean(lissary$value[1:12]))
  # Without the row in between, the window around it is not closed up.
  short <- add_moving(lissary[-5, setdiff(names(lissary), "moving_mean")], 3)
  expect_identical(which(is.na(short$moving_mean))[1:4], c(1L, 2L, 5L, 6L))
})

test_that("lost ends and broken windows are counted", {
  monthly <- add_moving(roll_up(guest_nights(), "month"), 12, "centred")
  note <- attr(monthly, "backfill")$added$moving_mean
  expect_identical(sum(note$withheld), sum(is.na(monthly$moving_mean)))
  expect_identical(note$withheld[[1]], 4L * 12L)
})

test_that("bad calls are refused", {
  monthly <- roll_up(guest_nights(), "month")
  expect_error(add_moving(monthly, 1), "at least 2", class = "backfill_error_window")
  expect_error(add_moving(monthly, "3 weeks"), "whole number of months", class = "backfill_error_window")
  expect_error(add_moving(monthly, 3, "left"), "trailing", class = "backfill_error_argument")
  expect_error(add_moving(monthly, 3, name = "value"), "already", class = "backfill_error_column")
})
