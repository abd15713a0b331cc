# Every row by itself, from what comes before it: the baseline by `of_past`,
# limits of the deviations by `of_deviations` (from the 9th on).
judged_by_hand <- function(value, of_past, of_deviations) {
  n <- length(value)
  baseline <- vapply(
    seq_len(n), function(t) as.numeric(of_past(value[seq_len(t - 1)], t)), 0
  )
  deviation <- value - baseline
  limits <- vapply(seq_len(n), function(t) {
    past <- deviation[seq_len(t - 1)]
    past <- past[!is.na(past)]
    if (length(past) < 8 || is.na(baseline[[t]])) {
      c(NA_real_, NA_real_)
    } else {
      of_deviations(past)
    }
  }, c(0, 0))
  list(
    baseline = baseline, lower = baseline + limits[1, ],
    upper = baseline + limits[2, ],
    flag = value > baseline + limits[2, ] | value < baseline + limits[1, ]
  )
}

spread_limits <- function(k) {
  function(past) {
    n <- length(past)
    mean(past) + c(-1, 1) * stats::sd(past) * stats::qt(
      stats::pnorm(k), n - 1
    ) * sqrt(1 + 1 / n)
  }
}

test_that("baselines and limits are those made row by row from what came before", {
  withr::local_seed(101)
  value <- round(50 + rnorm(80, sd = 4), 1)
  value[c(30, 55)] <- c(90, 20)
  value[c(12, 13, 40)] <- NA
  x <- level_by_day(value)
  enough <- function(past, need, how) {
    past <- past[!is.na(past)]
    if (length(past) < need) NA else how(past)
  }
  ways <- list(
    list(list("previous period"), function(past, t) {
      if (t == 1) {
        NA
      } else {
        past[[t - 1]]
      }
    }),
    list(
      list("last periods", last = 6),
      function(past, t) enough(utils::tail(past, 6), 3, mean)
    ),
    list(
      list("last periods", last = 7, stat = "median", need = 5),
      function(past, t) {
        enough(utils::tail(past, 7), 5, stats::median)
      }
    ),
    list(
      list("a cycle before", last = 3),
      function(past, t) enough(past[t - 7 * (1:3)[t > 7 * (1:3)]], 2, mean)
    ),
    list(
      list("last periods", last = 4, stat = "smoothed", need = 2),
      function(past, t) {
        enough(
          past, 2,
          function(known) {
            Reduce(
              function(s, y) s + (1 - 2^(-1 / 4)) * (y - s), known
            )
          }
        )
      }
    )
  )
  limits <- list(
    list(c(sd = 2), spread_limits(2)),
    list(c(mad = 2.5), function(past) {
      n <- length(past)
      free <- max(1, n / 2 - 1)
      stats::median(past) + c(-1, 1) * stats::mad(past) *
        stats::qt(stats::pnorm(2.5), free) * sqrt(1 + 2 / n)
    }),
    list(c(quantile = 0.8), function(past) {
      limits <- unname(stats::quantile(past, c(0.1, 0.9), type = 6))
      if (length(past) >= 9) limits else NA * limits
    }),
    list(
      c(sd = 2, amount = 6),
      function(past) {
        pmax(
          pmin(spread_limits(2)(past), c(Inf, 6)), c(-6, -Inf)
        )
      }
    )
  )
  for (way in ways) {
    for (limit in limits) {
      found <- do.call(
        flag_periods, c(list(x), way[[1]], list(beyond = limit[[1]]))
      )
      hand <- judged_by_hand(value, way[[2]], limit[[2]])
      about <- paste(way[[1]][[1]], names(limit[[1]]), collapse = " ")
      judged <- !is.na(hand$upper)
      expect_equal(found$baseline, hand$baseline, label = about)
      expect_equal(found$upper[judged], hand$upper[judged], label = about)
      expect_equal(found$lower[judged], hand$lower[judged], label = about)
      if (length(limit[[1]]) == 1) {
        expect_identical(found$flag, hand$flag, label = about)
      }
    }
  }
})

