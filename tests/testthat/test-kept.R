# What keep_dates() keeps is what is expected: on other days and at other hours
# nothing is, over all the days that were asked for.

# A year by the hour in a zone whose clock changes, and some rules.
hours_of_year <- function() {
  seq(as.POSIXct("2031-01-01", "WET"), as.POSIXct("2032-01-01", "WET"), 3600)
}

kept_rules <- list(
  hours = list(hours = 7:9), night = list(hours = c(0:2, 23)),
  weekend = list(weekdays = 6:7),
  office = list(hours = 8:16, weekdays = 1:5),
  workdays = list(
    workdays = TRUE, holidays = as.Date(c("2031-01-06", "2031-05-01"))
  ),
  off = list(
    workdays = FALSE, holidays = as.Date(c("2031-01-06", "2031-05-01"))
  )
)

# By R's own clock.
keeps <- function(rule, time) {
  clock <- as.POSIXlt(time, tz = "WET")
  weekday <- (clock$wday + 6) %% 7 + 1
  day <- as.Date(format(clock, "%Y-%m-%d"))
  working <- weekday < 6 & !day %in% rule$holidays
  (is.null(rule$hours) | clock$hour %in% rule$hours) &
    (is.null(rule$weekdays) | weekday %in% rule$weekdays) &
    (is.null(rule$workdays) | working == isTRUE(rule$workdays))
}

test_that("coverage is the share of the hours that were kept", {
  time <- hours_of_year()
  time <- time[-length(time)]
  set.seed(33)
  there <- sort(sample(length(time), 0.97 * length(time)))
  for (name in names(kept_rules)) {
    rule <- kept_rules[[name]]
    kept <- keeps(rule, time)
    x <- records_of(time[there], v = rep(1, length(there)), zone = "WET")
    x <- do.call(keep_dates, c(list(x), rule))
    expect_match(account(x)$cadence, "^hour [(]", label = name)
    for (every in c("day", "month")) {
      rolled <- roll_up(x, every, enough = 1)
      unit <- if (every == "day") "%Y-%m-%d" else "%Y-%m-01"
      period <- factor(
        format(time, unit, tz = "WET"), format(rolled$period)
      )
      expected <- as.vector(table(period[kept]))
      found <- as.vector(table(period[intersect(which(kept), there)]))
      expect_identical(rolled$n, found, label = paste(name, every))
      expect_equal(
        rolled$coverage, ifelse(expected == 0, NA, found / expected),
        label = paste(name, every)
      )
      inner <- -c(1, nrow(rolled))
      expect_identical(
        rolled$standing[inner] == "complete",
        (found == expected & expected > 0)[inner], label = paste(name, every)
      )
      if (every == "day") further <- roll_up(rolled, "month")
    }
    expect_equal(
      further$coverage, rolled$coverage, label = paste(name, "further")
    )
  }
})

test_that("what is kept is expected by days as well, and at the ends", {
  day <- seq(as.Date("2031-01-01"), as.Date("2031-12-31"), 1)
  for (name in c("weekend", "workdays", "off")) {
    rule <- kept_rules[[name]]
    x <- do.call(keep_dates, c(list(records_of(day, v = 1)), rule))
    for (every in c("week", "month")) {
      rolled <- roll_up(x, every)
      whole <- rolled$standing == "complete"
      # Weeks reach over the ends of the year.
      if (every == "week") whole <- whole[-c(1, length(whole))]
      expect_true(all(whole), label = paste(name, every))
    }
    lacking <- roll_up(x[-20, ], "month", enough = 1)
    expect_identical(sum(lacking$standing == "partial"), 1L, label = name)
  }
  # A cadence that is named keeps to it too.
  hour <- hours_of_year()[1:480]
  x <- keep_dates(records_of(hour, v = 1, zone = "WET"), hours = 7:9)
  for (cadence in c("hour", "30 minutes", "day")) {
    expect_equal(
      roll_up(x, "day", cadence = cadence)$coverage,
      rep(c("30 minutes" = 0.5, hour = 1, day = 1)[[cadence]], 20)
    )
  }
})

test_that("where silence means zero, what was asked for is the span", {
  day <- as.Date("2031-02-10") + c(0, 3, 40)
  x <- keep_dates(records_of(day, v = 1), from = "2031-01", to = "2031-06-15")
  rolled <- roll_up(x, "month", absent = "zero")
  expect_identical(format(rolled$period[c(1, 6)], "%m"), c("01", "06"))
  expect_identical(rolled$value, c(0, 2, 1, 0, 0, 0))
  expect_identical(
    as.character(rolled$standing), c(rep("complete", 5), "partial")
  )
  expect_identical(nrow(roll_up(x, "day", absent = "zero")), 166L)
  # Of what silence says nothing of, nothing is made up.
  expect_identical(nrow(roll_up(x, "month")), 2L)
  clock <- records_of(
    as.POSIXct("2031-03-29 07:30", "WET"), v = 1, zone = "WET"
  )
  clock <- keep_dates(clock, from = "2031-03-29", to = "2031-03-30")
  expect_identical(
    roll_up(clock, "hour", absent = "zero")$value, as.numeric(seq_len(47) == 8)
  )
})

