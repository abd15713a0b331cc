# Descriptions of series and latest figures, beside base R where the definitions
# meet.

monthly_nights <- function() roll_up(inns(), "month")

months_of <- function(value) {
  values_in(periods_from("month", length(value)), value)
}

test_that("a description is what base R and the formulas give", {
  x <- monthly_nights()
  found <- series_summary(x, probs = c(0.05, 0.975))
  for (i in seq_len(nrow(found))) {
    v <- x$value[x$inn == found$inn[i] & x$standing == "complete"]
    n <- length(v)
    expect_identical(found$n[i], n)
    expect_equal(found$mean[i], mean(v))
    expect_equal(found$sd[i], stats::sd(v))
    expect_equal(found$variance[i], stats::var(v))
    expect_equal(
      unlist(as.data.frame(found)[i, c(
        "lowest", "lower_quartile", "median", "upper_quartile", "highest", "q5",
        "q97_5"
      )], use.names = FALSE),
      unname(stats::quantile(v, c(0, 0.25, 0.5, 0.75, 1, 0.05, 0.975)))
    )
    expect_equal(found$iqr[i], stats::IQR(v))
    m <- function(k) mean((v - mean(v))^k)
    expect_equal(
      found$skewness[i], sqrt(n * (n - 1)) / (n - 2) * m(3) / m(2)^1.5
    )
    expect_equal(
      found$kurtosis[i],
      (n - 1) / ((n - 2) * (n - 3)) * ((n + 1) * (m(4) / m(2)^2 - 3) + 6)
    )
    expect_identical(found$outliers[i], length(grDevices::boxplot.stats(
      v, coef = 1.5
    )$out))
    at <- x$period[x$inn == found$inn[i] & x$value %in% max(v)]
    expect_identical(found$highest_at[i], at[[1]])
    all <- x$value[x$inn == found$inn[i]]
    all[x$standing[x$inn == found$inn[i]] != "complete"] <- NA
    beside <- (all[-1] - mean(v)) * (all[-length(all)] - mean(v))
    beside <- beside[!is.na(beside)]
    expect_equal(
      found$autocorrelation[i], sum(beside) / (length(beside) + 1) / m(2)
    )
  }
})

test_that("quartiles by hand, and outliers with their dates and fences", {
  x <- months_of(c(1, 2, 3, 4, 5, 6, 7, 8, 30, -20))
  found <- series_summary(x)
  expect_equal(found$lower_quartile, 2.25)
  expect_equal(found$upper_quartile, 6.75)
  expect_identical(found$outliers, 2L)
  apart <- summary(found)
  # The furthest beyond its fence comes first.
  expect_identical(apart$period, as.Date(c("2020-09-01", "2020-10-01")))
  expect_identical(apart$side, c("above", "below"))
  expect_equal(apart$fence, c(6.75 + 6.75, 2.25 - 6.75))
  expect_output(print(found), "2020-09 \\(30\\)")
  expect_s3_class(autoplot(found), "ggplot")
  expect_s3_class(autoplot(found, type = "histogram"), "ggplot")
})

test_that("partial periods are counted apart and never in the figures", {
  day <- seq(as.Date("2030-01-10"), as.Date("2030-04-30"), by = "day")
  value <- rep(1, length(day))
  x <- roll_up(records_of(day[day < "2030-02-01" | day > "2030-02-28"],
                          figure = value[seq_along(day)[
                            day < "2030-02-01" | day > "2030-02-28"
                          ]]), "month", cadence = "day")
  found <- series_summary(x)
  expect_identical(c(found$n, found$partial, found$missing), c(2L, 1L, 1L))
  expect_equal(found$mean, 30.5)
  expect_identical(found$first, as.Date("2030-03-01"))
  expect_output(print(found), "Left out: 1 partial month")
})

