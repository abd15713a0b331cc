# What a roll-up makes of records: every statistic, kind, gap and sub-series.

random_records <- function(
  n = 2000, zone = "WET", series = c("a", "b", "c"), ...
) {
  time <- .POSIXct(1.9e9 + 60 * sample(400000, n), tz = zone)
  records_of(
    time, port = sample(series, n, replace = TRUE),
    kilos = round(rnorm(n, 50, 30), 2), series = "port", zone = zone, ...
  )
}

test_that("every statistic is the one that base R gives, in any order of the records", {
  withr::local_seed(3)
  records <- random_records()
  month <- format(records$when, "%Y-%m", tz = "WET")
  groups <- split(
    records[order(records$when), ]$kilos,
    list(month, records$port)[[1]][order(records$when)]
  )
  key <- paste(records$port, month)
  in_time <- order(records$when)
  of_base <- function(f) {
    as.numeric(tapply(
      records$kilos[in_time], key[in_time], f
    ))
  }
  wanted <- list(
    sum = sum, mean = mean, first = function(x) x[[1]],
    last = function(x) x[[length(x)]], lowest = min,
    highest = max, median = stats::median, sd = stats::sd, count = length,
    slots = length,
    "90%" = function(x) unname(stats::quantile(x, 0.9)), "0%" = min
  )
  rolled <- roll_up(
    records, "month", use = list(kilos = names(wanted)), cadence = "irregular"
  )
  shuffled <- roll_up(
    records[sample(nrow(records)), ], "month",
    use = list(kilos = names(wanted)), cadence = "irregular"
  )
  for (use in setdiff(names(wanted), "slots")) {
    name <- paste0("kilos_", sub("%", "", use))
    expect_equal(
      rolled$value[rolled$measure == name & rolled$n > 0],
      of_base(wanted[[use]]), tolerance = 1e-12, label = use
    )
  }
  expect_equal(shuffled, rolled, tolerance = 1e-13)
  # Two readings in one slot are two records, and one slot.
  twice <- records_of(
    as.Date(c("2031-01-01", "2031-01-01", "2031-01-02", "2031-01-03")),
    kilos = 1:4
  )
  expect_identical(
    roll_up(twice, "month", use = list(kilos = c("count", "slots")))$value,
    c(4, 3)
  )
  expect_identical(roll_up(twice, "month", use = "sd")$value, stats::sd(1:4))
})

test_that("periods roll up to what the records give, standings included, by any chain and in any zone", {
  withr::local_seed(4)
  at <- seq(
    as.POSIXct("2030-01-20 05:00", tz = "WET"), by = 3600, length.out = 12000
  )
  kept <- sort(sample(length(at), 11800))
  records <- as_records(
    tibble::tibble(
      at = at[kept], gate = rep_len(c("a", "b", "b"), length(kept)),
      people = rpois(length(kept), 9), price = round(runif(length(kept)), 3),
      worth = round(runif(length(kept)), 3),
      change = round(runif(length(kept), -0.01, 0.01), 5)
    ),
    "at", list(
      people = "flow", price = "level", worth = "level",
      each = measure("ratio", of = "people", per = "price"),
      change = measure("return", unit = "%")
    ), series = "gate", zone = "WET"
  )
  uses <- list(worth = c("first", "highest", "lowest", "last", "mean", "count"))
  chains <- list(
    c("hour", "day", "month", "year"), c("6 hours", "third", "quarter"),
    c("day", "week"), c("hour", "month", "year")
  )
  for (chain in chains) {
    for (by in list(NULL, character())) {
      from_records <- roll_up(
        records, chain[[length(chain)]], by = by, use = if (is.null(by)) uses,
        enough = 0.9, cadence = "hour"
      )
      step <- roll_up(
        records, chain[[1]], use = if (is.null(by)) uses, enough = 0.9,
        cadence = "hour"
      )
      for (every in chain[-1]) {
        step <- roll_up(
          step, every, by = if (every == chain[[length(chain)]]) by
        )
      }
      # The average of a level over series depends on what is averaged first.
      compared <- is.null(by) | !from_records$measure %in% c(
        "price", "worth", "change"
      )
      expect_equal(
        columns(step[compared, ]), columns(from_records[compared, ]),
        tolerance = 1e-12, label = paste(chain, collapse = " ")
      )
    }
  }
  daily <- roll_up(records, "day", use = c(price = "median"))
  expect_error(
    roll_up(daily, "month"), "median", class = "backfill_error_input"
  )
  expect_error(
    roll_up(roll_up(records, "week"), "month"), "does not fit",
    class = "backfill_error_every"
  )
  # Series of other names than the records had are judged by the standings
  # alone.
  monthly <- roll_up(inns(), "month", enough = 1)
  renamed <- monthly
  renamed$inn <- toupper(renamed$inn)
  expect_identical(
    roll_up(renamed, "year")$standing, roll_up(monthly, "year")$standing
  )
  # Days of events that come when they come, and silence that means zero.
  days <- records_of(
    as.Date("2031-01-05") + c(0, 3, 40, 41, 90, 120), kilos = 1:6
  )
  for (absent in list(NULL, "zero")) {
    rolled <- function(x, every) {
      roll_up(
        x, every, absent = if (is_records(x)) absent
      )
    }
    is_records <- function(x) inherits(x, "backfill_records")
    expect_identical(
      rolled(rolled(days, "day"), "month")[c("value", "standing", "n")],
      rolled(days, "month")[c("value", "standing", "n")]
    )
  }
})