test_that("rows without any value are no proof that something is expected", {
  day <- seq(as.Date("2031-02-03"), as.Date("2031-06-30"), 1)
  open <- as.POSIXlt(day)$wday %in% 1:5
  data <- data.frame(day, price = ifelse(open, 2, NA), kg = ifelse(open, 1, NA))
  measures <- c(price = "level", kg = "flow")
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(data, file, na = ".", row.names = FALSE)
  bare <- as_records(data[open, ], "day", measures)
  wanted <- roll_up(bare, "month")
  expect_false(any(wanted$standing[-c(1, 2)] == "partial"))
  connection <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(connection))
  DBI::dbWriteTable(
    connection, "prices", transform(data, day = format(day))
  )
  read <- list(
    memory = as_records(data, "day", measures),
    file = read_records(file, "day", measures),
    chunked = read_records(file, "day", measures, chunked = TRUE),
    elsewhere = records_at(connection, "prices", "day", measures)
  )
  for (name in names(read)) {
    if (name != "chunked") {
      expect_identical(
        account(read[[name]])$cadence, account(bare)$cadence, label = name
      )
    }
    rolled <- roll_up(read[[name]], "month")
    expect_identical(rolled$standing, wanted$standing, label = name)
    expect_identical(rolled$coverage, wanted$coverage, label = name)
  }
})

test_that("what was left out before is not asked for again, nor by another table", {
  x <- records_of(as.Date("2031-01-01") + 0:89, v = 1)
  twice <- keep_dates(keep_dates(x, from = "2031-02"), from = "2031-01-15")
  rolled <- roll_up(twice, "month", absent = "zero")
  expect_identical(format(rolled$period, "%m"), c("02", "03"))
  mornings <- keep_dates(
    records_of(hours_of_year()[1:480], v = 1, zone = "WET"), hours = 7:9
  )
  other <- records_of(hours_of_year()[1:480], ice = 1, zone = "WET")
  both <- join_records(mornings, keep_dates(other, hours = 7:9))
  expect_match(account(both)$cadence, "07:00 to 09:59")
  expect_true(all(roll_up(both, "day")$standing == "complete"))
  bound <- rbind(mornings, keep_dates(
    records_of(hours_of_year()[481:960], v = 1, zone = "WET"), hours = 5
  ))
  expect_null(attr(bound, "backfill")$kept)
})

test_that("a start after the end is told by both names", {
  x <- records_of(as.Date("2031-01-01") + 0:59, v = 1)
  expect_error(
    keep_dates(x, from = "2031-02", to = "2031-01"),
    "`from` is 2031-02, which lies after `to`, 2031-01",
    class = "backfill_error_argument"
  )
  expect_identical(
    nrow(keep_dates(x, from = "2031-01-05", to = "2031-01-05")), 1L
  )
})

test_that("gaps are counted in what was kept, here and in a database", {
  skip_if_not_installed("RSQLite")
  time <- hours_of_year()
  time <- time[-length(time)]
  set.seed(34)
  gone <- sample(length(time), 200)
  gone <- unique(c(gone, 3000:3100, 5000:5040))
  base <- sqlite_base()
  base$put(data.frame(
    t = format(time[-gone], "%Y-%m-%d %H:%M:%S", tz = "UTC"), v = 1
  ), "hours")
  for (name in names(kept_rules)) {
    rule <- kept_rules[[name]]
    kept <- keeps(rule, time)
    there <- kept & !seq_along(time) %in% gone
    # By hand: of the kept hours, runs that are not there.
    runs <- rle(there[kept])
    inner <- seq_along(runs$lengths) > 1 &
      seq_along(runs$lengths) < length(runs$lengths)
    longest <- sort(runs$lengths[!runs$values & inner], decreasing = TRUE)[1:3]
    x <- do.call(keep_dates, c(list(records_of(
      time[-gone], v = rep(1, length(time) - length(gone)), zone = "WET"
    )), rule))
    found <- account(x)$gaps
    expect_identical(
      unique(found$missing)[1], as.numeric(longest[1]), label = name
    )
    expect_true(all(found$missing >= longest[3]), label = name)
    there <- do.call(keep_dates, c(list(records_at(
      base$at, "hours", "t", c(v = "flow"), zone = "UTC"
    )), rule))
    here <- do.call(keep_dates, c(list(records_of(
      time[-gone], v = rep(1, length(time) - length(gone)), zone = "UTC"
    )), rule))
    expect_equal(
      account(there)$gaps, account(here)$gaps, ignore_attr = TRUE, label = name
    )
  }
})
