# Effects of the calendar, beside a slow oracle in base R, planted truths, and
# what must not matter.

months_from <- function(n, first = "2024-01-01") {
  seq(as.Date(first), by = "month", length.out = n)
}

# How many of each weekday every month has, counted day by day.
weekdays_of <- function(start) {
  n <- length(start)
  after <- c(start[-1], seq(start[[n]], by = "month", length.out = 2)[[2]])
  t(vapply(seq_len(n), function(i) {
    days <- seq(start[[i]], after[[i]] - 1, by = "day")
    tabulate((as.POSIXlt(days)$wday + 6) %% 7 + 1, 7)
  }, numeric(7)))
}

# Those that are regressed on: each less Sundays, and the leap day.
regressors <- function(start) {
  counts <- weekdays_of(start)
  leap <- ifelse(as.POSIXlt(start)$mon == 1, rowSums(counts) - 28.25, 0)
  cbind(counts[, 1:6] - counts[, 7], leap)
}

# Generalised least squares over whole matrices, averaged over the list.
oracle_effects <- function(y, x, cycle = 12) {
  back <- function(z) {
    i <- seq(cycle + 2, nrow(z))
    z[i, , drop = FALSE] - z[i - 1, , drop = FALSE] -
      z[i - cycle, , drop = FALSE] + z[i - cycle - 1, , drop = FALSE]
  }
  w <- back(cbind(y))
  z <- back(x)
  there <- !is.na(w[, 1])
  lag <- abs(outer(seq_along(w), seq_along(w), "-"))[there, there]
  w <- w[there]
  z <- z[there, , drop = FALSE]
  beside <- length(w) - ncol(z)
  free <- beside - 2
  ways <- expand.grid(
    trend = c(-0.5, -0.2, 0, 0.2, 0.4, 0.55, 0.7, 0.8, 0.9, 0.97),
    season = c(0, 0.3, 0.5, 0.7, 0.85, 0.95, 0.99)
  )
  fits <- Map(function(trend, season) {
    of_trend <- c(1 + trend^2, -trend)
    of_season <- c(1 + season^2, -season)
    at <- function(lag, part) ifelse(lag > 1, 0, part[pmin(lag, 1) + 1])
    covariance <- at(lag, of_trend) * of_season[[1]]
    near <- abs(lag - cycle)
    covariance <- covariance + at(near, of_trend) * of_season[[2]]
    inverse <- solve(covariance)
    within <- solve(t(z) %*% inverse %*% z)
    b <- within %*% t(z) %*% inverse %*% w
    left <- drop(t(w - z %*% b) %*% inverse %*% (w - z %*% b))
    list(b = b, variance = within * left / free, log = -beside / 2 * log(left) -
           determinant(covariance)$modulus / 2 +
           determinant(within)$modulus / 2)
  }, ways$trend, ways$season)
  weight <- exp(vapply(fits, `[[`, 0, "log") - max(vapply(
    fits, `[[`, 0, "log"
  )))
  weight <- weight / sum(weight)
  b <- Reduce(`+`, Map(function(one, w) w * one$b, fits, weight))
  variance <- Reduce(`+`, Map(function(one, w) {
    w * (one$variance + tcrossprod(one$b - b))
  }, fits, weight))
  list(b = drop(b), variance = variance, free = free)
}

flow_of <- function(..., start) {
  value <- list(...)
  roll_up(as_records(
    data.frame(
      month = rep(start, length(value)),
      shop = rep(names(value), each = length(start)), kilos = unlist(value)
    ), "month", c(kilos = "flow"), series = "shop"
  ), "month")
}

test_that("estimates and chances are those of whole matrices, with holes and without", {
  set.seed(11)
  for (n in c(36, 61, 120)) {
    start <- months_from(n, sample(c("2024-01-01", "2025-03-01"), 1))
    y <- cumsum(stats::rnorm(n, 0, 0.02)) + stats::rnorm(n, 0, 0.05) +
      0.2 * sin(seq_len(n) * pi / 6)
    if (n > 60) y[sample(20:n, 3)] <- NA
    x <- regressors(start)
    slow <- oracle_effects(y, x)
    made <- calendar_effects(flow_of(a = 100 * exp(y), start = start))
    expect_equal(
      made$estimate[c(1:6, 8)], unname(100 * expm1(slow$b)), tolerance = 1e-7
    )
    expect_equal(
      made$estimate[[7]], 100 * expm1(-sum(slow$b[1:6])), tolerance = 1e-7
    )
    tested <- slow$b[1:6]
    together <- sum(tested * solve(slow$variance[1:6, 1:6], tested)) / 6
    expect_equal(
      unique(made$joint_p[1:7]),
      stats::pf(together, 6, slow$free, lower.tail = FALSE), tolerance = 1e-7
    )
    error <- sqrt(slow$variance[7, 7])
    expect_equal(
      made$p[[8]], 2 * stats::pt(-abs(slow$b[[7]]) / error, slow$free),
      tolerance = 1e-7
    )
    expect_equal(
      c(made$lower[[8]], made$upper[[8]]),
      100 * expm1(slow$b[[7]] + c(-1, 1) * stats::qt(0.975, slow$free) * error),
      tolerance = 1e-7
    )
  }
})