test_that("groups are positions, columns or vectors, and split without a trace", {
  x <- monthly_nights()
  by <- series_summary(x, by = "quarter")
  expect_identical(nrow(by), 4L * length(unique(x$inn)))
  whole <- series_summary(x)
  expect_equal(
    as.vector(tapply(by$n, by$inn, sum)[whole$inn]), as.numeric(whole$n)
  )
  given <- series_summary(x, by = as.POSIXlt(x$period)$mon < 6)
  expect_identical(levels(given$group), c("FALSE", "TRUE"))
  half <- x$value[
    x$inn == given$inn[[1]] & as.POSIXlt(x$period)$mon >= 6 &
      x$standing == "complete"
  ]
  expect_equal(given$mean[[1]], mean(half))
  # The order of the rows is no matter, and no series tells of another.
  mixed <- series_summary(x[sample(nrow(x)), ])
  expect_equal(
    as.data.frame(mixed)[order(mixed$inn), ],
    as.data.frame(whole)[order(whole$inn), ], ignore_attr = TRUE
  )
  alone <- series_summary(x[x$inn == "Lantern", ])
  expect_equal(
    as.data.frame(alone), as.data.frame(whole)[whole$inn == "Lantern", ],
    ignore_attr = TRUE
  )
})

test_that("the shape of normal figures is taken for odd as rarely as is said", {
  withr::local_seed(21)
  normal <- lapply(c(20, 60), function(n) {
    mean(replicate(200, series_summary(months_of(rnorm(n)))$normality_p) < 0.05)
  })
  expect_lt(max(unlist(normal)), 0.11)
  expect_gt(min(unlist(normal)), 0.015)
  skewed <- replicate(30, series_summary(months_of(rexp(60)))$normality_p)
  expect_gt(mean(skewed < 0.05), 0.9)
  expect_identical(series_summary(months_of(rnorm(19)))$normality_p, NA_real_)
  apart <- replicate(120, series_summary(months_of(rnorm(36)))$outliers)
  expect_equal(mean(apart) / 36, 0.016, tolerance = 0.4)
})

test_that("what cannot be described is refused in words", {
  x <- months_of(c(1, 2, 3))
  expect_error(series_summary(x, probs = 2), "shares from 0 to 1",
               class = "backfill_error_argument")
  expect_error(series_summary(x, by = "nothing"), "nothing",
               class = "backfill_error_column")
  expect_error(series_summary(x, by = 1:2), "2 values for 3 rows",
               class = "backfill_error_argument")
  expect_error(series_summary(1), class = "backfill_error_input")
  constant <- series_summary(months_of(rep(5, 30)))
  expect_identical(constant$sd, 0)
  expect_true(is.na(constant$skewness) && is.na(constant$normality_p))
  one <- series_summary(x[2, ])
  expect_identical(c(one$n, one$highest), c(1, 2))
  expect_true(is.na(one$sd))
})

test_that("the latest figures by hand, on a day and at the end", {
  x <- months_of(c(10, 20, 30, 40, 50, 60, 70, 80, 90, 100, 110, 120, 150, 75))
  last <- latest(x)
  expect_identical(last$period, as.Date("2021-02-01"))
  expect_equal(
    c(last$value, last$before, last$change, last$percent),
    c(75, 150, -75, -50)
  )
  expect_equal(c(last$year_before, last$year_change, last$year_percent),
               c(20, 55, 275))
  # On the last day of a month it is over, on the day before it is not.
  expect_identical(latest(x, on = "2020-07-31")$value, 70)
  expect_identical(latest(x, on = "2020-07-30")$value, 60)
  expect_identical(latest(x, on = "2022-05-31")$age, 15L)
  expect_true(is.na(latest(x, on = "2020-07-31")$year_before))
  expect_error(latest(x, on = "2020-01-30"), "The first one is 2020-01",
               class = "backfill_error_argument")
  expect_error(latest(x, on = "soon"), class = "backfill_error_argument")
})

