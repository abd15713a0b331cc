season12 <- c(0.3, 0.4, 0.6, 0.8, 1.1, 1.4, 1.9, 2, 1.3, 0.9, 0.6, 0.7)

# As how many independent figures those of a line count: whole matrices of
# covariance where the kernel goes along the series once.
worth_of <- function(y, t) {
  n <- length(y)
  design <- cbind(1, t)
  off <- t - mean(t)
  keep <- c(0, rep(c(0.2, 0.4, 0.6, 0.8, 0.9, 0.95), each = 4), 1, 1, 1, 1)
  noise <- c(0, rep(c(0, 0.3, 0.6, 0.85), 6), 0, 0.8, 0.94, 0.985)
  before <- ifelse(keep == 0, 60, ifelse(
    keep == 1, 2, ifelse(keep > 0.7 & noise > 0.5, 0.5, 1)
  ))
  by <- vapply(seq_along(keep), function(i) {
    together <- if (keep[i] < 1) keep[i]^abs(outer(t, t, "-")) else
      outer(t, t, pmin)
    spread <- (1 - noise[i]) * together + noise[i] * diag(n)
    if (keep[i] == 1) spread <- spread + 1
    inverse <- solve(spread)
    inner <- t(design) %*% inverse %*% design
    left <- y - design %*% solve(inner, t(design) %*% inverse %*% y)
    squares <- drop(t(left) %*% inverse %*% left)
    log_likely <- -(
      (n - 2) * log(squares) + determinant(spread)$modulus +
        determinant(inner)$modulus
    ) / 2
    error <- squares / (n - 2) * drop(t(off) %*% spread %*% off) / sum(off^2)^2
    c(log_likely, error)
  }, c(0, 0))
  weight <- before * exp(by[1, ] - max(by[1, ]))
  squared <- sum(weight * by[2, ]) / sum(weight)
  min(n, 2 + (n - 2) * by[2, 1] / squared)
}

test_that("a trend line is that of least squares, its error that of as many independent figures", {
  withr::local_seed(81)
  value <- 50 + 0.3 * (1:60) + as.numeric(
    stats::arima.sim(list(ar = 0.5), 60)
  )
  value[c(7, 20, 21)] <- NA
  found <- trend_line(level_of(value), of = "value")
  at <- 1:60
  fit <- stats::lm(value ~ at)
  expect_equal(found$slope, unname(stats::coef(fit)[[2]]))
  expect_equal(found$r_squared, summary(fit)$r.squared)
  expect_equal(
    c(found$start, found$end),
    unname(stats::predict(fit, data.frame(at = c(1, 60))))
  )
  off <- replace(value, !is.na(value), stats::residuals(fit))
  pairs <- stats::na.omit(off[-1] * off[-60])
  r <- sum(pairs) / (length(pairs) + 1) / mean(off^2, na.rm = TRUE)
  expect_equal(found$autocorrelation, r)
  known <- at[!is.na(value)]
  worth <- worth_of(value[known], known - 1)
  expect_equal(found$n_effective, worth, tolerance = 1e-6)
  error <- sqrt(
    sum(off^2, na.rm = TRUE) / (worth - 2) / sum((known - mean(known))^2)
  )
  expect_equal(found$slope_se, error)
  expect_equal(found$p, 2 * stats::pt(-abs(found$slope / error), worth - 2))
  expect_equal(
    found$upper - found$lower, 2 * error * stats::qt(0.975, worth - 2)
  )
  equation <- sprintf("%.2f [+] 0[.]%s.* a month since 2028-01, R\u00b2 %.3f",
                      found$start, substring(found$slope, 3, 6),
                      found$r_squared)
  expect_match(describe(found), equation)
  expect_match(autoplot(found)$labels$subtitle, equation)
  expect_equal(
    found$slope_per_year,
    found$slope * 59 / (
      as.numeric(as.Date("2032-12-01") - as.Date("2028-01-01")) /
        365.25
    ),
    tolerance = 1e-3
  )
})

# Many series of months, a column each.
of_many <- function(made, n) {
  when <- seq(as.Date("2020-01-01"), by = "month", length.out = n)
  roll_up(records_of(
    rep(when, ncol(made)), g = rep(seq_len(ncol(made)), each = n),
    x = as.vector(made), series = "g", kind = "level"
  ), "month")
}

