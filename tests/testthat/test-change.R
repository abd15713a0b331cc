# Periods of one series, value by value.
monthly_of <- function(value, first = "2031-01-01") {
  day <- seq(as.Date(first), by = "month", length.out = length(value))
  roll_up(records_of(day, kilos = value), "month")
}

test_that("growth over a period and over a year, by hand", {
  monthly <- monthly_of(c(
    100, 110, 99, 0, 50, -5, 10, 20, 20, 20, 20, 20, 150, 121
  ))
  monthly <- add_growth(add_growth(monthly), over = "1 year")
  expect_identical(
    monthly$growth_1_month[1:8], c(NA, 10, -10, -100, NA, -110, NA, 100)
  )
  expect_identical(monthly$growth_1_year, c(rep(NA, 12), 50, 10))
  # Why there is none, adding up to the rows without.
  note <- attr(monthly, "backfill")$added$growth_1_month$withheld
  expect_identical(unname(note), c(1L, 0L, 2L))
  expect_false(any(
    is.infinite(monthly$growth_1_month) | is.nan(monthly$growth_1_month)
  ))
})

test_that("growth undone gives the values back", {
  withr::local_seed(2)
  monthly <- add_growth(monthly_of(exp(rnorm(60))))
  expect_equal(
    monthly$value[[1]] * cumprod(1 + monthly$growth_1_month[-1] / 100),
    monthly$value[-1]
  )
})

test_that("a base is found by its period: missing rows, other orders and other series do not shift it", {
  monthly <- add_growth(roll_up(inns(), "month"), over = "1 year")
  rows <- sample(which(monthly$period != as.Date("2030-07-01")))
  shuffled <- monthly[rows, setdiff(names(monthly), "growth_1_year")]
  again <- add_growth(shuffled, over = "1 year")$growth_1_year
  expected <- monthly$growth_1_year[rows]
  expected[monthly$period[rows] == as.Date("2031-07-01")] <- NA
  expect_identical(again, expected)
  # The first year of each series has no base.
  expect_true(all(is.na(
    monthly$growth_1_year[monthly$period < as.Date("2029-02-01")]
  )))
})

test_that("a day is compared with the same date, a week with the one 52 weeks before", {
  day <- seq(as.Date("2031-02-27"), as.Date("2032-03-01"), by = "day")
  daily <- add_growth(
    roll_up(records_of(day, kilos = as.numeric(day)), "day"), over = "1 year"
  )
  expect_equal(daily$growth_1_year[daily$period == as.Date("2032-02-29")],
               100 * 366 / as.numeric(as.Date("2031-02-28")))
  week <- seq(as.Date("2031-01-06"), by = "week", length.out = 60)
  weekly <- add_growth(
    roll_up(records_of(week, kilos = 1:60), "week"), over = "1 year"
  )
  expect_identical(weekly$growth_1_year[53:54], c(5200, 2600))
})

test_that("partial and empty periods take no part", {
  monthly <- add_growth(roll_up(crossings(), "month", enough = 0.95))
  market <- monthly[monthly$measure == "market", ]
  expect_identical(format(market$period[is.na(market$growth_1_month)], "%Y-%m"),
                   c("2029-01", "2029-02", "2030-02", "2030-03", "2031-12"))
})

test_that("the trend that was planted comes back as the mean growth over a year", {
  truth <- truths()$inns
  monthly <- add_growth(roll_up(inns(), "month"), over = "1 year")
  found <- tapply(monthly$growth_1_year, monthly$inn, mean, na.rm = TRUE)
  planted <- unlist(truth$growth_percent_per_year)
  # The error of a month is 3 %, that of a growth 4.2 %, that of a mean of some
  # 30 of them under 0.8.
  expect_lt(max(abs(found[names(planted)] - planted)), 2.4)
})

test_that("bad calls are refused", {
  monthly <- monthly_of(1:3)
  expect_error(
    add_growth(monthly, over = "10 days"), "whole number of months",
    class = "backfill_error_over"
  )
  expect_error(
    add_growth(monthly, over = NULL), "not given", class = "backfill_error_over"
  )
  expect_error(
    add_growth(monthly, over = 0), "`over` is 0", class = "backfill_error_over"
  )
  expect_error(
    add_growth(monthly, of = "weight"), "not a column of figures",
    class = "backfill_error_column"
  )
  expect_error(
    add_growth(add_growth(monthly)), "already", class = "backfill_error_column"
  )
  expect_error(
    add_growth(monthly[c(1, 1, 2), ]), "Two rows",
    class = "backfill_error_input"
  )
})
