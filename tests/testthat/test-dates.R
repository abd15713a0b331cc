test_that("ISO 8601 dates and times are read in each of their forms", {
  read <- function(x) dates_of(x)$when
  expect_identical(read(c("2031", "2031-Q2", "2031-04", "2031-W01")),
                   as.Date(c(
                     "2031-01-01", "2031-04-01", "2031-04-01", "2030-12-30"
                   )))
  expect_identical(
    read(c("2031-W15-3", "20310409", "2031-04-09", " 2031-04-09 ", "2031-099")),
    rep(as.Date("2031-04-09"), 5)
  )
  times <- c(
    "2031-04-09T07:30Z", "2031-04-09 08:30:00+01:00", "2031-04-09T07:30:00.25",
    "2031-04-08T24:00", "20310409073000", "2031-04-09T0730"
  )
  half_past <- as.numeric(as.POSIXct("2031-04-09 07:30", tz = "UTC"))
  expect_equal(as.numeric(read(times)), half_past + c(0, 0, 0.25, -27000, 0, 0))
  coarse <- rows_set_aside(dates_of(c("2031-04-09", "2031-04", "2031-04-10")))
  expect_identical(coarse$reason, "no day is given, though other rows have one")
  never <- c(
    "2031-04-09 24:30", "2031-04-09 07:60", "2031-04-31", "2031-W53", "2031-Q5",
    "0000-01-01", "2031-366", "2031-04-09 7h30", "2031-04-09T07:30+25:00",
    "2031-04-09 13:00 pm"
  )
  expect_identical(
    rows_set_aside(dates_of(c(rep("2031-04-09 07:30", 11), never)))$text, never
  )
})

test_that("dates are read as people write them, and mean what R's own reader says", {
  day <- as.Date("2031-12-27") + 0:9
  c_locale <- function(format) {
    withr::with_locale(
      c(LC_TIME = "C"), format(day, format)
    )
  }
  forms <- c(
    "%d/%m/%Y", "%m/%d/%Y", "%d.%m.%y", "%Y/%m/%d", "%d %B %Y", "%B %d, %Y",
    "%a %d-%b-%y", "%d%b%Y", "%Y.%m.%d", "%A, %d of %B %Y"
  )
  for (form in forms) {
    expect_identical(dates_of(c_locale(form))$when, day, label = form)
    evening <- dates_of(paste(c_locale(form), "7:30 pm"))$when
    expect_identical(
      format(evening, "%F %R"), paste(day, "19:30"), label = form
    )
  }
  expect_identical(
    dates_of(c("April 2031", "Apr 31", "04/2031", "203104"))$when,
    rep(as.Date("2031-04-01"), 4)
  )
  expect_identical(
    dates_of(c("Q2 2031", "2031Q2", "2031 q2"))$when,
    rep(as.Date("2031-04-01"), 3)
  )
  expect_identical(
    dates_of("1st May 68", pivot_year = 1900)$when, as.Date("1968-05-01")
  )
  # Text sorts September behind November; dates do not.
  expect_identical(
    as.character(
      account(dates_of(c("1 Sep 2031", "1 Nov 2031", "1 Oct 2031")))$last
    ),
    "2031-11-01"
  )
})

test_that("the order is found from the whole column, declared, or asked for", {
  one_tells <- c("01/02/2031", "03/04/2031", "25/04/2031")
  expect_identical(
    dates_of(one_tells)$when,
    as.Date(c("2031-02-01", "2031-04-03", "2031-04-25"))
  )
  expect_match(
    account(dates_of(one_tells))$notes,
    "day, month, year: 1 row fits no other order"
  )
  expect_error(
    dates_of(one_tells[1:2]),
    paste(
      "day, month, year, or month, day, year.*01/02/2031.*2031-02-01, or",
      "2031-01-02"
    ),
    class = "backfill_error_date_order"
  )
  expect_identical(
    dates_of(one_tells[1:2], date_order = "mdy")$when,
    as.Date(c("2031-01-02", "2031-03-04"))
  )
  # The same day in either order leaves nothing to ask.
  expect_identical(
    dates_of(c("04/04/2031", "05/05/2031"))$when,
    as.Date(c("2031-04-04", "2031-05-05"))
  )
  # A column in one order; a row that fits the other alone is set aside.
  odd <- dates_of(c(
    "25/04/2031", "26/04/2031", "27/04/2031", "04/28/2031", "31/04/2031"
  ))
  expect_identical(rows_set_aside(odd)$reason,
                   c(
                     "written in another order than the other dates",
                     "no such date in the calendar"
                   ))
  expect_error(
    dates_of("1/2/2031", date_order = "ydm"), class = "backfill_error_argument"
  )
})