test_that("nothing later changes the latest figures of a day", {
  x <- monthly_nights()
  on <- as.Date("2030-08-15")
  before <- x[x$period < as.Date("2030-08-01"), ]
  expect_equal(
    as.data.frame(latest(x, on = on)),
    as.data.frame(latest(before, on = on)), ignore_attr = TRUE
  )
})

test_that("a partial latest period is passed over and named; the highest n", {
  records <- records_of(
    as.Date("2030-01-01") + 0:99, port = rep("Sund", 100), figure = 1:100,
    series = "port"
  )
  x <- roll_up(records, "month")
  last <- latest(x, on = "2030-04-30")
  expect_identical(last$period, as.Date("2030-03-01"))
  expect_identical(last$age, 1L)
  expect_output(print(last), "1 series has no whole value in 2030-04: Sund")
  nights <- monthly_nights()
  all <- latest(nights)
  two <- latest(nights, n = 2)
  expect_identical(two$value, sort(all$value, decreasing = TRUE)[1:2])
  expect_s3_class(autoplot(two), "ggplot")
  # Of percentages it is told what they moved by.
  grown <- add_growth(nights, over = 12)
  moved <- latest(grown, of = "growth_12_months")
  expect_true(all(is.na(moved$percent)) && !anyNA(moved$change))
})

test_that("years have no year before of their own", {
  when <- as.Date(sprintf("%d-01-01", 2020:2029))
  x <- roll_up(records_of(when, figure = 1:10), "year")
  last <- latest(x)
  expect_identical(c(last$before, last$year_before), c(9, NA))
  expect_output(print(last), "10 in 2029, \\+11.1% on 2028\\.")
})

test_that("the command line describes, compares and dates as R does", {
  folder <- withr::local_tempdir()
  nights <- c(
    demo_file("inns.csv"), "--when", "month", "--series", "inn", "--measure",
    "guest_nights:flow"
  )
  run <- function(..., file = nights) {
    ran <- command_line(
      "describe", file, ..., "--quiet", "--format", "csv", dir = folder
    )
    expect_identical(ran$status, 0L, label = paste(ran$err, collapse = "\n"))
    data.table::fread(text = ran$out, data.table = FALSE)
  }
  x <- monthly_nights()
  same <- function(given, expected) {
    expected <- as.data.frame(expected)
    figures <- names(expected)[vapply(expected, is.double, NA)]
    figures <- setdiff(figures, names(expected)[
      vapply(expected, inherits, NA, "Date")
    ])
    for (name in figures) {
      expect_equal(as.numeric(given[[name]]), expected[[name]], label = name)
    }
  }
  same(run(), series_summary(x))
  same(run("--groups", "quarter", "--probs", "0.1"),
       series_summary(x, "quarter", 0.1))
  same(run("--latest", "--on", "2031-03-31", "--highest", "2"),
       latest(x, "2031-03-31", 2))
  same(run("--differ", "--groups", "month", "--draws", "199", "--stat",
           "median"),
       group_differences(x, "month", "median", draws = 199))
  same(run("--shifts", "--most", "2", "--season", "no", "--verdict"),
       summary(level_shifts(x, 2, season = FALSE)))
  expect_identical(nrow(run("--outliers", "--groups", "quarter")), 1L)
  fails <- function(pattern, ...) {
    ran <- command_line("describe", nights, ..., dir = folder)
    expect_identical(ran$status, 2L)
    expect_match(paste(ran$err, collapse = " "), pattern)
  }
  fails("`--differ` is given, but nothing that groups", "--differ")
  fails("--latest and --shifts are given", "--latest", "--shifts")
  fails("`--latest` does not use it", "--latest", "--groups", "month")
  fails("`--on` is given, but `--latest` is not", "--on", "2031-01-01")
  fails("`--seed` is given, but neither", "--seed", "3")
  fails("`--shifts` does not use it", "--shifts", "--outliers")
  command_line(
    "describe", nights, "--latest", "--figure", "tiles.png", dir = folder
  )
  expect_gt(file.size(file.path(folder, "tiles.png")), 10000)
})