test_that("percent counts above the floor only; all limits or any; up or down", {
  x <- level_by_day(c(100, 115, 80, 82, 95, 95))
  flags <- function(...) flag_periods(x, "previous period", ...)$flag
  expect_identical(
    flags(c(percent = 10)), c(NA, TRUE, TRUE, FALSE, TRUE, FALSE)
  )
  expect_identical(
    flags(c(percent = 10), floor = 14), c(NA, TRUE, TRUE, FALSE, FALSE, FALSE)
  )
  expect_identical(
    flags(c(percent = 10), direction = "down"),
    c(NA, FALSE, TRUE, FALSE, FALSE, FALSE)
  )
  expect_identical(
    flags(c(percent = 10, amount = 20)), c(NA, TRUE, TRUE, FALSE, TRUE, FALSE)
  )
  expect_identical(
    flags(c(percent = 10, amount = 20), beyond_all = TRUE),
    c(NA, FALSE, TRUE, FALSE, FALSE, FALSE)
  )
  # A limit lies within; only what is beyond it is flagged.
  expect_identical(flags(c(amount = 13))[[5]], FALSE)
  x$target <- c(90, 100, 100, NA, 100, 94)
  against <- flag_periods(x, "target", c(percent = 10))
  expect_identical(against$flag, c(TRUE, TRUE, TRUE, NA, FALSE, FALSE))
  expect_identical(
    as.character(against$judgement),
    c(rep("flagged", 3), "no baseline yet", "within", "within")
  )
  expect_match(
    summary(against)$reason,
    "15 above (+15.0%) its baseline of 100, beyond 110", fixed = TRUE,
    all = FALSE
  )
})

test_that("against the season, and the year before up to the same date", {
  withr::local_seed(102)
  season <- c(0.3, 0.4, 0.6, 0.8, 1.1, 1.4, 1.9, 2, 1.3, 0.9, 0.6, 0.7)
  value <- 100 * rep(season, 5) * exp(rnorm(60, sd = 0.04))
  value[[50]] <- value[[50]] * 1.5
  when <- seq(as.Date("2026-01-01"), by = "month", length.out = 60)
  x <- roll_up(records_of(when, x = value), "month")
  found <- flag_periods(x, "season", c(sd = 3))
  expect_identical(which(found$flag), 50L)
  # The 41st month lies in the cycle that begins with the 37th, whose index is
  # that of the 36 before.
  index <- seasonal_index(x[1:36, ])$index
  level <- mean(value[29:40] / index[c(5:12, 1:4)])
  expect_equal(found$baseline[[41]], level * index[[5]])
  expect_equal(found$n_prior[[41]], 12L)
  expect_identical(
    found$judgement[[24]], factor("no baseline yet", levels(found$judgement))
  )
  year <- flag_periods(x, "year to date", c(percent = 5))
  expect_equal(
    year$value[15:17],
    c(sum(value[13:15]), sum(value[13:16]), sum(value[13:17]))
  )
  expect_equal(
    year$baseline[15:17], c(sum(value[1:3]), sum(value[1:4]), sum(value[1:5]))
  )
  expect_error(
    flag_periods(level_by_day(c(1, 0, 3)), "season"), "additive",
    class = "backfill_error_season"
  )
})

test_that("nothing later changes an earlier flag", {
  withr::local_seed(103)
  value <- exp(rnorm(90, 3, 0.2))
  later <- replace(value, 61:90, exp(rnorm(30, 6)))
  ways <- list(
    "previous period", "a cycle before", "last periods", "season",
    "year to date"
  )
  for (way in ways) {
    for (exclude_flagged in c(FALSE, TRUE)) {
      judge <- function(value) {
        day <- seq(as.Date("2030-06-01"), by = "month", length.out = 90)
        as.list(flag_periods(
          roll_up(records_of(day, x = value), "month"), way,
          c(mad = 2, percent = 30), exclude_flagged = exclude_flagged
        ))
      }
      earlier <- function(found) {
        lapply(
          found[c("baseline", "lower", "upper", "score", "flag")], `[`, 1:60
        )
      }
      expect_identical(
        earlier(judge(later)), earlier(judge(value)),
        label = paste(way, exclude_flagged)
      )
    }
  }
})

