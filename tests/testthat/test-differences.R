# Differences between groups, and shifts of the level: planted ones are found,
# and where there are none they are found as rarely as is said.

# From a Monday on.
days_of <- function(value) {
  values_in(periods_from("day", length(value), "2030-01-07"), value)
}

months_of <- function(value) {
  values_in(periods_from("month", length(value)), value)
}

remembering <- function(n, r) {
  made <- stats::filter(
    rnorm(n + 50, sd = sqrt(1 - r^2)), r, method = "recursive"
  )
  as.vector(made)[50 + seq_len(n)]
}

test_that("means, medians and the share explained are those of base R", {
  withr::local_seed(31)
  x <- days_of(rnorm(98) + c(0, 0, 0, 0, 0, 2, 2))
  found <- group_differences(x, "weekend")
  weekend <- as.POSIXlt(x$period)$wday %in% c(0, 6)
  expect_equal(found$mean, as.vector(tapply(x$value, weekend, mean)))
  expect_equal(found$median, as.vector(tapply(x$value, weekend, median)))
  expect_equal(found$difference, c(-1, 1) * diff(found$mean))
  fit <- summary(stats::lm(x$value ~ weekend))
  expect_equal(summary(found)$explained, fit$r.squared)
  expect_identical(found$p, rep(summary(found)$p, 2))
  expect_true(all(found$lower < found$difference))
  by_median <- group_differences(x, "weekend", stat = "median")
  expect_equal(by_median$difference, c(-1, 1) * diff(found$median))
})

test_that("the draws are those of the seed and leave R's own alone", {
  withr::local_seed(32)
  x <- days_of(remembering(70, 0.4))
  set.seed(1)
  wanted <- runif(1)
  set.seed(1)
  first <- group_differences(x, "weekend")
  expect_identical(runif(1), wanted)
  expect_identical(first$p, group_differences(x, "weekend")$p)
  expect_false(identical(
    first$lower, group_differences(x, "weekend", seed = 2)$lower
  ))
  # One draw can be no rarer than one of all.
  strong <- days_of(c(0, 0, 0, 0, 0, 9, 9)[rep(1:7, 20)] + rnorm(140))
  expect_equal(
    group_differences(strong, "weekend", draws = 199)$p[[1]], 1 / 200
  )
})

test_that("groups that do not differ are said to as rarely as is stated", {
  withr::local_seed(33)
  wrong <- function(r, made, by) {
    mean(replicate(80, {
      x <- made(r)
      summary(group_differences(x, by(x), draws = 199))$verdict == "differ"
    }))
  }
  weekly <- function(r) days_of(remembering(182, r))
  late <- function(r) months_of(remembering(96, r))
  after <- function(x) seq_len(nrow(x)) > nrow(x) / 2
  for (r in c(0, 0.5)) {
    expect_lt(wrong(r, weekly, function(x) "weekend"), 0.13)
    expect_lt(wrong(r, late, after), 0.13)
  }
  # What a test for independent values would say.
  naive <- mean(replicate(150, {
    x <- late(0.5)
    stats::t.test(x$value ~ after(x))$p.value < 0.05
  }))
  expect_gt(naive, 0.15)
})

test_that("planted differences are found, and their intervals hold them", {
  withr::local_seed(34)
  found <- replicate(60, {
    x <- days_of(remembering(182, 0.5) + c(0, 0, 0, 0, 0, 0.8, 0.8))
    of <- group_differences(x, "weekend", draws = 199)
    c(of$p[[2]] < 0.05, of$lower[[2]] < 0.8 && of$upper[[2]] > 0.8)
  })
  expect_gt(mean(found[1, ]), 0.95)
  expect_gt(mean(found[2, ]), 0.85)
})

test_that("whole days decide, and not their hours", {
  withr::local_seed(35)
  hour <- as.POSIXct("2030-01-07", tz = "UTC") + 3600 * (0:(24 * 7 * 8 - 1))
  level <- rep(remembering(56, 0), each = 24)
  x <- roll_up(
    records_of(hour, figure = level + rnorm(length(hour), sd = 0.1),
               kind = "level"), "hour"
  )
  of <- summary(group_differences(x, "weekend"))
  expect_identical(of$block %% 168L, 0L)
  expect_gt(of$p, 0.05)
})

test_that("more than two groups are judged together, and each by Holm's way", {
  withr::local_seed(36)
  x <- months_of(rnorm(120) + 2 * (seq_len(120) %% 12 == 7))
  of <- group_differences(x, "month")
  expect_identical(nrow(of), 12L)
  expect_identical(summary(of)$verdict, "differ")
  expect_identical(as.character(of$month[of$p < 0.05]), "July")
  expect_output(print(of), "of 12 groups \"July\" lies furthest")
  expect_s3_class(autoplot(of), "ggplot")
})