test_that("fiscal years start when the user says", {
  expect_error(
    dates_of("FY2031"), "when it starts", class = "backfill_error_when"
  )
  expect_identical(
    dates_of(c("FY2031", "FY31", "2030/31"), year_start = 4)$when,
    rep(as.Date("2030-04-01"), 3)
  )
  expect_identical(
    dates_of(c("FY2031 Q1", "FY31-Q4", "2030/31 Q2"), year_start = 10)$when,
    as.Date(c("2030-10-01", "2031-07-01", "2031-01-01"))
  )
  expect_identical(
    dates_of("FY2031", year_start = 1)$when, as.Date("2031-01-01")
  )
  spans <- sprintf("%d-%02d", 2008:2013, 9:14)
  expect_identical(
    dates_of(spans, year_start = 7)$when,
    as.Date(sprintf("%d-07-01", 2008:2013))
  )
  expect_error(
    dates_of(spans[1:4], year_start = 7), "fiscal years that span two",
    class = "backfill_error_date_order"
  )
})

test_that("serial days and seconds are counted from where they start", {
  serial <- as.numeric(as.Date("2031-04-09") - as.Date("1899-12-30"))
  expect_identical(dates_of(serial + 0:1)$when, as.Date("2031-04-09") + 0:1)
  expect_equal(
    as.numeric(dates_of(serial + 0.3125)$when),
    as.numeric(as.POSIXct("2031-04-09 07:30", tz = "UTC"))
  )
  expect_identical(
    dates_of(c(serial, serial) - 1462, date_unit = "day 1904")$when,
    rep(as.Date("2031-04-09"), 2)
  )
  instant <- as.numeric(as.POSIXct("2031-07-01 12:00", tz = "UTC"))
  expect_identical(
    format(dates_of(instant, zone = "CET")$when, "%F %R"), "2031-07-01 14:00"
  )
  expect_identical(as.numeric(dates_of(instant * 1000)$when), instant)
  expect_identical(
    dates_of(c(2030, 2031))$when, as.Date(c("2030-01-01", "2031-01-01"))
  )
  expect_identical(
    dates_of(c(as.character(serial + 0:2), "soon"))$when,
    as.Date("2031-04-09") + 0:2
  )
})

test_that("a date in several columns is put together", {
  read <- function(when, ..., zone = "UTC") {
    as_records(
      tibble::tibble(..., kilos = 1), when, c(kilos = "flow"), zone = zone,
      duplicates = "keep"
    )
  }
  expect_identical(
    read(c(year = "y", month = "m"), y = 2031, m = c("4", "Apr", "April"))$when,
    rep(as.Date("2031-04-01"), 3)
  )
  expect_identical(
    read(c("year", "month", "day"), year = 2031, month = 4, day = 9)$when,
    as.Date("2031-04-09")
  )
  expect_identical(
    read(c("Year", "Day_of_year"), Year = 2032L, Day_of_year = 60L)$when,
    as.Date("2032-02-29")
  )
  expect_identical(
    read(
      c("year", "week", "weekday"), year = 2031, week = 15,
      weekday = c("3", "Wednesday")
    )$when,
    rep(as.Date("2031-04-09"), 2)
  )
  hours <- read(
    c(date = "d", hour = "h"), d = "19.4.2031", h = c(0, 7, 23), zone = "WET"
  )$when
  expect_identical(format(hours, "%F %R"),
                   paste("2031-04-19", c("00:00", "07:00", "23:00")))
  evening <- read(
    c(date = "d", time = "t"), d = "2031-04-09", t = "7:30 pm"
  )$when
  expect_identical(format(evening, "%F %R"), "2031-04-09 19:30")
  bad <- rows_set_aside(read(
    c("year", "week"), year = 2031, week = c(1, 2, 54)
  ))
  expect_identical(bad[c("line", "text", "reason")],
                   tibble::tibble(
                     line = 3L, text = "2031-W54",
                     reason = "no such date in the calendar"
                   ))
  expect_error(
    read(c(year = "y", hour = "h"), y = 1, h = 2), "together make no date",
    class = "backfill_error_argument"
  )
})