test_that("a total is the same by any chain of periods, whatever the calendar", {
  withr::local_seed(5)
  records <- random_records(500, "CET")
  total <- sum(records$kilos)
  calendars <- list(
    "hour", "7 hours", "90 minutes", "day",
    calendar("10 days", anchor = "2031-04-09"), "third",
    calendar("week", week_start = "Saturday"),
    calendar("day", zone = "Etc/GMT+9"),
    calendar("working day", holidays = as.Date("2030-04-01") + 0:9),
    calendar("quarter", year_start = 2), calendar("year", year_start = 10)
  )
  for (every in calendars) {
    rolled <- roll_up(records, every, cadence = "irregular")
    label <- if (is.character(every)) every else format(every)
    expect_equal(
      sum(rolled$value, na.rm = TRUE), total, tolerance = 1e-13, label = label
    )
    expect_identical(sum(rolled$n), 500L)
    expect_identical(
      as.numeric(unique(rolled$period)),
      as.numeric(period_sequence(
        min(records$when), max(records$when), every
      ))
    )
  }
})

test_that("hours of a zone whose clock moves by half an hour are those that the clock shows", {
  zone <- "Australia/Lord_Howe" # offsets of 10:30 and 11:00
  time <- seq(
    as.POSIXct("2031-04-05 10:00", tz = "UTC"), by = 900, length.out = 40
  )
  hourly <- roll_up(
    records_of(.POSIXct(time, tz = zone), kilos = rep(1, 40), zone = zone),
    "hour"
  )
  expect_identical(sum(hourly$value), 40)
  expect_true(all(as.POSIXlt(hourly$period)$min %in% c(0, 30)))
  change <- hourly[as.POSIXlt(hourly$period)$min == 30, ]
  expect_identical(nrow(change), 1L)
  expect_identical(change$value, 2) # half an hour until the full one
  expect_identical(
    as.character(unique(hourly$standing[-c(1, nrow(hourly))])), "complete"
  )
})