test_that("one group, one value and bad arguments are said", {
  x <- months_of(rnorm(24))
  expect_error(
    group_differences(x, rep(1, 24)), "all periods into one group",
    class = "backfill_error_argument"
  )
  expect_error(
    group_differences(x, "quarter", block = "3 days"), "block",
    class = "backfill_error_argument"
  )
  expect_error(group_differences(x, "quarter", draws = 5),
               class = "backfill_error_argument")
  constant <- group_differences(months_of(rep(1, 24)), "quarter")
  expect_identical(summary(constant)$verdict, "constant")
  expect_output(print(constant), "nothing to compare")
  # A week says nothing of how far off a weekend can be.
  short <- group_differences(days_of(c(1, 2, 1, 3, 2, 9, 8)), "weekend")
  expect_true(all(is.na(short$lower)) && all(is.na(short$upper)))
  expect_identical(summary(short)$verdict, "too short to tell")
  expect_output(print(short), "with\\s+1\\s+block\\s+it\\s+cannot")
})

test_that("one shift is where least squares put it", {
  withr::local_seed(41)
  v <- rnorm(80) + c(rep(0, 50), rep(3, 30))
  of <- level_shifts(months_of(v), most = 1, season = FALSE)
  left <- vapply(10:70, function(k) {
    sum((v[1:k] - mean(v[1:k]))^2) + sum((v[-(1:k)] - mean(v[-(1:k)]))^2)
  }, 0)
  k <- (10:70)[which.min(left)]
  expect_identical(of$period, months_of(v)$period[k + 1])
  expect_equal(of$before, mean(v[1:k]))
  expect_equal(of$after, mean(v[-(1:k)]))
  expect_equal(of$size, of$after - of$before)
  expect_identical(of$taken, 1L)
  all <- sum((v - mean(v))^2)
  expect_equal(summary(of)$explained, 1 - min(left) / all)
  expect_s3_class(autoplot(of), "ggplot")
})

test_that("shifts beside a season and a line are those of a linear model", {
  withr::local_seed(42)
  n <- 96
  month <- factor((seq_len(n) - 1) %% 12)
  season <- c(-4, -3, -1, 0, 2, 4, 5, 4, 1, -1, -3, -4)[month]
  v <- 20 + season + 0.05 * seq_len(n) + 5 * (seq_len(n) > 60) + rnorm(n)
  of <- level_shifts(months_of(v), most = 1, season = TRUE, line = TRUE)
  step <- as.numeric(seq_len(n) > 60)
  expect_identical(of$period, months_of(v)$period[61])
  fit <- stats::lm(v ~ month + seq_len(n) + step)
  expect_equal(of$size, unname(stats::coef(fit)["step"]))
  expect_output(
    print(of), "Allowed for: a season of 1 year and a straight line"
  )
})

test_that("several shifts are found, each in its place", {
  withr::local_seed(43)
  v <- rnorm(150) + rep(c(0, 4, -2), each = 50)
  of <- level_shifts(months_of(v), most = 3, season = FALSE)
  at <- match(of$period, months_of(v)$period)
  expect_identical(length(at), 2L)
  expect_lt(max(abs(at - c(51, 101))), 3)
  expect_equal(of$after[[1]], of$before[[2]])
  expect_true(all(of$from <= of$period & of$period <= of$to))
})

test_that("no shift is found in series without one, nor in a ramp", {
  withr::local_seed(44)
  wrong <- function(r) {
    mean(replicate(100, {
      of <- level_shifts(
        months_of(remembering(120, r)), most = 1, season = FALSE
      )
      nrow(of) > 0
    }))
  }
  expect_lt(wrong(0), 0.1)
  expect_lt(wrong(0.5), 0.13)
  ramp <- level_shifts(
    months_of(seq_len(100) / 10 + rnorm(100, sd = 0.5)), season = FALSE
  )
  expect_identical(nrow(ramp), 0L)
  steep <- level_shifts(
    months_of(seq_len(40) / 4 + rnorm(40)), season = FALSE, most = 1
  )
  expect_identical(nrow(steep), 0L)
  expect_identical(summary(steep)$verdict, "a slope instead")
  expect_output(print(steep), "a straight line describes it as well")
  # A level that takes its time is no step either, and says so.
  slow <- level_shifts(
    months_of(pmin(pmax(seq_len(120) - 52, 0), 16) / 2 + rnorm(120, sd = 0.5)),
    season = FALSE, most = 1
  )
  expect_gt(slow$taken, 7)
  expect_output(print(slow), "over about [0-9]+ months")
})

test_that("a slope is no shift at once, and a large shift is one", {
  withr::local_seed(47)
  at_once <- function(make) {
    mean(replicate(60, {
      of <- level_shifts(months_of(make()), season = FALSE)
      nrow(of) > 0 && of$taken %in% 1
    }))
  }
  expect_lte(at_once(\() rnorm(80) + seq(0, 1.5, length.out = 80)), 0.1)
  expect_gte(at_once(\() rnorm(80) + 2 * (seq_len(80) > 40)), 0.8)
  gentle <- level_shifts(
    months_of(rnorm(80) + seq(0, 1.5, length.out = 80)), season = FALSE
  )
  expect_identical(gentle$taken, NA_integer_)
  expect_output(print(gentle), "at once or, as a straight line fits")
})