test_that("the hour that the clock skips is set aside, and the one it repeats is two hours", {
  time <- c("2030-03-31 00:30", "2030-03-31 01:30", "2030-03-31 02:30",
            "2030-10-27 00:30", "2030-10-27 01:30", "2030-10-27 01:30",
            "2030-10-27 02:30")
  records <- records_of(time, kilos = 1:7, zone = "WET")
  expect_identical(rows_set_aside(records)$line, 2L)
  expect_identical(diff(as.numeric(records$when))[3:5] / 3600, c(1, 1, 1))
  # Each series has its own pass through the repeated hour.
  twice <- records_of(
    rep("2030-10-27 01:30", 4), port = c("a", "b", "a", "b"), kilos = 1:4,
    series = "port", zone = "WET"
  )
  expect_identical(diff(as.numeric(twice$when)), c(0, 3600, 0))
  declared <- function(repeated) {
    as.numeric(
      dates_of("2030-10-27 01:30", zone = "WET", repeated = repeated)$when
    )
  }
  expect_identical(declared("second") - declared("first"), 3600)
})

test_that("a column of counts of which none can be one is refused, in any zone", {
  stamps <- data.frame(stamp = c(NA, Inf, 1e18), kilos = 1:3)
  for (zone in c("UTC", "WET")) {
    expect_error(
      as_records(
        stamps, "stamp", c(kilos = "flow"), date_unit = "second", zone = zone
      ),
      "none of its 3 rows", class = "backfill_error_when"
    )
  }
})

test_that("a column called day beside one of hours holds dates", {
  file <- text_file("day,hour,kilos", "2031-04-01,5,1", "2031-04-01,6,2")
  read <- read_records(file, c("day", "hour"), c(kilos = "flow"))
  expect_identical(
    format(read$when, "%F %R"), c("2031-04-01 05:00", "2031-04-01 06:00")
  )
})

test_that("decimal years are the months, quarters or days that they were made of", {
  read <- function(text, ...) {
    file <- withr::local_tempfile(fileext = ".csv")
    writeLines(c("when,level", paste0(text, ",1")), file)
    read_records(file, "when", c(level = "level"), ...)
  }
  month <- seq(as.Date("2028-03-01"), by = "month", length.out = 30)
  at <- as.numeric(format(month, "%Y")) + (as.POSIXlt(month)$mon) / 12
  for (digits in 3:8) {
    expect_identical(read(sprintf("%.*f", digits, at))$when, month)
    expect_identical(
      read(sprintf("%.*f", digits, at + 1 / 24))$when, month
    )
  }
  expect_match(account(read(sprintf("%.4f", at)))$notes, "decimal years")
  expect_identical(
    as_records(data.frame(at, x = 1), "at", c(x = "level"))$at, month
  )
  quarter <- seq(as.Date("2028-01-01"), by = "quarter", length.out = 9)
  from <- 2028 + 0:8 / 4
  expect_identical(read(sprintf("%.2f", from))$when, quarter)
  expect_identical(read(sprintf("%.3f", from + 0.125))$when, quarter)
  # With two decimals it must be said; what is not a date is set aside.
  expect_identical(read(sprintf("%.2f", at), date_unit = "year")$when, month)
  odd <- sprintf("%.4f", at)
  odd[c(4, 9, 17)] <- c("", "n.a.", "20290.5")
  odd[[22]] <- "2029.7000"
  found <- read(odd)
  expect_identical(found$when, month[-c(4, 9, 17, 22)])
  expect_identical(rows_set_aside(found)$line, c(5L, 10L, 18L, 23L))
  expect_identical(
    rows_set_aside(found)$reason, c("no date is given", rep("not a date", 3))
  )
  day <- seq(as.Date("2027-12-20"), as.Date("2029-01-09"), by = "day")
  year <- as.POSIXlt(day)$year + 1900
  length <- ifelse(year == 2028, 366, 365)
  for (within in c(0, 0.5)) {
    at <- year + (as.POSIXlt(day)$yday + within) / length
    for (digits in c(3, 4, 6)) {
      expect_identical(read(sprintf("%.*f", digits, at))$when, day)
    }
  }
})