test_that("planted effects are found and taken out, a festival's share of each month as well", {
  set.seed(3)
  start <- months_from(144)
  festivals <- as.Date(c(
    "2024-03-31", "2025-04-20", "2026-04-05", "2027-03-28", "2028-04-16",
    "2029-04-01", "2030-04-21", "2031-04-13", "2032-03-28", "2033-04-17",
    "2034-04-09", "2035-03-25"
  ))
  true <- c(-0.02, -0.01, 0, 0.005, 0.01, 0.03, -0.015)
  days <- outer(festivals, -3:1, "+")
  share <- tabulate(
    findInterval(as.numeric(days), as.numeric(start)), 144
  ) / 5
  plain <- 5 + 0.3 * sin(seq_len(144) * pi / 6) + 0.004 * seq_len(144) +
    stats::rnorm(144, 0, 0.01)
  moved <- plain + drop(weekdays_of(start) %*% true) + 0.12 * share
  x <- flow_of(a = exp(moved), b = exp(plain), start = start)
  made <- calendar_effects(x, festivals = festivals, before = 3, after = 1)
  own <- made[made$shop == "a", ]
  expect_identical(unique(own$verdict[own$effect != "leap day"]), "found")
  expect_lt(max(abs(log1p(own$estimate[1:7] / 100) - true)), 0.006)
  expect_lt(abs(log1p(own$estimate[[9]] / 100) - 0.12), 0.02)
  expect_true(all(made$lower[1:9] <= made$estimate[1:9]))
  # An index names the series that weekdays move, and no other.
  expect_match(
    backfill:::describe(seasonal_index(x)),
    "How many of each weekday a month has moves a (p < 0.01)", fixed = TRUE,
    all = FALSE
  )
  said <- backfill:::headline(made)
  expect_match(said[[1]], "one more Saturday in a month is worth [+]")
  expect_match(said[[2]], "1 of 2 series")
  expect_match(
    backfill:::headline(calendar_effects(x[x$shop == "b", ])), "No effect"
  )
  adjusted <- add_calendar_adjusted(x, made)
  rough <- function(value) {
    stats::sd(diff(diff(log(value), 12)))
  }
  a <- adjusted$shop == "a"
  expect_lt(
    rough(adjusted$calendar_adjusted[a]), 1.15 * rough(exp(plain))
  )
  expect_gt(rough(adjusted$value[a]), 3 * rough(exp(plain)))
  # What a year has on average stays: the season is as it was.
  expect_equal(
    mean(log(adjusted$calendar_adjusted[a])), mean(moved), tolerance = 2e-3
  )
})

describe_text <- function(x) paste(backfill:::describe(x), collapse = " ")

test_that("other series, their order and scale change nothing, and nothing is made of too little", {
  set.seed(8)
  start <- months_from(60)
  y <- 100 * exp(stats::rnorm(60, 0, 0.03))
  z <- 50 * exp(cumsum(stats::rnorm(60, 0, 0.03)))
  both <- flow_of(a = y, b = z, start = start)
  made <- calendar_effects(both[sample(nrow(both)), ])
  own <- function(made, shop) as.data.frame(made)[made$shop == shop, -1]
  alone <- calendar_effects(flow_of(b = z, start = start))
  expect_equal(own(made, "b"), own(alone, "b"), ignore_attr = TRUE)
  scaled <- calendar_effects(flow_of(b = 1000 * z, start = start))
  expect_equal(scaled$estimate, alone$estimate)
  added <- calendar_effects(flow_of(b = 1000 * z, start = start),
                            form = "additive")
  more <- calendar_effects(flow_of(b = 2000 * z, start = start),
                           form = "additive")
  expect_equal(more$estimate, 2 * added$estimate)
  expect_equal(more$p, added$p)
  short <- calendar_effects(flow_of(a = y[1:31], start = start[1:31]))
  expect_identical(unique(short$verdict), "cannot be told")
  expect_match(describe_text(short), "18 months can be compared")
  still <- calendar_effects(flow_of(a = rep(5, 60), start = start))
  expect_false(any(still$verdict == "found"))
  # A festival on one date, and a leap day that is not among the years.
  same <- calendar_effects(
    flow_of(a = y, start = start), festivals = as.Date(sprintf(
      "%d-12-24", 2024:2028
    ))
  )
  expect_identical(same$verdict[same$effect == "festival"], "cannot be told")
  expect_false(anyNA(same$p[same$effect == "Monday"]))
  later <- months_from(36, "2029-01-01")
  expect_identical(
    calendar_effects(flow_of(a = y[1:36], start = later))$verdict[[8]],
    "cannot be told"
  )
})