test_that("a period in line with its past is flagged as often as the limit says", {
  withr::local_seed(104)
  day <- as.Date("2031-01-01") + 0:59
  noise <- roll_up(
    records_of(
      rep(day, 400), g = rep(1:400, each = 60), x = rnorm(400 * 60, 100),
      series = "g", kind = "level"
    ),
    "day"
  )
  for (beyond in list(c(sd = 2), c(mad = 2), c(quantile = 0.8))) {
    flags <- flag_periods(noise, beyond = beyond)
    stated <- if (names(beyond) == "quantile") {
      1 - beyond
    } else {
      2 * stats::pnorm(-beyond)
    }
    expect_equal(
      mean(flags$flag, na.rm = TRUE), unname(stated), tolerance = 0.1,
      label = names(beyond)
    )
    expect_equal(
      backfill:::designed_share(attr(flags, "backfill"))$share, unname(stated)
    )
  }
})

test_that("the week of storms is found in full, and no other day with it", {
  daily <- roll_up(crossings(), "day")
  daily <- daily[daily$measure == "market", ]
  flags <- flag_periods(daily, "season", c(sd = 4), exclude_flagged = TRUE)
  storm <- flags$period >= as.Date("2030-11-18") &
    flags$period <= as.Date("2030-11-22")
  expect_identical(sum(flags$flag[storm]), 5L)
  expect_identical(sum(flags$flag[!storm], na.rm = TRUE), 0L)
  found <- summary(flags, type = "episodes")
  runs <- found[
    found$start <= as.Date("2030-11-18") & found$end >= as.Date("2030-11-22"),
  ]
  expect_identical(nrow(runs), 1L)
  expect_true(all(
    runs$flagged >= 5 & runs$direction == "down" & runs$periods <= 8
  ))
})

test_that("partial, imputed and empty periods are listed apart; what is kept out is in no baseline", {
  value <- c(10, 11, 10, 30, 10, 11, 10, 11)
  x <- level_by_day(value)
  x$standing[5] <- "partial"
  x$standing[7] <- "imputed"
  flags <- flag_periods(
    x, "last periods", c(amount = 5), last = 3, need = 1, exclude_flagged = TRUE
  )
  expect_identical(
    as.character(flags$judgement),
    c("no baseline yet", "within", "within", "flagged", "partial", "within",
      "imputed", "within")
  )
  expect_equal(flags$baseline[c(6, 8)], c(10, 11))
  expect_identical(flags$flag[c(5, 7)], c(NA, NA))
  kept <- flag_periods(x, "last periods", c(amount = 5), last = 3, need = 1)
  expect_equal(kept$baseline[[6]], 20)
  # Runs and shifts: two flagged days on one side; and nine days above what was
  # usual before, of which one is flagged.
  y <- level_by_day(c(
    rep(c(9, 11), 5), 25, 26, 9, 11, 13, 13, 13, 13, 18, 13, 13, 13, 13
  ))
  y$target <- 10
  found <- summary(flag_periods(y, "target", c(amount = 5)), type = "episodes")
  expect_identical(found$kind, c("run", "shift"))
  expect_identical(found$start, as.Date(c("2031-01-11", "2031-01-15")))
  expect_identical(found$periods, c(2L, 9L))
  expect_equal(found$size, c(31, 32))
  expect_equal(found$largest, c(16, 8))
  expect_identical(found$flagged, c(2L, 1L))
  expect_identical(
    summary(flag_periods(y, "target", c(amount = 5)))$deviation, c(16, 15, 8)
  )
  # Without the row of a day in between, its neighbours are no run.
  z <- level_by_day(c(10, 20, 21, 22, 10))
  z$target <- 10
  apart <- summary(
    flag_periods(z[-3, ], "target", c(amount = 5)), type = "episodes"
  )
  expect_identical(apart$start, as.Date(c("2031-01-02", "2031-01-04")))
  expect_error(flag_periods(x, "moon"), class = "backfill_error_column")
  expect_error(
    flag_periods(x, beyond = c(10)), class = "backfill_error_argument"
  )
  expect_error(
    flag_periods(x, beyond = c(quantile = 95)),
    class = "backfill_error_argument"
  )
  expect_error(
    flag_periods(x, "previous period", last = 3),
    class = "backfill_error_argument"
  )
})

