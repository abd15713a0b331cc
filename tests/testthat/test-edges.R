# Where a rule begins and ends: figures on either side of its edge, by hand.

test_that("the smallest movements are so whichever way they go", {
  x <- level_by_day(c(100, 90, 91, 95, 60))
  expect_equal(rank_changes(x, order = "smallest")$change, c(1, 4, -10, -35))
  expect_equal(rank_changes(x)$change, c(-35, -10, 4, 1))
})

test_that("a price of zero is no price of a basket", {
  day <- rep(as.Date("2031-01-01") + 0:3, 2)
  prices <- function(third) {
    roll_up(records_of(
      day, price = c(10, 20, third, 10, 5, 5, 5, 10), series = "fish",
      fish = rep(c("cod", "ling"), each = 4), kind = "level"
    ), "day")
  }
  for (none in c(0, -1)) {
    expect_equal(basket(prices(none))$value, c(100, 150, NA, 187.5))
  }
  expect_false(anyNA(basket(prices(0.01))$value))
})

test_that("of readings at one time the last is that of the later row", {
  records <- as_records(
    data.frame(
      when = as.Date("2031-05-01") + c(2, 0, 2, 1), v = c(1, 2, 3, 4)
    ),
    "when", c(v = "level"), duplicates = "keep"
  )
  ends <- roll_up(records, "month", use = list(v = c("first", "last")))
  expect_identical(ends$value, c(2, 3))
})

test_that("of equal highs in a row the first is kept, and of equal lows", {
  place <- function(value) {
    found <- turning_points(level_by_day(value), 2)
    stats::setNames(
      found$turn, as.integer(found$period - as.Date("2031-01-01")) + 1
    )
  }
  expect_identical(place(c(0, 1, 5, 4, 5, 1, 0)), c("3" = "high"))
  expect_identical(place(-c(0, 1, 5, 4, 5, 1, 0)), c("3" = "low"))
  # A higher one that comes later takes its place.
  expect_identical(place(c(0, 1, 5, 4, 5, 3, 6, 1, 0)), c("7" = "high"))
})

test_that("what was held back is missed by so much, and of zero by no percentage", {
  withr::local_seed(4)
  value <- round(20 + 8 * sin(2 * pi * seq_len(48) / 12) + stats::rnorm(48), 1)
  value[c(40, 45)] <- 0
  check <- summary(
    project(level_of(value), 3, base = "level", form = "additive")
  )
  before <- project(
    level_of(value[1:36]), 12, base = "level", form = "additive"
  )
  off <- abs(value[37:48] - before$value[before$standing == "projected"])
  expect_equal(check$mae, mean(off))
  counted <- value[37:48] != 0
  expect_equal(
    check$mape, 100 * mean(off[counted] / value[37:48][counted])
  )
})

test_that("past projections that fell below zero are none of the past errors", {
  # A fall that flattens and turns: lines from its end run below zero.
  value <- c(100 * exp(-(0:29) / 8), seq(4, 110, length.out = 30)) *
    rep(c(1.1, 0.9), 30)
  quiet <- function(code) suppressWarnings(code, "backfill_warning")
  ahead <- function(n) {
    made <- tryCatch(
      quiet(project(level_of(value[1:n]), 1, base = "line", cycle = 2)),
      backfill_error_season = function(cnd) NULL
    )
    if (!is.null(made)) made$value[made$standing == "projected"]
  }
  made <- project(level_of(value), 1, base = "line", cycle = 2)
  last <- made[nrow(made), ]
  off <- unlist(lapply(4:59, function(n) {
    projected <- ahead(n)
    if (!is.null(projected)) value[n + 1] / projected - 1
  }))
  expect_lt(length(off), 50)
  expect_gt(length(off), 5)
  expect_equal(
    last$upper / last$value - 1,
    sqrt(mean(off^2)) * stats::qt(0.975, length(off) - 1)
  )
  # A base that was spared its worst is not compared with the others.
  check <- summary(project(level_of(value), 1, cycle = 2))
  expect_true(is.na(check$missed_line))
  expect_false(check$base == "line" || is.na(check$missed_level))
})

test_that("a score needs eight past deviations", {
  withr::local_seed(9)
  flags <- flag_periods(
    level_by_day(round(stats::rnorm(30, 50, 4), 1)), "previous period",
    beyond = c(sd = 3)
  )
  # The first figure has no baseline, the second the first deviation.
  expect_identical(which(!is.na(flags$score))[[1]], 10L)
  expect_false(anyNA(flags$score[10:30]))
})

test_that("a centred average lives on half of its window, and on no less", {
  value <- rep(c(3, 5, 4, 6, 8, 9, 12, 11, 7, 6, 5, 4), 6) + seq_len(72) / 10
  average <- function(holes) {
    sheet <- summary(
      seasonal_index(level_of(replace(value, holes, NA))), "worksheet"
    )
    sheet$centred_average
  }
  # The thirteen months around month 36 are 30 to 42.
  expect_false(is.na(average(c(31, 33, 35, 37, 39, 41))[[36]]))
  expect_true(is.na(average(c(31, 33, 34, 35, 37, 39, 41))[[36]]))
})

test_that("a ratio is as whole as the less whole of its parts", {
  day <- as.Date("2031-03-01") + 0:30
  records <- as_records(
    data.frame(
      day, value = replace(rep(20, 31), 3:8, NA),
      kilos = replace(rep(4, 31), 5, NA)
    ),
    "day", list(
      price = measure("ratio", of = "value", per = "kilos"),
      value = "flow", kilos = "flow"
    )
  )
  month <- roll_up(records, "month")
  whole <- stats::setNames(month$coverage, month$measure)
  expect_equal(whole[["value"]], 25 / 31)
  expect_equal(whole[["kilos"]], 30 / 31)
  expect_equal(whole[["price"]], 25 / 31)
})

test_that("a shift may lie as near an end as is allowed, and no nearer", {
  withr::local_seed(3)
  noise <- stats::rnorm(40, 0, 0.3)
  found <- function(at, least) {
    level_shifts(
      level_by_day(50 + noise + 9 * (seq_len(40) >= at)), least = least,
      season = FALSE
    )$period
  }
  start <- as.Date("2031-01-01") - 1
  expect_identical(found(10, 9), start + 10)
  expect_false((start + 9) %in% found(9, 9))
  expect_identical(found(32, 9), start + 32)
})