test_that("descriptions are kept, read back and made by a study", {
  x <- monthly_nights()
  folder <- withr::local_tempdir()
  made <- list(
    series_summary(x, "quarter"), latest(x), group_differences(x, "quarter"),
    level_shifts(x), summary(group_differences(x, "quarter"))
  )
  for (one in made) {
    file <- file.path(folder, "kept.csv")
    write_periods(one, file)
    again <- read_periods(file)
    expect_identical(class(again), class(one))
    expect_equal(as.data.frame(again), as.data.frame(one), ignore_attr = TRUE)
    expect_identical(
      capture.output(print(again)), capture.output(print(one))
    )
    if (inherits(one, "backfill_series_summary")) {
      expect_s3_class(autoplot(again), "ggplot")
    }
  }
  file.copy(demo_file("inns.csv"), folder)
  writeLines(c(
    "backfill: 1", "records:", "  nights:", "    file: inns.csv",
    "    when: month", "    series: inn", "    measures: {guest_nights: flow}",
    "steps:", "  - roll_up: {every: month}", "    name: monthly",
    "  - series_summary: {by: quarter, probs: [0.1]}", "    from: monthly",
    "    name: described", "  - latest: {n: 2}", "    from: monthly",
    "    name: newest", "  - group_differences: {by: quarter}",
    "    from: monthly", "    name: quarters",
    "  - level_shifts: {most: 2}", "    from: monthly", "    name: shifts",
    "figures: [described, shifts]"
  ), file.path(folder, "study.yaml"))
  out <- file.path(folder, "out")
  run <- run_study(file.path(folder, "study.yaml"), out)
  expect_equal(
    as.data.frame(study_result(run, "quarters")),
    as.data.frame(group_differences(x, "quarter")), ignore_attr = TRUE
  )
  expect_true(all(file.exists(
    file.path(out, c("described.png", "shifts.png"))
  )))
})

test_that("an identity holds, is broken or is not judged, as by hand", {
  day <- as.Date("2030-01-01") + 0:9
  records <- records_of(
    rep(day, 2), port = rep(c("Sund", "Holm"), each = 10),
    opened = c(1:10, rep(5, 10)), ended = c(rep(1, 10), 1:10),
    active = c(0:9, 5 - 1:10), series = "port"
  )
  x <- roll_up(records, "day")
  found <- check_identity(x, active ~ opened - ended)
  expect_true(all(found$held))
  expect_output(print(found), "active = opened - ended holds in 20 of 20 days")
  x$value[x$measure == "active" & x$port == "Sund" &
            x$period == day[[4]]] <- 5
  x$value[x$measure == "active" & x$port == "Holm" &
            x$period == day[[2]]] <- 3.4
  x$standing[x$measure == "ended" & x$period == day[[7]]] <- "partial"
  found <- check_identity(x, "active = opened - ended")
  expect_identical(sum(found$held, na.rm = TRUE), 16L)
  broken <- summary(found)
  expect_identical(broken$port, c("Sund", "Holm"))
  expect_equal(broken$difference, c(2, 0.4))
  expect_identical(unique(found$reason[is.na(found$held)]), "ended is partial")
  expect_identical(
    summary(check_identity(x, "active = opened - ended", 0.5))$port, "Sund"
  )
  expect_output(
    print(found), "Sund 2030-01-04 by \\+2.000 and Holm 2030-01-02 by"
  )
  # Decimal fractions are not broken by their rounding.
  x$value[] <- 0.1
  x$value[x$measure == "active"] <- 0.1 + 0.2 - 0.2
  expect_true(all(check_identity(x, active + 0.2 ~ opened + ended + 0.1)$held,
                  na.rm = TRUE))
  expect_s3_class(autoplot(found), "ggplot")
})