test_that("a part of the flags, or of the turning points, and any order of them, is told of as what it is", {
  monthly <- roll_up(inns(), "month")
  flags <- flag_periods(monthly, "a cycle before", c(percent = 10))
  all <- summary(flags, type = "episodes")
  hearth <- flags[flags$inn == "Hearth", ]
  own <- all[all$inn == "Hearth", ]
  expect_identical(columns(summary(hearth, type = "episodes")), columns(own))
  expect_identical(
    columns(summary(hearth[rev(seq_len(nrow(hearth))), ], type = "episodes")),
    columns(own)
  )
  of_one <- flag_periods(
    monthly[monthly$inn == "Hearth", ], "a cycle before", c(percent = 10)
  )
  expect_identical(columns(summary(hearth)), columns(summary(of_one)))
  expect_match(
    utils::capture.output(print(flags[c("inn", "period", "flag")]))[[1]],
    "tibble"
  )
  expect_match(
    utils::capture.output(print(summary(flags)[0, ]))[[1]],
    "Nothing is flagged"
  )
  turns <- turning_points(cycle_profile(monthly, "month"), 3)
  spells <- summary(turns)
  expect_identical(
    columns(summary(turns[turns$inn == "Hearth", ])),
    columns(spells[spells$inn == "Hearth", ])
  )
})

test_that("anomalies are off the average at their position, plain, standardised, smoothed, and running", {
  withr::local_seed(105)
  monthly <- roll_up(inns(), "month")
  month <- as.POSIXlt(monthly$period)$mon
  value <- ifelse(monthly$standing == "complete", monthly$value, NA)
  mean_of <- stats::ave(
    value, monthly$inn, month, FUN = function(v) mean(v, na.rm = TRUE)
  )
  sd_of <- stats::ave(
    value, monthly$inn, month, FUN = function(v) stats::sd(v, na.rm = TRUE)
  )
  expect_equal(add_anomaly(monthly, "month")$anomaly, value - mean_of)
  expect_equal(
    add_anomaly(monthly, "month", standardised = TRUE)$anomaly,
    (value - mean_of) / sd_of
  )
  ran <- add_anomaly(monthly, "month", running = TRUE)
  one <- ran$inn == "Lantern"
  known <- ran$anomaly[one]
  expect_equal(
    ran$running_anomaly[one],
    ifelse(is.na(known), NA, cumsum(ifelse(is.na(known), 0, known)))
  )
  smooth <- add_anomaly(monthly, "month", smooth = 3)
  means <- tapply(value[one], month[one], mean, na.rm = TRUE)
  expect_equal(
    smooth$anomaly[one],
    value[one] - ((means + means[c(12, 1:11)] + means[c(2:12, 1)]) / 3)[
      month[one] + 1
    ],
    ignore_attr = TRUE
  )
  span <- add_anomaly(
    monthly, "month", reference = c("2029-01-01", "2029-12-31")
  )
  expect_equal(
    span$anomaly[one & format(monthly$period, "%Y") == "2029"],
    rep(0, 12) * known[12:23]
  )
  expect_error(
    add_anomaly(monthly, "month", smooth = 4),
    class = "backfill_error_argument"
  )
})