test_that("sub-series are put together by their kind, by hand", {
  data <- tibble::tibble(
    day = as.Date("2031-04-01") + c(0, 1, 0, 1), isle = c("a", "a", "b", "b"),
    region = "north",
    kilos = c(1, 2, 10, 20), price = c(4, 6, 1, 1), stock = c(100, 200, 10, 10),
    bad = c(NA, 2, 3, 4)
  )
  records <- as_records(
    data, "day",
    list(kilos = "flow", price = "level", stock = "level", bad = "flow",
         each = measure("ratio", of = "kilos", per = "stock")),
    series = "isle"
  )
  all <- roll_up(records, "month", by = character(), cadence = "irregular")
  value <- function(x, name) x$value[x$measure == name]
  expect_identical(value(all, "kilos"), 33)
  expect_identical(value(all, "price"), 3)            # the mean of 5 and 1
  expect_identical(value(all, "bad"), 9)
  expect_identical(
    value(all, "each"), 33 / 160
  )      # kilos over the stocks' means, both added up
  expect_identical(all$n[all$measure == "kilos"], 4L)
  weighed <- roll_up(
    records, "month", by = character(),
    pool = c(price = "kilos", stock = "sum")
  )
  expect_equal(value(weighed, "price"), (5 * 3 + 1 * 30) / 33)
  expect_identical(value(weighed, "stock"), 160)
  unweighed <- records
  unweighed$kilos[3:4] <- NA
  lacking <- roll_up(
    unweighed, "month", by = character(), pool = c(price = "kilos"),
    cadence = "irregular"
  )
  expect_identical(value(lacking, "price"), 5)
  expect_identical(
    as.character(lacking$standing[lacking$measure == "price"]), "partial"
  )
  by_region <- roll_up(records, "month", by = "region")
  expect_identical(by_region$region[[1]], "north")
  expect_identical(value(by_region, "kilos"), 33)
  # Other statistics are those of all records together.
  spread <- roll_up(
    records, "month", by = character(),
    use = list(price = c("sd", "lowest", "median", "count"))
  )
  expect_equal(
    spread$value[spread$measure != "kilos"][1:4],
    c(stats::sd(data$price), 1, 2.5, 4)
  )
  # A day without one of the isles is partial, and one without both empty.
  gap <- records[-4, ]
  daily <- roll_up(gap, "day", by = character(), cadence = "day")
  expect_identical(
    as.character(daily$standing[daily$measure == "kilos"]),
    c("complete", "partial")
  )
  expect_identical(daily$coverage[daily$measure == "kilos"], c(1, 0.5))
  expect_error(
    roll_up(records, "month", by = "island"), "island",
    class = "backfill_error_column"
  )
  expect_error(
    roll_up(records, "month", pool = c(price = "weight")), "weight",
    class = "backfill_error_argument"
  )
})

test_that("sub-series that are random parts of the records give the statistics of the whole", {
  withr::local_seed(8)
  records <- random_records(3000, series = sprintf("part %d", 1:7))
  uses <- list(
    kilos = c(
      "sum", "mean", "first", "last", "lowest", "highest", "sd", "median",
      "count"
    )
  )
  pool <- roll_up(
    records, "third", by = character(), use = uses, cadence = "irregular"
  )
  plain <- as_records(
    as.data.frame(records)[c("when", "kilos")], "when", c(kilos = "flow"),
    zone = "WET", duplicates = "keep"
  )
  whole <- roll_up(plain, "third", use = uses, cadence = "irregular")
  expect_equal(columns(pool), columns(whole), tolerance = 1e-12)
})

test_that("a counter's resets, corrections and gaps are told and placed, by hand", {
  day <- as.Date("2031-01-01") + 7 * (0:11) # Wednesdays
  reading <- c(100, 107, 114, NA, 142, 149, 5, 12, 10, 17, NA, 38)
  records <- as_records(
    tibble::tibble(day, reading), "day", c(reading = "counter")
  )
  weekly <- roll_up(records, "week", cadence = "week")
  expect_identical(weekly$value, c(NA, 7, 7, NA, 28, 7, NA, 7, NA, 7, NA, 21))
  # The closing weeks hold more than their own.
  expect_identical(as.character(weekly$standing[c(2, 4, 5, 7, 12)]),
                   c("complete", "empty", "partial", "empty", "partial"))
  expect_output(
    print(weekly),
    "falls 2 times.*from\\s+149 to 5.*a reset.*from 12 to 10.*a correction"
  )
  spread <- roll_up(records, "week", cadence = "week", absent = "spread")
  expect_identical(
    spread$value, c(NA, 7, 7, 14, 14, 7, NA, 7, NA, 7, 10.5, 10.5)
  )
  expect_identical(
    as.character(spread$standing[c(4, 5, 11)]),
    c("imputed", "complete", "imputed")
  )
  expect_identical(
    sum(spread$value, na.rm = TRUE), sum(weekly$value, na.rm = TRUE)
  )
  shuffled <- roll_up(
    records[c(5, 2, 12, 1, 3, 4, 8, 7, 6, 11, 10, 9), ], "week",
    cadence = "week", absent = "spread"
  )
  expect_equal(shuffled, spread)
  expect_identical(
    roll_up(records, "month", use = "last", cadence = "week")$value,
    c(142, 10, 38)
  )
})