test_that("an identity over tables put together counts what has no match", {
  one <- months_of(c(10, 20, 30))
  two <- roll_up(records_of(
    seq(as.Date("2020-02-01"), by = "month", length.out = 3),
    printed = c(20, 31, 40), kind = "level"
  ), "month")
  found <- check_identity(put_together(one, two), "printed = figure")
  expect_identical(found$held, c(NA, TRUE, FALSE, NA))
  expect_identical(found$reason, c(
    "printed is not there", "", "", "figure is not there"
  ))
})

test_that("what is not an equation is refused, and nothing of it is run", {
  x <- months_of(1:5)
  expect_error(check_identity(x, "figure"), "must be an equation",
               class = "backfill_error_formula")
  expect_error(check_identity(x, "figure = stop('run')"), "not read",
               class = "backfill_error_formula")
  expect_error(check_identity(x, "figure = other"), "no measure \"other\"",
               class = "backfill_error_formula")
  expect_error(check_identity(x, "1 = 1"), "names no measure",
               class = "backfill_error_formula")
  expect_error(check_identity(x, "figure = 1", -1),
               class = "backfill_error_argument")
  folder <- withr::local_tempdir()
  ran <- command_line(
    "describe", demo_file("crossings.csv"), "--when", "time", "--zone", "WET",
    "--measure", "market:flow", "--measure", "tide:flow", "--every", "month",
    "--identity", "market = tide", "--tolerance", "8000", "--broken",
    "--format", "csv", "--quiet", dir = folder
  )
  expect_identical(ran$status, 0L)
  given <- data.table::fread(text = ran$out)
  expect_true(nrow(given) > 5 && all(abs(given$difference) > 8000))
})

test_that("a series column that is named like one of a result is said", {
  x <- roll_up(inns(), "month")
  as_named <- function(name) {
    names(x)[names(x) == "inn"] <- name
    x
  }
  refused <- function(code) {
    expect_error(code, "name of a column of the result",
                 class = "backfill_error_column")
  }
  refused(series_summary(as_named("median")))
  refused(latest(as_named("age")))
  refused(group_differences(as_named("block"), "quarter"))
  refused(level_shifts(as_named("after")))
  refused(check_identity(as_named("left"), "guest_nights = 1"))
  refused(season_spells(as_named("season")))
  expect_identical(names(series_summary(as_named("group")))[[1]], "group")
})

test_that("returns are described and linked in one command, with the volatility a year", {
  price <- withr::with_seed(9, 100 * exp(cumsum(stats::rnorm(61, 0, 0.1))))
  file <- text_file(
    "month,price", sprintf(
      "%s,%.4f", seq(as.Date("2027-01-01"), by = "month", length.out = 61),
      price
    ), name = "prices.csv"
  )
  ran <- backfill_cli(
    "describe", file, "--measure", "price:level", "--returns", "log",
    "--format", "csv"
  )
  table <- utils::read.csv(text = ran$out)
  back <- diff(log(as.numeric(sprintf("%.4f", price))))
  expect_equal(table$sd, stats::sd(back))
  # Sixty months' returns, of which the first is a month after the start.
  said <- paste(ran$err, collapse = " ")
  expect_match(said, sprintf(
    "Volatility a year: price %.1f%%", 100 * stats::sd(back) * sqrt(12)
  ), fixed = TRUE)
  two <- text_file(
    "month,one,two", sprintf(
      "%s,%.4f,%.4f", seq(as.Date("2027-01-01"), by = "month", length.out = 61),
      price, rev(price)
    ), name = "two.csv"
  )
  ran <- backfill_cli(
    "links", two, "--measure", "one:level", "--measure", "two:level",
    "--returns", "simple", "--format", "csv"
  )
  by_hand <- stats::cor(
    diff(price) / price[-61], diff(rev(price)) / rev(price)[-61]
  )
  expect_equal(
    utils::read.csv(text = ran$out)$coefficient, by_hand, tolerance = 1e-4
  )
  ran <- backfill_cli(
    "describe", file, "--measure", "price:level", "--longest-return", "2"
  )
  expect_identical(ran$status, 2L)
})