test_that("turning points by hand: plateaus, ends, gaps, and lows and highs in turn", {
  turns <- function(value, span) {
    found <- turning_points(level_by_day(value), span)
    stats::setNames(
      found$turn, as.integer(found$period - as.Date("2031-01-01")) + 1
    )
  }
  expect_identical(
    turns(c(5, 3, 1, 3, 5, 7, 5, 3), 2), c("3" = "low", "6" = "high")
  )
  # Ends are none, of a plateau the middle is, and of a level stretch nothing.
  expect_identical(turns(c(1, 3, 7, 7, 7, 3, 1), 1), c("4" = "high"))
  expect_length(turns(c(2, 2, 2, 2), 1), 0)
  expect_identical(
    turns(c(5, 1, NA, 3, 8, 4, 2, 6), 1),
    c("2" = "low", "5" = "high", "7" = "low")
  )
  # Two highs with no low between them that is lowest within the span: the
  # higher one stays.
  expect_identical(
    turns(c(0, 5, 4, 4.5, 4.2, 6, 1, 0, 2), 1)[1:2],
    c("2" = "high", "3" = "low")
  )
  spells <- summary(turning_points(
    level_by_day(c(5, 1, 3, 8, 4, 2, 6, 9, 3)), 1
  ))
  expect_identical(spells$start, as.Date("2031-01-01") + c(1, 5))
  expect_identical(spells$periods, c(2L, 2L))
  expect_identical(spells$rise, c(7, 7))
  # The average cycle goes around: from the low of January to the high of
  # August, and from October to March.
  months <- cycle_profile(roll_up(inns(), "month"), "month")
  turns <- turning_points(months, 3)
  expect_identical(
    as.character(turns$position[turns$inn == "Lantern"]), c("January", "August")
  )
  expect_identical(
    as.character(turns$position[turns$inn == "Hearth"]), c("January", "July")
  )
  wave <- roll_up(
    records_of(seq(as.Date("2030-01-01"), by = "month", length.out = 24),
               x = rep(cos(2 * pi * ((1:12) - 3) / 12), 2), kind = "level"),
    "month"
  )
  spell <- summary(turning_points(cycle_profile(wave, "month"), 2))
  expect_identical(
    paste(spell$start, spell$end, spell$periods), "September March 6"
  )
})

test_that("the season of the sea begins and ends where it was made to", {
  files <- file.path(
    dirname(demo_file("crossings.csv")),
    sprintf("sea-%d.nc", 2029:2031)
  )
  skip_if_not_installed("ncdf4")
  sea <- roll_up(
    read_records(files, when = "time", measures = c(sea_temperature = "level")),
    "day"
  )
  sea <- add_anomaly(sea, "weekday", running = TRUE)
  spells <- summary(turning_points(sea, "90 days", of = "running_anomaly"))
  # Warmer than the mean from 91 days before the warmest day to 91 days after
  # it, give or take the weather's weeks and what a summer is late.
  warm <- as.POSIXlt(as.Date(spells$start))$yday + 1
  expect_true(all(abs(warm - (246 - 91)) < 30))
  cold <- as.POSIXlt(as.Date(spells$end))$yday + 1
  expect_true(all(abs(cold - (246 + 91)) < 30))
})

by_month <- function(value) {
  month <- seq(as.Date("2020-01-01"), by = "month", length.out = NROW(value))
  value <- as.matrix(value)
  roll_up(
    records_of(
      rep(month, ncol(value)),
      g = rep(seq_len(ncol(value)), each = nrow(value)), x = as.vector(value),
      series = "g", kind = "level"
    ),
    "month"
  )
}

said_of <- function(x) {
  gsub(
    "\\s+", " ", paste(utils::capture.output(print(x)), collapse = " ")
  )
}

test_that("what chance would flag is that of the rule, whatever the data, and is not said where it does not hold", {
  withr::local_seed(111)
  # 46 periods judged at 3 standard deviations: 0.12, with one wild figure or
  # without.
  noise <- rnorm(60)
  for (value in list(noise, replace(noise, 40, 500), noise * 1e6)) {
    flags <- flag_periods(by_month(value))
    expect_identical(sum(flags$judgement %in% c("flagged", "within")), 46L)
    expect_match(
      said_of(flags),
      "would flag about 0.27%, that is 0.12 periods here, and of figures with",
      fixed = TRUE
    )
  }
  design <- function(...) {
    unlist(
      backfill:::designed_share(attr(
        flag_periods(by_month(noise), ...), "backfill"
      ))
    )
  }
  expect_equal(
    design(beyond = c(sd = 2), direction = "up")[["share"]],
    format(stats::pnorm(-2), digits = 15), ignore_attr = TRUE
  )
  expect_equal(as.numeric(design(beyond = c(quantile = 0.9))[["share"]]), 0.1)
  expect_identical(
    design(beyond = c(sd = 2, percent = 10), beyond_all = TRUE)[["bound"]],
    "at most"
  )
  expect_identical(
    design(beyond = c(sd = 2, percent = 10))[["bound"]], "at least"
  )
  # What it says of long tails holds for them.
  tails <- flag_periods(by_month(matrix(stats::rt(120 * 150, 3), 120)))
  said <- backfill:::designed_share(backfill:::facts(tails))$tails
  expect_lt(abs(mean(tails$flag, na.rm = TRUE) / said - 1), 0.3)
  percent <- flag_periods(by_month(noise + 100), beyond = c(percent = 2))
  expect_match(said_of(percent), "depends on how much the figures vary")
  walk <- flag_periods(by_month(as.numeric(
    stats::arima.sim(list(ar = 0.8), 120)
  )))
  expect_match(
    said_of(walk), "does not hold for .* whose deviations are autocorrelated"
  )
  # Noise is said to hang together in about 1% of series.
  hanging <- backfill:::hanging_together(flag_periods(by_month(matrix(
    rnorm(80 * 400), 80
  ))))
  expect_lte(nrow(hanging), 12)
})