test_that("noise that hangs together is seldom taken for a trend", {
  withr::local_seed(82)
  made <- replicate(400, as.numeric(stats::arima.sim(list(ar = 0.6), 60)))
  found <- trend_line(of_many(made, 60), of = "value")
  expect_lt(mean(found$p < 0.05, na.rm = TRUE), 0.05)
  # As if they were independent, it would be taken for one four times as often.
  naive <- found$slope_se * sqrt((found$n_effective - 2) / 58)
  expect_gt(mean(2 * stats::pt(-abs(found$slope / naive), 58) < 0.05), 0.2)
})

test_that("a walk is seldom taken for a trend, and a slope mostly is", {
  withr::local_seed(83)
  p_of <- function(made) {
    trend_line(of_many(made, 60), of = "value")$p
  }
  walks <- replicate(300, cumsum(stats::rnorm(60)))
  slopes <- replicate(300, 2 * seq(0, 1, length.out = 60) + stats::rnorm(60))
  behind <- replicate(300, {
    cumsum(stats::rnorm(60, sd = 0.3)) + stats::rnorm(60)
  })
  expect_lt(mean(p_of(walks) < 0.05, na.rm = TRUE), 0.1)
  expect_lt(mean(p_of(behind) < 0.05, na.rm = TRUE), 0.35)
  expect_gt(mean(p_of(slopes) < 0.05, na.rm = TRUE), 0.75)
})

test_that("the inns' trends are those that they were made with", {
  monthly <- roll_up(inns(), "month")
  found <- trend_line(deseasonalise(monthly, seasonal_index(monthly)))
  truth <- unlist(truths()$inns$growth_percent_per_year[found$inn])
  # The season of the Wherry moves, which a steady index leaves in part.
  steady <- found$inn != truths()$inns$moving$inn
  expect_equal(
    found$percent_per_year[steady], unname(truth)[steady], tolerance = 0.12
  )
  expect_true(all(found$p[steady] < 0.05))
  # With the season in it, it says what hides the trend.
  expect_output(print(trend_line(monthly)), "a season as well, beside which")
})

test_that("a slope is a share of the mean where no figure lies below zero alone", {
  percent <- function(value) {
    trend_line(level_of(value), of = "value")$percent_per_year
  }
  expect_equal(percent(101:112), 1200 / mean(101:112), tolerance = 0.01)
  expect_false(is.na(percent(c(0, 3:12))))
  # Returns, and the differences of two sites: their mean is near zero.
  expect_identical(percent(c(-1, 3:12)), NA_real_)
  expect_identical(percent(-(3:14)), NA_real_)
  expect_no_match(
    describe(trend_line(level_of(c(-1, 3:30)), of = "value")), "of its mean"
  )
  # What lies below zero in one series changes nothing in another.
  two <- of_many(cbind(101:130, c(-50, 102:130)), 30)
  expect_identical(
    is.na(trend_line(two, of = "value")$percent_per_year), c(FALSE, TRUE)
  )
})

test_that("the worksheet of a projection leads to it, row by row", {
  monthly <- roll_up(inns(), "month")
  for (base in c("level", "line")) {
    for (form in c("multiplicative", "additive")) {
      made <- project(monthly, 14, base = base, form = form)
      sheet <- summary(made, type = "worksheet")
      ahead <- sheet[sheet$standing == "projected", ]
      expect_identical(
        ahead$projected, made$value[made$standing == "projected"]
      )
      put_back <- if (form == "additive") `+` else `*`
      expect_equal(put_back(sheet$raw_index, sheet$normaliser), sheet$index)
      expect_identical(
        as.character(ahead$position), month.name[as.integer(format(
          ahead$period, "%m"
        ))]
      )
      expect_equal(put_back(ahead$carried, ahead$index), ahead$projected)
      # The level is the mean of the last cycle's adjusted values, the line that
      # through all of them.
      for (inn in unique(sheet$inn)) {
        own <- sheet[sheet$inn == inn & sheet$standing != "projected", ]
        known <- which(!is.na(own$adjusted))
        at <- seq_len(nrow(own))
        carried <- if (base == "level") {
          last <- seq(max(known) - 11, max(known))
          rep(mean(own$adjusted[last], na.rm = TRUE), 14)
        } else {
          fit <- stats::lm(adjusted ~ at, data.frame(own, at = at))
          stats::predict(fit, data.frame(at = nrow(own) + 1:14))
        }
        expect_equal(ahead$carried[ahead$inn == inn], unname(carried))
      }
      past <- sheet[sheet$standing != "projected", names(sheet) != "carried"]
      index <- seasonal_index(monthly, form = form)
      index_sheet <- summary(index, type = "worksheet")
      expect_identical(past$adjusted, index_sheet$adjusted)
      expect_match(describe(sheet), "56 rows are projected", all = FALSE)
    }
  }
})