test_that("planted shifts are found and their dates lie within the interval", {
  withr::local_seed(45)
  found <- replicate(60, {
    of <- level_shifts(
      months_of(remembering(120, 0.5) + 2.5 * (seq_len(120) > 70)), most = 1,
      season = FALSE
    )
    if (nrow(of) == 0) return(c(FALSE, NA))
    true <- as.Date("2025-11-01")
    c(TRUE, of$from <= true && true <= of$to)
  })
  expect_gt(mean(found[1, ]), 0.85)
  expect_gt(mean(found[2, ], na.rm = TRUE), 0.85)
})

test_that("a shift is told alike whatever the unit, the order, and the others", {
  withr::local_seed(46)
  when <- seq(as.Date("2020-01-01"), by = "month", length.out = 80)
  v <- rnorm(80) + c(rep(0, 45), rep(3, 35))
  two <- roll_up(records_of(
    rep(when, 2), port = rep(c("Sund", "Holm"), each = 80),
    figure = c(v, rnorm(80)), series = "port", kind = "level"
  ), "month")
  of <- level_shifts(two)
  alone <- level_shifts(two[two$port == "Sund", ])
  mixed <- level_shifts(two[sample(nrow(two)), ])
  expect_identical(of$port, "Sund")
  expect_equal(as.data.frame(of), as.data.frame(alone), ignore_attr = TRUE)
  expect_equal(as.data.frame(of), as.data.frame(mixed), ignore_attr = TRUE)
  scaled <- two
  scaled$value <- scaled$value * 1e6 + 5e8
  large <- level_shifts(scaled)
  expect_identical(large$period, of$period)
  expect_equal(large$size, of$size * 1e6, tolerance = 1e-6)
  expect_equal(large$p, of$p)
})

test_that("what is too short, constant or asked for wrongly is said", {
  expect_identical(
    summary(level_shifts(months_of(rnorm(9))))$verdict, "too short to tell"
  )
  expect_identical(
    summary(level_shifts(months_of(rep(3, 50))))$verdict, "constant"
  )
  x <- months_of(rnorm(40))
  expect_error(level_shifts(x, least = "2 days"), class = "backfill_error_over")
  expect_error(level_shifts(x, most = 0), class = "backfill_error_argument")
  expect_error(level_shifts(x, confidence = 1),
               class = "backfill_error_argument")
})

test_that("groups are compared beside the season, or told from it they cannot be", {
  withr::local_seed(48)
  n <- 96
  season <- 6 * sin(2 * pi * seq_len(n) / 12)
  late <- seq_len(n) > 50
  v <- season + 1.2 * late + rnorm(n)
  x <- months_of(v)
  found <- group_differences(x, x$period >= x$period[51])
  month <- factor(seq_len(n) %% 12)
  fit <- stats::lm(v ~ month + late)
  expect_equal(abs(found$difference[1]), unname(stats::coef(fit)["lateTRUE"]))
  expect_lt(found$p[1], 0.01)
  expect_equal(sort(found$mean), sort(c(mean(v[late]), mean(v[!late]))))
  expect_output(print(found), "A season of 1 year is taken out first")
  # A promotion of every high season is the season.
  high <- group_differences(x, as.integer(format(x$period, "%m")) %in% 2:4)
  expect_true(all(is.na(high$p)))
  expect_identical(summary(high)$verdict, "not told from the season")
  expect_output(print(high), "cannot be told\\s+from it")
  # Of three groups the one that is the season alone has no difference; the
  # others have theirs.
  three <- group_differences(x, ifelse(
    as.integer(format(x$period, "%m")) %in% 2:4, "high",
    ifelse(late, "late", "early")
  ))
  high <- is.na(three$difference)
  expect_identical(as.character(three$group[high]), "high")
  expect_identical(is.na(three$p), high)
  expect_output(print(three), "\"high\" cannot be told\\s+from the season")
  worked <- trace_value(
    three, row = which(high), column = "difference", made_of = x
  )$worked
  expect_true(is.na(worked[[1]]))
  # One group is said to be that, with a season or without.
  two <- roll_up(records_of(
    rep(x$period, 2), port = rep(c("Sund", "Holm"), each = n),
    figure = c(v, v), series = "port", kind = "level"
  ), "month")
  expect_identical(
    summary(group_differences(two, two$port == "Holm" | rep(late, 2)))$verdict,
    c("one group only", "differ")
  )
  for (by in list("port", two$port == "Holm")) {
    expect_error(
      group_differences(two, by), "tells the series apart: none has two groups",
      class = "backfill_error_argument"
    )
  }
})