test_that("a season whose level lags behind a trend is no shift, and a shift is one", {
  withr::local_seed(112)
  n <- 84
  season <- 100 * (1 + 0.3 * cos(2 * pi * seq_len(n) / 12))
  clean <- replicate(
    100, season * (1 + 0.01 * seq_len(n)) * exp(rnorm(n, sd = 0.02))
  )
  shifts <- function(x, ...) {
    found <- summary(flag_periods(by_month(x), ...), type = "episodes")
    found[found$kind == "shift", ]
  }
  # About 1 in 300 periods of 100 series of 40 judged ones begins one by chance.
  expect_lt(nrow(shifts(clean, "season")), 2 * 100 * 52 / 300)
  # A straight trend under a season in shares, whose lag as a share of the level
  # becomes less and less: 300 of these series had 350 shifts.
  straight <- replicate(
    100, 200 + 2 * seq_len(n) + 10 * sin(2 * pi * seq_len(n) / 12) + 3 *
      rnorm(n)
  )
  expect_lt(nrow(shifts(straight, "season")), 2 * 100 * 52 / 270)
  grown <- replicate(
    100, season * exp(0.01 * seq_len(n) + rnorm(n, sd = 0.02))
  )
  expect_lt(nrow(shifts(grown, "a cycle before")), 2 * 100 * 52 / 190)
  # Below zero up is up, also where amounts drift and shares do not.
  below <- replicate(
    40, -100 * exp(0.02 * seq_len(n) + rnorm(n, sd = 0.01)) *
      rep(c(1, 0.97), c(59, n - 59))
  )
  found <- shifts(below, "a cycle before")
  after <- found[found$start >= as.Date("2024-10-01"), ]
  expect_gt(mean(after$direction == "up"), 0.8)
  expect_gt(nrow(after), 10)
  flat <- replicate(100, rnorm(n))
  expect_lt(nrow(shifts(flat)), 2 * 100 * 64 / 300)
  moved <- replicate(40, rnorm(n) + rep(c(0, 3), c(50, 34)))
  found <- shifts(moved, last = 24)
  # The level moves in March 2024; a run may have begun a little before.
  seen <- found$direction == "up" & found$start <= as.Date("2024-04-01") &
    found$end >= as.Date("2024-10-01")
  expect_gt(length(unique(found$g[seen])), 26)
})

test_that("a baseline without a limit is said to be that", {
  found <- flag_periods(by_month(c(rnorm(20), 1)))
  expect_identical(
    as.character(found$judgement[1:6]), rep("no baseline yet", 6)
  )
  expect_true(all(
    found$judgement[!is.na(found$baseline) &
      is.na(found$upper)] == "no limit yet"
  ))
  expect_match(
    said_of(found), "no baseline yet (6) and no limit yet (8)", fixed = TRUE
  )
})

