# Times that are easily misdated: spans of time, offsets from UTC, hours from 1
# to 24.

read_as <- function(text, ...) {
  records <- as_records(
    tibble::tibble(when = text, kilos = 1), "when", c(kilos = "flow"),
    duplicates = "keep", ...
  )
  list(when = records$when, notes = account_notes(records))
}

account_notes <- function(records) paste(account(records)$notes, collapse = " ")

test_that("a span of time is read as its start, as the whole column tells", {
  hours <- sprintf("2031-04-09 %02d:00-%02d:00", 0:23, 1:24)
  expected <- as.POSIXct("2031-04-09", tz = "UTC") + 3600 * 0:23
  expect_equal(read_as(hours)$when, expected)
  expect_match(read_as(hours)$notes, "read as their start")
  # In part of a day too, with a long dash, with blanks, day first, and in a
  # column of its own.
  expect_equal(read_as(hours[7:9])$when, expected[7:9])
  expect_equal(read_as(hours[7])$when, expected[7])
  expect_equal(
    read_as(gsub("-(?=..:..$)", "\u2013", hours, perl = TRUE))$when, expected
  )
  expect_equal(
    read_as(gsub("-(?=..:..$)", " - ", hours, perl = TRUE))$when, expected
  )
  expect_equal(
    read_as(sub("2031-04-09", "9.4.2031", hours), date_order = "dmy")$when,
    expected
  )
  apart <- as_records(
    tibble::tibble(
      date = "2031-04-09", time = substr(hours, 12, 22), kilos = 1
    ), c("date", "time"), c(kilos = "flow")
  )
  expect_equal(apart$when, expected)
  # Through midnight.
  expect_equal(
    format(
      read_as(c(
        "2031-04-09 06:00-14:00", "2031-04-09 14:00-22:00",
        "2031-04-09 22:00-06:00"
      ))$when
    ),
    c("2031-04-09 06:00:00", "2031-04-09 14:00:00", "2031-04-09 22:00:00")
  )
})

test_that("an offset from UTC keeps its meaning where it can be one", {
  utc <- function(text) format(read_as(text)$when, "%Y-%m-%d %H:%M")
  # One offset over the whole day, or two with daylight saving.
  expect_equal(utc(sprintf("2031-04-09 %02d:30-07:00", c(3, 9, 15))),
               c("2031-04-09 10:30", "2031-04-09 16:30", "2031-04-09 22:30"))
  expect_equal(
    utc(sprintf(
      "2031-0%d-09 %02d:30-0%d:00", c(1, 1, 7, 7), c(3, 5, 3, 5), c(7, 7, 6, 6)
    )),
    c(
      "2031-01-09 10:30", "2031-01-09 12:30", "2031-07-09 09:30",
      "2031-07-09 11:30"
    )
  )
  expect_equal(
    utc(c("2031-04-09T06:00-07:00", "2031-04-09T07:00-08:00")),
    c("2031-04-09 13:00", "2031-04-09 15:00")
  )
  expect_equal(
    utc(c(
      "2031-04-09 07:30 -0700", "2031-04-09 07:30:00-07",
      "2031-04-09 07:30+14:00"
    )),
    c("2031-04-09 14:30", "2031-04-09 14:30", "2031-04-08 17:30")
  )
  # None is larger than 14 hours east or 12 west.
  far <- account(as_records(tibble::tibble(
    when = c(
      "2031-04-09T07:30+14:15", "2031-04-09T07:30-12:30",
      "2031-04-09T07:30+01:00", "2031-04-09T07:45+01:00",
      "2031-04-09T07:50+01:00"
    ), kilos = 1
  ), "when", c(kilos = "flow")))
  expect_equal(far$rows_used, 3)
  expect_equal(far$set_aside$reason, rep("no such time of day", 2))
})

test_that("hours from 1 to 24 are told of, and the user says what they are", {
  data <- tibble::tibble(
    date = rep(c("2031-04-09", "2031-04-10"), each = 24), hour = rep(1:24, 2),
    kilos = rep(c(2, 5, 3), 16)
  )
  read <- function(...) {
    as_records(
      data, c("date", "hour"), c(kilos = "flow"), ...
    )
  }
  expect_error(
    read(), "hours are counted from 1 to 24.*`hour_ending` is TRUE or FALSE",
    class = "backfill_error_hour_ending"
  )
  start <- as.POSIXct("2031-04-09", tz = "UTC")
  expect_equal(read(hour_ending = TRUE)$when, start + 3600 * 0:47)
  expect_match(
    account_notes(read(hour_ending = TRUE)), "01:00 is 00:00 to 01:00"
  )
  expect_equal(read(hour_ending = FALSE)$when, start + 3600 * 1:48)
  expect_match(
    account_notes(read(hour_ending = FALSE)),
    "24:00 is read as the next midnight"
  )
  # The same of texts, of half hours, and of a file of a day that has not ended.
  halves <- sprintf(
    "2031-04-09 %02d:%02d", rep(0:24, each = 2)[2:49], rep(c(0, 30), 25)[2:49]
  )
  expect_error(read_as(halves), class = "backfill_error_hour_ending")
  expect_equal(read_as(halves, hour_ending = TRUE)$when, start + 1800 * 0:47)
  expect_equal(
    as_records(
      data[1:5, ], c("date", "hour"), c(kilos = "flow"), hour_ending = TRUE
    )$when,
    start + 3600 * 0:4
  )
  # Nothing to decide where a day starts at 00:00, or where events come when
  # they come.
  expect_equal(
    read_as(c("2031-04-09 00:00", "2031-04-09 24:00"))$when, start + c(0, 86400)
  )
  expect_equal(
    read_as(c("2031-04-09 07:13", "2031-04-09 24:00"))$when,
    start + c(7 * 3600 + 780, 86400)
  )
  file <- text_file(
    "date,hour,kilos", paste(data$date, data$hour, data$kilos, sep = ",")
  )
  found <- inspect_file(file)
  expect_true(found$arguments$hour_ending)
  expect_match(
    found$notes, "For you to decide: Times run from 01:00 to 24:00",
    all = FALSE
  )
  expect_equal(roll_up(found$records, "day")$value, c(80, 80))
  ran <- command_line(
    "periods", "landings.csv", "--when", "date", "--when", "hour", "--measure",
    "kilos:flow", "--every", "day", "--hour-ending", "no", "--format", "csv",
    "--over", "none", "--window", "none", "--enough", "1", dir = dirname(file)
  )
  expect_equal(ran$status, 0)
  # The last hour of the first day is the next one.
  expect_match(ran$out[[2]], ",77,partial,23,", fixed = TRUE)
})