test_that("a level, or a line, in season is carried on exactly", {
  flat <- level_of(100 * rep(season12, 4))
  ahead <- project(flat, "6 months")
  rows <- ahead[ahead$standing == "projected", ]
  expect_equal(rows$value, 100 * season12[1:6])
  expect_identical(
    rows$period, seq(as.Date("2032-01-01"), by = "month", length.out = 6)
  )
  expect_equal(rows$upper - rows$lower, rep(0, 6), tolerance = 1e-9)
  rising <- level_of((100 + 1:48) + 40 * rep(season12 - 1, 4))
  line <- project(rising, 3, base = "line", form = "additive")
  expect_equal(
    utils::tail(line$value, 3), 100 + 49:51 + 40 * (season12[1:3] - 1)
  )
  # Other calculations leave projections alone, and a table keeps what it knows
  # of them.
  growth <- add_growth(line)$growth_1_month
  expect_identical(is.na(growth), rep(c(TRUE, FALSE, TRUE), c(1, 47, 3)))
  expect_output(
    print(line[line$period > "2031-06-01", ]), "Projected: 3 months"
  )
})

test_that("intervals come from past errors, each made of what was known by then", {
  withr::local_seed(83)
  value <- 100 * rep(season12, 4) * exp(rnorm(48, sd = 0.06))
  found <- project(level_of(value), 9, confidence = 0.8)
  # By the exported functions, from every earlier end on.
  errors <- matrix(NA, 24, 9)
  for (end in 24:47) {
    past <- level_of(value[1:end])
    index <- seasonal_index(past)$index
    adjusted <- value[(end - 11):end] / index[((end - 12):(end - 1)) %% 12 + 1]
    for (h in seq_len(min(9, 48 - end))) {
      errors[end - 23, h] <- value[end + h] / (
        mean(adjusted) * index[(end + h - 1) %% 12 + 1]
      ) - 1
    }
  }
  count <- colSums(!is.na(errors))
  error <- sqrt(colMeans(errors^2, na.rm = TRUE))
  expect_true(is.unsorted(error))
  reach <- cummax(error) * stats::qt(0.9, count - 1)
  rows <- found[found$standing == "projected", ]
  expect_equal(rows$upper, rows$value * (1 + reach))
  expect_equal(rows$lower, rows$value * (1 - reach))
  # The cycle held back, by the same calls.
  check <- summary(found)
  held <- utils::tail(project(level_of(value[1:36]), 12)$value, 12)
  expect_equal(check$mape, 100 * mean(abs(held / value[37:48] - 1)))
  expect_equal(check$mae, mean(abs(held - value[37:48])))
  expect_equal(
    check$mape_last_cycle, 100 * mean(abs(value[25:36] / value[37:48] - 1))
  )
  line <- summary(project(level_of(value), 4, base = "line"))
  growth <- summary(project(level_of(value), 4, base = "growth"))
  expect_equal(
    c(check$mape_other, line$mape_other, growth$mape_other),
    c(line$mape, growth$mape, line$mape)
  )
  # Two cycles are enough to project, not to check.
  short <- project(level_of(value[1:24]), 2)
  expect_true(all(is.na(short$upper)))
  expect_match(
    paste(utils::capture.output(print(short)), collapse = " "),
    "cannot be checked"
  )
})