test_that("a missing row is like an empty one, a floor counts itself, and what was filled in is no total", {
  value <- rep(c(100, 50, 80, 120), 6)
  quarter <- seq(as.Date("2025-01-01"), by = "quarter", length.out = 24)
  x <- roll_up(records_of(quarter, x = value), "quarter")
  judged <- function(x) {
    found <- flag_periods(x, "a cycle before", c(percent = 10), last = 3)
    as.data.frame(
      found[
        found$period >= as.Date("2028-01-01"), c(
          "period", "baseline", "n_prior"
        )
      ]
    )
  }
  gone <- 9
  empty <- roll_up(
    records_of(quarter[-gone], x = value[-gone], kind = "flow"), "quarter"
  )
  without <- x[-gone, ]
  expect_equal(judged(without), judged(empty), ignore_attr = TRUE)
  level <- by_month(c(100, 104, 100, 96, 103.9))
  flagged <- function(floor) {
    flag_periods(
      level, "previous period", c(percent = 1), floor = floor
    )$flag
  }
  expect_identical(flagged(4), c(NA, TRUE, TRUE, TRUE, TRUE))
  expect_identical(flagged(4.1), c(NA, FALSE, FALSE, FALSE, TRUE))
  # A quantile has 8 past deviations at least, as the others.
  few <- flag_periods(by_month(rnorm(40)), "previous period", c(quantile = 0.5))
  expect_identical(which(!is.na(few$flag))[1], 10L)
  month <- seq(as.Date("2029-01-01"), by = "month", length.out = 24)
  filled <- impute_gaps(
    roll_up(
      records_of(month[-14], x = rep(10, 23)), "month", cadence = "month"
    ),
    "carry"
  )
  year <- flag_periods(filled, "year to date", c(percent = 5))
  expect_identical(which(!is.na(year$value)), 1:13)
  expect_identical(as.character(year$judgement[14]), "imputed")
})

test_that("robust limits are the same as by sorting, and take no long time over long series", {
  withr::local_seed(113)
  value <- round(rnorm(1500), 2)
  found <- flag_periods(by_month(value), "previous period", c(mad = 3))
  off <- diff(value)
  for (t in c(10, 11, 57, 400, 1100, 1500)) {
    past <- off[seq_len(t - 2)]
    middle <- stats::median(past)
    expect_equal(found$score[t], (off[t - 1] - middle) / stats::mad(past))
  }
  hours <- as.POSIXct("2000-01-01", tz = "UTC") + 3600 * seq_len(1e5)
  long <- roll_up(records_of(hours, x = rnorm(1e5), kind = "level"), "hour")
  # In processor time; what sorts all that was before takes a hundred times.
  took <- function(x) {
    system.time(flag_periods(
      x, "previous period", c(mad = 3, quantile = 0.99)
    ))[["user.self"]]
  }
  expect_lt(took(long), 30 * max(took(long[1:1e4, ]), 0.1))
})

test_that("limits are so many standard deviations of the last values, if asked", {
  withr::local_seed(71)
  when <- seq(as.Date("2020-01-01"), by = "month", length.out = 80)
  v <- round(rnorm(80, 100, 5), 1)
  v[c(20, 33)] <- NA
  x <- roll_up(records_of(when, figure = v, kind = "level"), "month")
  flags <- flag_periods(x, beyond = c(sd = 2), spread_of = "12 months")
  expected <- vapply(seq_along(v), function(t) {
    before <- v[max(1, t - 12):max(1, t - 1)]
    before <- before[!is.na(before)]
    if (t == 1 || length(before) < 6) {
      return(c(NA_real_, NA, NA))
    }
    reach <- 2 * stats::sd(before)
    c(mean(before) + c(-1, 1) * reach, abs(v[t] - mean(before)) > reach)
  }, c(0, 0, 0))
  expect_equal(flags$lower, expected[1, ])
  expect_equal(flags$upper, expected[2, ])
  expect_identical(as.numeric(flags$flag), expected[3, ])
  expect_output(print(flags), "2 standard\\s+deviations of the last 12 months")
  # As many are flagged as is said.
  many <- replicate(60, {
    x$value <- rnorm(80)
    mean(flag_periods(x, beyond = c(sd = 2), spread_of = 12)$flag, na.rm = TRUE)
  })
  expect_equal(mean(many), 2 * stats::pt(-2 / sqrt(13 / 12), 11),
               tolerance = 0.15)
  expect_error(flag_periods(x, beyond = c(mad = 3), spread_of = 12),
               "standard deviations", class = "backfill_error_argument")
  expect_error(flag_periods(x, "season", spread_of = 12), "season",
               class = "backfill_error_argument")
})