test_that("a fall counts as it is declared, by hand", {
  day <- as.Date("2031-01-01") + 7 * (0:9)
  reading <- c(100, 110, 140, 132, 142, NA, 5, 25, 21, 41)
  records <- as_records(
    tibble::tibble(day, reading), "day", c(reading = "counter")
  )
  weekly <- function(falls, ...) {
    roll_up(records, "week", cadence = "week", falls = falls, ...)
  }
  of <- function(...) weekly(...)$value
  expect_identical(of("unknown"), c(NA, 10, 30, NA, 10, NA, NA, 20, NA, 20))
  expect_identical(of("count"), c(NA, 10, 30, -8, 10, NA, -137, 20, -4, 20))
  expect_identical(of("restart"), c(NA, 10, 30, 132, 10, NA, 5, 20, 21, 20))
  # 8 of the 40 before, 4 of the 25 since the meter started anew.
  expect_equal(
    of(c("restart", "spread")),
    c(NA, 8, 24, 0, 10, NA, 5 * 0.84, 20 * 0.84, 0, 20)
  )
  # 137 are more than was counted before: not known, and counted from there.
  expect_equal(of("spread"), c(NA, 8, 24, 0, 10, NA, NA, 16, 0, 20))
  # What is spread over missing readings is corrected, too.
  expect_equal(
    of(c("restart", "spread"), absent = "spread"),
    c(NA, 8, 24, 0, 10, 2.1, 2.1, 20 * 0.84, 0, 20)
  )
  expect_equal(of("unknown", rollover = 150)[7:9], c(13, 20, NA))
  expect_output(
    print(weekly(c("count", "restart"), rollover = 200)),
    "correction below zero.*140 to 132.*0 again 1 time.*from\\s+142 to 5"
  )
  expect_output(print(weekly("count")), "142 to 5.*is it a\\s+reset\\?")
  expect_error(weekly("count", rollover = 140),
               "142, but `rollover` says", class = "backfill_error_argument")
  for (odd in list("no", 1, c("count", "spread"), c(kilos = "count"))) {
    expect_error(weekly(odd), "`falls`", class = "backfill_error")
  }
  expect_error(roll_up(weekly("count"), "10 weeks", falls = "count"),
               "already", class = "backfill_error_argument")
})

test_that("corrections spread back keep the last reading less the first", {
  for (seed in 1:30) {
    set.seed(seed)
    series <- rep(c("a", "b"), 60)
    step <- round(stats::rexp(120, 0.05)) * ifelse(runif(120) < 0.1, -0.3, 1)
    reading <- 500 + ave(step, series, FUN = cumsum)
    records <- as_records(
      tibble::tibble(day = as.Date("2031-01-01") + rep(0:59, each = 2),
                     series, reading)[sample(120), ],
      "day", c(reading = "counter"), series = "series"
    )
    rises <- function(falls) {
      out <- roll_up(records, "day", falls = falls)
      split(out$value, out$series)
    }
    counted <- rises("count")
    spread <- rises("spread")
    for (name in c("a", "b")) {
      low <- cummin(cumsum(c(0, counted[[name]][-1])))
      # Where it falls below where it began it is not known.
      if (min(low) < 0) next
      expect_equal(sum(spread[[name]], na.rm = TRUE),
                   sum(counted[[name]], na.rm = TRUE))
      expect_gte(min(spread[[name]], na.rm = TRUE), 0)
      # A slow oracle: each fall taken off all that went before it.
      slow <- counted[[name]]
      for (i in which(slow < 0)) {
        before <- seq_len(i - 1)
        slow[before] <- slow[before] * (1 + slow[[i]] / sum(
          slow[before], na.rm = TRUE
        ))
        slow[[i]] <- 0
      }
      expect_equal(spread[[name]], slow)
    }
  }
})

test_that("returns are compounded, or added where they are logarithms", {
  day <- as.Date("2031-01-01") + 0:2
  of <- function(kind, unit = NULL, x = c(0.1, -0.1, 0.5)) {
    roll_up(
      as_records(
        tibble::tibble(day, x = x), "day", list(x = measure(kind, unit)),
        duplicates = "keep"
      ),
      "year", cadence = "irregular"
    )$value
  }
  expect_equal(of("return"), 1.1 * 0.9 * 1.5 - 1)
  expect_equal(of("return", "%", c(10, -10, 50)), 100 * (1.1 * 0.9 * 1.5 - 1))
  expect_equal(of("log return"), 0.5)
  expect_identical(of("return", x = c(0.1, -1, 0.5)), -1)
})