test_that("an interval holds about its share of what comes", {
  withr::local_seed(84)
  when <- seq(as.Date("2020-01-01"), by = "month", length.out = 72)
  value <- exp(rnorm(72 * 200, sd = 0.05)) * 100 * rep(season12, 6 * 200)
  all <- records_of(
    rep(when, 200), g = rep(1:200, each = 72), x = value, series = "g",
    kind = "level"
  )
  monthly <- roll_up(all, "month")
  known <- monthly$period < as.Date("2025-01-01")
  came <- monthly$value[!known]
  for (share in c(0.9, 0.95)) {
    ahead <- project(monthly[known, ], 12, confidence = share)
    ahead <- ahead[ahead$standing == "projected", ]
    held <- mean(came >= ahead$lower & came <= ahead$upper)
    expect_gt(held, share - 0.03)
    expect_lt(held, if (share == 0.9) 0.97 else 0.995)
  }
  expect_identical(
    project(monthly[known, ], 12)$upper[1:70],
    project(monthly[known, ], 12, confidence = 0.95)$upper[1:70]
  )
})

test_that("projections reach behind partial and empty ends, of each series from its own last row", {
  value <- 100 * rep(season12, 4)
  x <- level_of(value)
  x$standing[48] <- "partial"
  ahead <- project(x, 2)
  expect_identical(nrow(ahead), 50L)
  expect_equal(utils::tail(ahead$value, 2), value[1:2])
  two <- roll_up(
    records_of(
      c(x$period, x$period[1:30]), g = rep(c("a", "b"), c(48, 30)),
      x = c(value, value[1:30]), series = "g", kind = "level"
    ),
    "month"
  )
  two <- two[!(two$g == "b" & two$standing == "empty"), ]
  ends <- project(two, 1)
  expect_identical(
    ends$period[ends$standing == "projected"],
    as.Date(c("2032-01-01", "2030-07-01"))
  )
  expect_error(project(x, 0), class = "backfill_error_over")
  expect_error(
    project(x, 2, confidence = 90), class = "backfill_error_argument"
  )
  expect_error(
    project(project(x, 2), 2), "already", class = "backfill_error_column"
  )
})

test_that("a trend that is not found is not denied, and a season beside it is named", {
  withr::local_seed(85)
  said <- function(value) describe(trend_line(level_of(value), of = "value"))
  flat <- said(stats::rnorm(60))
  expect_match(flat, "shows no trend beyond chance \\(p = ")
  expect_match(flat, "between -[0-9.]+ and [+][0-9.]+ a year at 95%")
  expect_identical(said(rep(5, 40)), "x stays the same.")
  expect_identical(said(7), "x has too few figures for a line.")
  grown <- 100 * rep(season12, 5) * 1.06^(0:59 / 12) *
    exp(stats::rnorm(60, sd = 0.02))
  seasonal <- said(grown)
  expect_match(seasonal, "It has a season as well", all = FALSE)
  expect_no_match(flat, "season")
  adjusted <- level_of(grown)
  adjusted <- deseasonalise(adjusted, seasonal_index(adjusted))
  expect_match(describe(trend_line(adjusted)), "rises")
  expect_no_match(describe(trend_line(adjusted)), "season")
})

test_that("a growth carries on by percentages what a line falls behind", {
  season <- season12 / mean(season12)
  true <- 80 * 1.02^(1:84) * rep(season, 7)
  known <- level_of(true[1:72])
  ahead <- function(base) {
    made <- project(known, 12, base = base)
    made$value[made$standing == "projected"]
  }
  # The centred average of what grows by percentages is a little high.
  expect_equal(ahead("growth"), true[73:84], tolerance = 0.03)
  expect_true(all(ahead("line") < 0.95 * true[73:84]))
  expect_output(
    print(summary(project(known, 12, base = "line"))),
    "[12][.][0-9]% with\\s+a growth"
  )
  expect_error(
    project(known, 3, base = "growth", form = "additive"),
    class = "backfill_error_argument"
  )
})

test_that("a season that moves is named beside what its projection misses", {
  n <- 120
  of <- function(late) {
    withr::with_seed(3, 100 * (1 + 0.4 * sin(
      2 * pi * (seq_len(n) - late) / 12
    )) * (1 + 0.04 * stats::rnorm(n)))
  }
  x <- roll_up(as_records(data.frame(
    month = rep(seq(as.Date("2021-01-01"), by = "month", length.out = n), 2),
    quay = rep(c("fixed", "moving"), each = n),
    kilos = c(of(0), of(3 * seq_len(n) / n))
  ), "month", c(kilos = "flow"), series = "quay"), "month")
  said <- backfill:::sentences_of(project(x, 6))
  expect_match(said, "^The season of moving moves over the cycles", all = FALSE)
  still <- backfill:::sentences_of(project(x[x$quay == "fixed", ], 6))
  expect_no_match(still, "moves over")
})