months_by_line <- function(..., series = "series") {
  lines <- list(...)
  months <- seq(
    as.Date("2027-01-01"), by = "month", length.out = length(lines[[1]])
  )
  data <- data.frame(
    month = rep(months, length(lines)), value = unlist(lines, FALSE, FALSE),
    line = rep(names(lines), each = length(months))
  )
  names(data)[[3]] <- series
  roll_up(as_records(
    data, when = "month", series = series, measures = c(value = "flow")
  ), every = "month")
}

test_that("by default the season is taken once it is known, else the last periods", {
  set.seed(5)
  n <- 60
  season <- 1 + 0.4 * sin(2 * pi * seq_len(n) / 12)
  fallen <- 100 * season * (1 + 0.03 * stats::rnorm(n))
  fallen[[50]] <- 0.6 * fallen[[50]]
  below <- fallen
  below[[52]] <- -5
  x <- months_by_line(
    fallen = fallen, below = below, noise = 100 + stats::rnorm(n)
  )
  flags <- flag_periods(x)
  of <- function(line, flags) flags[flags$series == line, ]
  expect_identical(which(of("fallen", flags)$flag), 50L)
  known <- which(of("fallen", flags)$against == "season")
  # 2.5 cycles, and 8 departures from a baseline of two.
  expect_identical(known, 33:60)
  by_season <- of("fallen", flag_periods(x[x$series == "fallen", ], "season"))
  by_last <- flag_periods(x, "last periods")
  same <- setdiff(names(by_last), c("series", "against"))
  expect_equal(
    as.data.frame(of("fallen", flags)[known, same]),
    as.data.frame(by_season[known, same])
  )
  expect_equal(
    as.data.frame(of("noise", flags)[same]),
    as.data.frame(of("noise", by_last)[same])
  )
  # From the month after a value below zero seasons are differences.
  expect_identical(
    as.character(of("below", flags)$against[50:53]),
    c("season", "season", "season", "season (differences)")
  )
  for (row in which(flags$period == as.Date("2031-04-01"))) {
    expect_silent(trace_value(flags, flags$period[[row]], flags$series[[row]]))
  }
  expect_output(print(flags), "A season was known in 2 of 3 series, from")
  # What a form or a number of last periods is given for is what is meant.
  expect_equal(flag_periods(x, last = 12)$baseline, by_last$baseline)
  expect_match(
    conditionMessage(expect_error(flag_periods(x, form = "multiplicative"))),
    "zero or less"
  )
  # Nothing later changes an earlier flag.
  for (end in c(31, 36, 49, 53)) {
    kept <- x$period <= unique(x$period)[[end]]
    part <- flag_periods(x[kept, ])
    expect_equal(
      as.data.frame(part)[same], as.data.frame(flags[kept, ])[same]
    )
  }
})

test_that("a series column called as one of the result is told apart from it", {
  x <- suppressMessages(months_by_line(a = 1:40, series = "against"))
  expect_true(all(c("against_", "against") %in% names(flag_periods(x))))
})

test_that("periods of every length have a default baseline", {
  days <- as.Date("1990-01-01") + 0:14000
  x <- records_of(days, x = seq_along(days), kind = "level")
  for (every in c(
    "day", "10 days", "working day", "week", "third", "month", "2 months",
    "quarter", "year", "3 years"
  )) {
    flags <- flag_periods(roll_up(x, every = every))
    expect_identical(levels(flags$judgement)[1], "flagged", label = every)
  }
  quarters <- as.POSIXct("2031-01-01", tz = "UTC") + 900 * 0:2000
  short <- records_of(quarters, x = seq_along(quarters), kind = "level")
  for (every in c("15 minutes", "hour", "6 hours", "7 hours")) {
    expect_gt(nrow(flag_periods(roll_up(short, every = every))), 0)
  }
})

test_that("where hardly a period was judged, the finding says so", {
  found <- function(n) {
    backfill:::finding_of(flag_periods(
      by_month(withr::with_seed(1, 100 + stats::rnorm(n))), "last periods",
      c(sd = 5), last = 6
    ))
  }
  expect_identical(found(7), "No month can be judged yet.")
  said <- vapply(8:16, found, "")
  expect_true("The one month judged does not depart from its past." %in% said)
  expect_match(said[[9]], "^None of [0-9]+ months judged departs")
})