test_that("silence can mean zero, and partial ends are kept, dropped or scaled, by hand", {
  records <- records_of(
    as.Date(c("2031-01-17", "2031-01-20", "2031-03-05", "2031-03-10")),
    kilos = c(1, 2, 3, 4)
  )
  zero <- roll_up(records, "month", absent = "zero")
  expect_identical(zero$value, c(3, 0, 7))
  expect_identical(
    as.character(zero$standing), c("partial", "complete", "partial")
  )
  expect_equal(
    roll_up(records, "month", absent = "zero", partial = "scale")$value,
    c(3 * 31 / 15, 0, 7 * 31 / 10)
  )
  expect_identical(
    roll_up(records, "month", absent = "zero", partial = "drop")$value, 0
  )
  # A month that starts on a Saturday is reached on its first Monday, where
  # there are no Saturdays.
  weekdays <- as.Date("2031-03-03") + setdiff(
    0:59, c(5:6 + rep(7 * (0:8), each = 2), 10, 31)
  )
  fair <- records_of(weekdays, kilos = rep(1, length(weekdays)))
  expect_identical(
    as.character(roll_up(fair, "month", absent = "zero")$standing),
    c("complete", "complete", "partial")
  )
  # By coverage where there is a cadence; a level is not scaled.
  days <- as.Date("2031-01-17") + 0:50
  daily <- as_records(
    tibble::tibble(day = days, kilos = 1, price = 2), "day",
    c(kilos = "flow", price = "level")
  )
  scaled <- roll_up(daily, "month", partial = "scale")
  expect_equal(scaled$value, c(31, 28, 31, 2, 2, 2))
  expect_identical(
    as.character(scaled$standing[1:3]), c("partial", "complete", "partial")
  )
  expect_identical(nrow(roll_up(daily, "month", partial = "drop")), 2L)
  expect_error(
    roll_up(daily, "month", absent = c(price = "zero")), "level",
    class = "backfill_error_argument"
  )
  expect_error(
    roll_up(daily, "month", absent = c(weight = "zero")), "weight",
    class = "backfill_error_column"
  )
})

test_that("a use that makes nonsense of a kind is done with a warning, and an unknown one refused", {
  day <- as.Date("2031-01-01") + 0:2
  records <- as_records(tibble::tibble(day, price = 1:3, kilos = 4:6), "day",
                        list(
                          price = "level", kilos = "flow",
                          each = measure("ratio", of = "kilos", per = "price")
                        ))
  expect_warning(
    sum <- roll_up(records, "month", use = c(price = "sum")), "mean",
    class = "backfill_warning_use"
  )
  expect_identical(sum$value[sum$measure == "price"], 6)
  expect_warning(
    roll_up(records, "month", use = c(each = "mean")), "parts",
    class = "backfill_warning_use"
  )
  expect_no_warning(roll_up(
    records, "month", use = c(price = "last", kilos = "highest")
  ))
  expect_error(
    roll_up(records, "month", use = "average"), "quantile",
    class = "backfill_error_argument"
  )
  expect_error(
    roll_up(records, "month", use = c(weight = "sum")), "weight",
    class = "backfill_error_column"
  )
  expect_error(
    roll_up(records, "hour"), "dates only", class = "backfill_error_every"
  )
})

test_that("on working days alone something is expected", {
  days <- as.Date("2031-04-01") + 0:29
  closed <- as.Date(c("2031-04-11", "2031-04-14"))
  open <- days[!as.POSIXlt(days)$wday %in% c(0, 6) & !days %in% closed]
  records <- records_of(open, kilos = rep(1, length(open)))
  expect_lt(roll_up(records, "month")$coverage, 1)
  market <- calendar("month", workdays = 1:5, holidays = closed)
  expect_identical(as.character(roll_up(records, market)$standing), "complete")
  # A sale on a holiday is added up, and fills no slot.
  extra <- roll_up(
    records_of(c(open[-3], closed[[1]]), kilos = rep(1, length(open))), market
  )
  expect_identical(extra$value, 20)
  expect_equal(extra$coverage, 19 / 20)
  daily <- roll_up(records, calendar("working day", holidays = closed))
  expect_identical(nrow(daily), 20L)
  expect_true(all(daily$standing == "complete"))
  expect_equal(roll_up(daily, "month")$coverage, 1)
})