test_that("a season of the other form is not said to move where it is projected", {
  x <- roll_up(as_records(data.frame(
    month = seq(as.Date("2021-01-01"), by = "month", length.out = 120),
    kilos = withr::with_seed(8, 100 + 1:120 + 20 * sin(2 * pi * 1:120 / 12) +
                               stats::rnorm(120))
  ), "month", c(kilos = "flow")), "month")
  tests <- summary(seasonal_index(x, form = "multiplicative"))
  expect_lt(tests$drift_p, 0.05)
  expect_gte(tests$drift_p_other, 0.05)
  for (form in c("auto", "multiplicative")) {
    ahead <- project(x, 6, form = form)
    expect_no_match(backfill:::sentences_of(ahead), "moves over")
  }
})

# The smoothing as it is described, for one way to follow: what it misses, and
# where it ends. `x` is on the scale that is followed, and so is `index`.
followed <- function(x, index, level, slope, season, damping) {
  cycle <- length(index)
  state <- c(0, 0)
  seen <- rep(0, cycle)
  n <- 0
  missed <- rep(NA, length(x))
  for (i in seq_along(x)) {
    p <- (i - 1) %% cycle + 1
    state <- c(state[1] + damping * state[2], damping * state[2])
    if (is.na(x[i])) next
    n <- n + 1
    seen[p] <- seen[p] + 1
    missed[i] <- x[i] - index[p] - state[1]
    gain <- if (damping == 0) {
      c(max(level, 1 / n), 0)
    } else {
      of_line <- c(4 * n - 2, 6) / (n * (n + 1))
      c(max(level, of_line[1]), if (n > 1) max(slope, of_line[2]) else 0)
    }
    state <- state + gain * missed[i]
    if (seen[p] > 2) {
      share <- max(season, 1 / seen[p])
      index[p] <- index[p] + share * (1 - gain[1]) * missed[i]
    }
  }
  list(missed = missed, state = state, index = index)
}

ways_to_follow <- function() {
  out <- expand.grid(
    slope = c(0, 0.03, 0.1, 0.3), damping = c(0, 0.8, 0.95, 1),
    season = c(0, 0.1, 0.25, 0.5),
    level = c(0.01, 0.05, 0.1, 0.2, 0.35, 0.55, 0.8)
  )
  out <- out[out$damping > 0 | out$slope == 0, ]
  out$slope <- out$slope * out$level
  out
}

# `first` figures have the index that is started from.
followed_ahead <- function(value, steps, form, first = 24) {
  scale <- if (form == "multiplicative") log else identity
  back <- if (form == "multiplicative") exp else identity
  index <- seasonal_index(level_of(value[seq_len(first)]), form = form)$index
  ways <- ways_to_follow()
  tried <- lapply(seq_len(nrow(ways)), function(i) {
    do.call(followed, c(list(scale(value), scale(index)), ways[i, ]))
  })
  squares <- vapply(tried, function(one) {
    sum(one$missed[-seq_len(first)]^2, na.rm = TRUE)
  }, 0)
  best <- tried[[which.min(squares)]]
  fading <- ways$damping[[which.min(squares)]]^seq_len(steps)
  at <- (length(value) + seq_len(steps) - 1) %% 12 + 1
  back(best$state[1] + best$state[2] * cumsum(fading) + best$index[at])
}

test_that("what follows the recent figures does so by the least errors up to then", {
  expect_identical(nrow(ways_to_follow()), 364L)
  withr::local_seed(17)
  value <- 100 * exp(cumsum(stats::rnorm(52, 0, 0.03))) * season12[
    (seq_len(52) - 1) %% 12 + 1
  ]
  holed <- replace(value, c(31, 44, 45), NA)
  for (one in list(
    list(value, "multiplicative"), list(holed, "additive")
  )) {
    made <- project(level_of(one[[1]]), 14, base = "recent", form = one[[2]])
    ahead <- made[made$standing == "projected", ]
    expect_equal(ahead$value, followed_ahead(one[[1]], 14, one[[2]]))
  }
  # Its past errors are those of the same done at earlier ends: not before there
  # is an index to start from, eleven months later where a month is missing
  # twice.
  late <- replace(value, c(5, 17), NA)
  for (one in list(list(value, 24), list(late, 35))) {
    off <- vapply(one[[2]]:51, function(end) {
      ahead <- followed_ahead(
        one[[1]][1:end], 1, "multiplicative", one[[2]]
      )
      one[[1]][[end + 1]] / ahead - 1
    }, 0)
    made <- project(level_of(one[[1]]), 1, base = "recent")
    reach <- made$upper / made$value - 1
    expect_equal(
      reach[made$standing == "projected"],
      sqrt(mean(off^2)) * stats::qt(0.975, length(off) - 1)
    )
  }
})