test_that("where an effect cannot be told in one series, its values stay as they are", {
  set.seed(12)
  start <- months_from(96)
  leap <- regressors(start)[, "leap"]
  a <- exp(5 + 0.06 * leap + stats::rnorm(96, 0, 0.004))
  b <- exp(5 + stats::rnorm(96, 0, 0.004))
  # No leap year has a figure of the second, nor has the year after it.
  years <- as.integer(format(start, "%Y"))
  b[years %in% c(2024, 2025, 2028, 2029)] <- NA
  x <- flow_of(a = a, b = b, start = start)
  made <- calendar_effects(x)
  expect_identical(
    made$verdict[made$effect == "leap day"], c("found", "cannot be told")
  )
  adjusted <- add_calendar_adjusted(x, made)
  of_b <- adjusted$shop == "b"
  expect_identical(adjusted$calendar_adjusted[of_b], adjusted$value[of_b])
})

test_that("quarters, working days and files have the same effects; what cannot be asked is refused", {
  set.seed(4)
  start <- months_from(120)
  counts <- weekdays_of(start)
  working <- rowSums(counts[, 1:5]) - 2.5 * rowSums(counts[, 6:7])
  y <- exp(4 + 0.012 * working + stats::rnorm(120, 0, 0.008))
  x <- flow_of(a = y, start = start)
  made <- calendar_effects(x, days = "working")
  expect_lt(abs(log1p(made$estimate[[1]] / 100) - 0.012), 0.002)
  expect_identical(
    made$estimate, calendar_effects(roll_up(
      x, calendar("month", workdays = 1:5)
    ), days = "working")$estimate
  )
  quarters <- calendar_effects(roll_up(x, "quarter"), days = "working")
  expect_identical(quarters$verdict[[1]], "found")
  adjusted <- add_calendar_adjusted(x, made)
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(adjusted, file)
  for (one in list(adjusted, read_periods(file))) {
    traced <- trace_value(
      one, start[[30]], column = "calendar_adjusted"
    )
    expect_equal(
      own_answer(traced$worked[[1]]), one$calendar_adjusted[[30]],
      tolerance = 1e-6
    )
  }
  none <- add_calendar_adjusted(
    flow_of(a = 5 + stats::rnorm(120, 0, 0.01), start = start)
  )
  expect_identical(none$calendar_adjusted, none$value)
  folder <- withr::local_tempdir()
  data.table::fwrite(
    data.frame(month = format(start, "%Y-%m"), kilos = y),
    file.path(folder, "kilos.csv")
  )
  ran <- backfill_cli(
    "season", "kilos.csv", "--calendar-adjust", "--days", "working",
    "--format", "csv", "--quiet", "--measure", "kilos:flow", dir = folder
  )
  expect_equal(
    utils::read.csv(text = ran$out)$calendar_adjusted,
    adjusted$calendar_adjusted
  )
  for (wrong in list(
    quote(calendar_effects(roll_up(x, "year"))),
    quote(calendar_effects(x, before = 2)),
    quote(calendar_effects(x, days = "none")),
    quote(calendar_effects(x, festivals = "2031-04-13")),
    quote(calendar_effects(x, festivals = as.Date("2001-04-13"))),
    quote(add_calendar_adjusted(x, x)),
    quote(add_calendar_adjusted(roll_up(x, "quarter"), made)),
    quote(calendar_effects(flow_of(a = c(0, y[-1]), start = start)))
  )) {
    expect_error(eval(wrong), class = "backfill_error", label = deparse(wrong))
  }
})

test_that("the figure has the surest nine series, with room for the names of its panels", {
  set.seed(14)
  start <- months_from(48)
  names <- sprintf("a depot far out on the western skerries no. %02d", 1:12)
  values <- lapply(stats::setNames(nm = names), function(name) {
    exp(5 + stats::rnorm(48, 0, 0.02))
  })
  made <- calendar_effects(do.call(flow_of, c(values, list(start = start))))
  drawn <- autoplot(made)
  built <- ggplot2::ggplot_build(drawn)
  expect_identical(nrow(built$layout$layout), 9L)
  least <- tapply(made$joint_p, made$shop, min)
  expect_setequal(
    as.character(built$layout$layout$line), names(sort(least))[1:9]
  )
  labels <- drawn$facet$params$labeller(built$layout$layout["line"])[[1]]
  expect_lte(max(nchar(labels)), 34)
})