test_that("a month behind the point of its year keeps its nought", {
  file <- withr::local_tempfile(fileext = ".csv")
  read <- function(text, ...) {
    writeLines(c("when,level", paste0(text, ",1")), file)
    format(read_records(file, "when", c(level = "level"), ...)$when, "%Y-%m")
  }
  for (zone in c("UTC", "WET")) {
    expect_identical(
      read(c("2031.10", "2031.11", "2031.12"), zone = zone),
      c("2031-10", "2031-11", "2031-12")
    )
    expect_identical(
      read(c("2031.1", "2031.2", "2031.10"), zone = zone),
      c("2031-01", "2031-02", "2031-10")
    )
  }
  typed <- function(x) {
    format(as_records(
      data.frame(when = x, level = 1), "when", c(level = "level")
    )$when, "%m")
  }
  expect_identical(typed(2031 + 1:12 / 100), sprintf("%02d", 1:12))
  expect_error(
    typed(2031 + 10:12 / 100), "January or October",
    class = "backfill_error_when"
  )
})

test_that("spans of time are read as their start, or as their end where that is asked for", {
  text <- c(
    "2031-04-09 06:00-07:30", "2031-04-09 07:30-09:00", "2031-04-09 22:30-00:00"
  )
  read <- function(...) {
    x <- as_records(
      data.frame(when = text, n = 1), "when", c(n = "flow"), ...
    )
    list(format(x$when, "%d %H:%M"), account(x)$notes)
  }
  expect_identical(read()[[1]], c("09 06:00", "09 07:30", "09 22:30"))
  ends <- read(spans = "end")
  expect_identical(ends[[1]], c("09 07:30", "09 09:00", "10 00:00"))
  expect_match(ends[[2]], "as their end", all = FALSE)
  file <- withr::local_tempfile(fileext = ".csv")
  writeLines(c("when,n", paste0(text, ",1")), file)
  expect_identical(
    format(read_records(file, "when", c(n = "flow"), zone = "WET",
                        spans = "end")$when, "%d %H:%M"), ends[[1]]
  )
  dashed <- sub("-(?=[0-9]+:[0-9]+$)", " \u2013 ", text, perl = TRUE)
  writeLines(c("when,n", paste0(dashed, ",1")), file)
  expect_identical(
    format(read_records(file, "when", c(n = "flow"), spans = "end")$when,
           "%d %H:%M"), ends[[1]]
  )
})

test_that("fiscal years stay fiscal years where they are rolled up", {
  data <- data.frame(year = sprintf("FY%d", 2021:2026), kg = 1:6)
  read <- as_records(data, "year", c(kg = "flow"), year_start = 4)
  rolled <- roll_up(read, "year")
  expect_identical(rolled$value, as.numeric(1:6))
  expect_true(all(rolled$standing == "complete"))
  expect_identical(rolled$period[[1]], as.Date("2020-04-01"))
  expect_equal(rolled, roll_up(read, calendar("year", year_start = 4)))
  # By way of months and quarters too, and out of a study or chunks.
  monthly <- roll_up(as_records(data.frame(
    month = seq(as.Date("2029-04-01"), by = "month", length.out = 36), kg = 1
  ), "month", c(kg = "flow"), year_start = 4), "month")
  expect_identical(roll_up(monthly, "year")$value, c(12, 12, 12))
  expect_identical(
    roll_up(roll_up(monthly, "quarter"), "year")$value, c(12, 12, 12)
  )
  total <- add_running_total(monthly)$running_total
  expect_identical(total, rep(as.numeric(1:12), 3))
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(data, file, row.names = FALSE)
  chunked <- read_records(
    file, "year", c(kg = "flow"), year_start = 4, chunked = TRUE
  )
  expect_identical(roll_up(chunked, "year")$period, rolled$period)
})