test_that("each series is carried on by the base that missed least so far", {
  withr::local_seed(23)
  at <- seq_len(108)
  of <- list(
    level = 100 * exp(stats::rnorm(108, 0, 0.03)),
    growth = 40 * 1.02^at * exp(stats::rnorm(108, 0, 0.03)),
    line = (20 + 3 * at) * exp(stats::rnorm(108, 0, 0.01)),
    recent = 100 * exp(cumsum(cumsum(stats::rnorm(108, 0, 0.004))))
  )
  month <- seq(as.Date("2022-01-01"), by = "month", length.out = 108)
  x <- roll_up(records_of(
    rep(month, 4), value = unlist(of) * rep(season12, length.out = 432),
    series = "of", kind = "level", of = rep(names(of), each = 108)
  ), "month")
  made <- project(x, 12, base = "auto")
  check <- summary(made)
  expect_identical(check$base, check$of)
  missed <- as.matrix(as.data.frame(check)[paste0("missed_", names(of))])
  expect_identical(names(of)[apply(missed, 1, which.min)], check$base)
  # It is what that base gives by itself.
  for (base in names(of)) {
    own <- project(x[x$of == base, ], 12, base = base)
    expect_equal(made$value[made$of == base], own$value)
    expect_equal(made$upper[made$of == base], own$upper)
    all <- suppressWarnings(project(x, 12, base = base))
    expect_identical(unique(backfill:::facts(all)$projected$bases$base), base)
  }
  expect_match(
    backfill:::describe(made),
    "growth is carried on by its growth, which missed by [0-9.]+% in the past",
    all = FALSE
  )
  expect_named(
    summary(project(x, 12, base = "auto", form = "additive"))[10:13],
    c("base", "missed_level", "missed_line", "missed_recent")
  )
  row <- which(made$of == "recent" & made$standing == "projected")[[3]]
  told <- trace_value(made, made$period[[row]], "recent", column = "value")
  expect_match(told$formula[[1]], "exponential smoothing")
  expect_equal(own_answer(told$worked[[1]]), made$value[[row]])
})

test_that("what follows the recent figures follows a season that moves", {
  withr::local_seed(29)
  at <- seq_len(144)
  value <- 100 * (1 + 0.3 * sin(2 * pi * (at - at / 48) / 12)) *
    exp(stats::rnorm(144, 0, 0.02))
  off <- vapply(c("level", "line", "recent"), function(base) {
    made <- project(level_of(value[1:132]), 12, base = base)
    mean(abs(made$value[made$standing == "projected"] / value[133:144] - 1))
  }, 0)
  expect_lt(off[["recent"]], 0.6 * min(off[["level"]], off[["line"]]))
})

test_that("a shell draws the projection that it gives", {
  folder <- withr::local_tempdir()
  file.copy(demo_file("inns.csv"), folder)
  draw <- function(name, ...) {
    ran <- backfill_cli(
      "season", "inns.csv", "--measure", "guest_nights:flow", "--project", "12",
      "--base", "auto", "--quiet", ..., "--figure", name, dir = folder
    )
    expect_identical(ran$status, 0L, label = paste(ran$err, collapse = " "))
    unname(tools::md5sum(file.path(folder, name)))
  }
  made <- project(roll_up(inns(), "month"), 12, base = "auto")
  here <- file.path(folder, "here.png")
  write_figure(autoplot(made), here)
  expect_identical(draw("there.png"), unname(tools::md5sum(here)))
  # Another axis is one of the periods, which says what it leaves out.
  expect_match(
    autoplot(made, zero = FALSE, log = TRUE)$labels$caption,
    "The projection is not drawn."
  )
})
