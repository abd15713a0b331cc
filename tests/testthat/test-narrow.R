test_that("dates are kept by range, weekday, hour and working day, and each row left out is counted", {
  records <- crossings()
  clock <- as.POSIXlt(records$time)
  holidays <- as.Date(truths()$holidays$dates)
  kept <- keep_dates(
    records, from = "2031-06", to = "2031-08-15", hours = 6:9,
    workdays = TRUE, holidays = read_holidays(demo_file("holidays.ics"))
  )
  day <- as.Date(format(records$time, "%F"))
  expected <- day >= "2031-06-01" & day <= "2031-08-15" & clock$hour %in% 6:9 &
    clock$wday %in% 1:5 & !day %in% holidays
  expect_identical(kept$time, records$time[expected])
  note <- tail(account(kept)$notes, 1)
  counts <- regmatches(
    note, gregexpr("[0-9,]+(?= before| after| at| on)", note, perl = TRUE)
  )[[1]]
  counts <- as.numeric(gsub(",", "", counts))
  expect_identical(sum(counts) + nrow(kept), nrow(records) + 0)
  expect_identical(
    keep_dates(records, weekdays = c("Sat", "Sunday"))$time,
    records$time[clock$wday %in% c(0, 6)]
  )
  expect_identical(
    nrow(keep_dates(records, workdays = TRUE, holidays = holidays)) +
      nrow(keep_dates(records, workdays = FALSE, holidays = holidays)),
    nrow(records)
  )
  # An end takes in all of its day, hour or instant; a zone's days are its own.
  expect_identical(
    range(format(
      keep_dates(records, from = "2031-07-01", to = as.Date("2031-07-01"))$time,
      "%F %R"
    )),
    c("2031-07-01 00:00", "2031-07-01 23:00")
  )
  expect_identical(
    nrow(keep_dates(
      records, from = "2031-07-01 06:00", to = "2031-07-01 08:00"
    )),
    3L
  )
  expect_identical(
    nrow(keep_dates(
      records, from = "2031-07-01T06:00Z", to = "2031-07-01T08:00Z"
    )),
    3L
  )
  expect_identical(
    format(keep_dates(records, from = "2031-07-01T06:00Z")$time[[1]], "%R"),
    "07:00"
  )
  expect_error(
    keep_dates(records, from = "1/7/2031"), class = "backfill_error_argument"
  )
  expect_error(
    keep_dates(inns(), hours = 3), "dates only",
    class = "backfill_error_argument"
  )
  expect_error(
    keep_dates(records, holidays = holidays), "`workdays`",
    class = "backfill_error_argument"
  )
})

test_that("a calendar of holidays gives its days, and one that is not understood is refused", {
  days <- function(...) {
    file <- withr::local_tempfile(fileext = ".ics")
    writeLines(
      c(
        "BEGIN:VCALENDAR", "BEGIN:VEVENT", ..., "END:VEVENT", "END:VCALENDAR"
      ),
      file
    )
    range <- as.numeric(as.Date(c("2028-01-01", "2031-12-31")))
    as.character(as.Date(
      backfill:::days_off(file, range), origin = "1970-01-01"
    ))
  }
  expect_identical(
    days("DTSTART;VALUE=DATE:20290228", "DTEND;VALUE=DATE:20290302"),
    c("2029-02-28", "2029-03-01")
  )
  expect_identical(
    days("DTSTART;VALUE=DATE:20280229", "RRULE:FREQ=YEARLY"), "2028-02-29"
  )
  expect_identical(
    days(
      "DTSTART;VALUE=DATE:20280501", "RRULE:FREQ=YEARLY;COUNT=3",
      "EXDATE;VALUE=DATE:20290501"
    ),
    c("2028-05-01", "2030-05-01")
  )
  expect_identical(
    days("DTSTART:20280501T1", " 00000", "SUMMARY:a time"), character()
  )
  expect_error(
    days("DTSTART;VALUE=DATE:20280501", "RRULE:FREQ=YEARLY;BYDAY=1MO"),
    "not read here", class = "backfill_error_file"
  )
  expect_error(
    read_holidays(demo_file("events.csv")), "iCalendar",
    class = "backfill_error_file"
  )
})

test_that("measures are made of measures, and of what kind they are follows or is asked", {
  records <- add_measures(
    crossings(), total = market + tide, doubled = 2 * total,
    share = market / total
  )
  expect_identical(records$doubled, 2 * (records$market + records$tide))
  kinds <- vapply(attr(records, "backfill")$measures, `[[`, "", "kind")
  expect_identical(
    kinds[c("total", "doubled", "share")],
    c(total = "flow", doubled = "flow", share = "ratio")
  )
  expect_false(any(is.nan(records$share)))
  # A share of a year is made of the year's figures, not of the hours' shares.
  yearly <- roll_up(records, "year", enough = 0.5)
  value <- function(measure) yearly$value[yearly$measure == measure]
  expect_identical(value("share"), value("market") / value("total"))
  expect_error(
    add_measures(crossings(), odd = market * tide), "does not follow",
    class = "backfill_error_kind"
  )
  expect_error(
    add_measures(crossings(), odd = log(market)), "not read in a formula",
    class = "backfill_error_formula"
  )
  expect_error(
    add_measures(crossings(), odd = west + 1), "no measure \"west\"",
    class = "backfill_error_formula"
  )
  expect_error(
    add_measures(crossings(), market = tide), class = "backfill_error_column"
  )
  declared <- add_measures(
    crossings(), odd = market * tide, measures = c(odd = "level")
  )
  expect_identical(attr(declared, "backfill")$measures$odd$kind, "level")
})

test_that("attributes are joined by their key, and what does not match is said on both sides", {
  truth <- truths()$islands
  expect_message(
    nights <- add_attributes(
      inns(), demo_file("islands.csv"), "island",
      measures = c(residents = "level")
    ),
    truth$without_records, class = "backfill_message_unmatched"
  )
  expect_identical(
    nights$residents, as.numeric(unlist(truth$residents)[nights$island])
  )
  per_head <- add_measures(nights, per_resident = guest_nights / residents)
  expect_equal(per_head$per_resident, nights$guest_nights / nights$residents)
  few <- data.frame(island = c("Ostrel", "Vannow"), boats = c(7, 4))
  expect_message(
    some <- add_attributes(inns(), few, "island"),
    "\"Lissary\" and \"Skellan\""
  )
  expect_identical(nrow(some), nrow(inns()))
  expect_error(
    add_attributes(inns(), rbind(few, few), "island"), "several rows",
    class = "backfill_error_duplicates"
  )
  expect_error(
    add_attributes(inns(), few, "port"),
    class = "backfill_error_column"
  )
  # A series renamed on reading is known by what the table calls it.
  renamed <- as_records(
    data.frame(day = as.Date("2031-04-01") + 0:1, start = c("a", "b"), n = 1:2),
    "day", c(n = "flow"), series = "start"
  )
  towns <- data.frame(start = c("b", "a"), town = c("Vannow", "Ostrel"))
  for (key in list(NULL, "start")) {
    expect_identical(
      add_attributes(renamed, towns, key)$town, c("Ostrel", "Vannow")
    )
  }
  # Where none is named, the key is what both have.
  expect_identical(
    suppressMessages(add_attributes(inns(), few)), some
  )
  expect_error(
    add_attributes(inns(), data.frame(port = "Ostrel", boats = 7)),
    "no column that the records have: \"port\"",
    class = "backfill_error_column"
  )
})

test_that("a ratio needs its parts, and is computed where the file has no column of its name", {
  file <- text_file(
    "day,value,kilos", "2031-04-01,10,4", "2031-04-02,6,0", "2031-05-01,8,2"
  )
  price <- measure("ratio", of = "value", per = "kilos")
  records <- read_records(
    file, "day", list(value = "flow", kilos = "flow", price = price)
  )
  expect_identical(records$price, c(2.5, NA, 4))
  monthly <- roll_up(records, "month", cadence = "irregular")
  expect_identical(monthly$value[monthly$measure == "price"], c(4, 4))
  expect_error(
    measure("ratio"), "`of` and `per`", class = "backfill_error_kind"
  )
  expect_error(
    read_records(
      file, "day", list(price = measure("ratio", of = "value", per = "kilos"))
    ),
    "does not name", class = "backfill_error_kind"
  )
})

test_that("an instant is compared as one where the clock shows its time twice", {
  when <- as.POSIXct(
    "2031-10-26 00:15", tz = "UTC"
  ) + 1800 * 0:3 # 02:15, 02:45, 02:15 and 02:45 in Paris
  records <- as_records(
    tibble::tibble(when = when, kwh = 1:4), "when", c(kwh = "flow"),
    zone = "Europe/Paris"
  )
  expect_equal(keep_dates(records, from = when[3])$kwh, 3:4)
  expect_equal(keep_dates(records, to = when[2])$kwh, 1:2)
  expect_equal(keep_dates(records, from = "2031-10-26T02:15+01:00")$kwh, 3:4)
  expect_equal(keep_dates(records, to = "2031-10-26T02:45+02:00")$kwh, 1:2)
  # A time without an offset is one of the clock.
  expect_equal(keep_dates(records, from = "2031-10-26 02:30")$kwh, c(2, 4))
})

test_that("files of one measure each are joined by series and time, and what lacks a partner is counted", {
  day <- as.Date("2031-04-01") + 0:5
  of <- function(name, rows, value, port = "a") {
    as_records(
      stats::setNames(
        tibble::tibble(day[rows], port, value), c("day", "port", name)
      ), "day", stats::setNames("level", name), series = "port"
    )
  }
  open <- of("open", c(3, 1, 2), c(30, 10, 20))
  shut <- of("shut", 2:5, c(2, 3, 4, 5))
  total <- of("total", 1:3, c(10, 22, 33))
  joined <- join_records(open, shut, total)
  expect_identical(joined$day, day[1:5])
  expect_identical(joined$open, c(10, 20, 30, NA, NA))
  expect_identical(joined$shut, c(NA, 2, 3, 4, 5))
  account <- account(joined)
  expect_identical(account$rows_read, 10L)
  expect_identical(account$rows_used - account$rows_merged, 5L)
  expect_match(
    account$notes, "2 records have no match in the table of open", all = FALSE
  )
  expect_match(
    account$notes, "1 record has no match in the table of shut", all = FALSE
  )
  expect_identical(
    check_identity(roll_up(joined, "day"), total ~ open + shut)$held,
    c(NA, TRUE, TRUE, NA, NA)
  )
  # The date may have another name in each.
  named <- as_records(
    tibble::tibble(date = day[2:5], port = "a", shut = 2:5), "date",
    c(shut = "level"), series = "port"
  )
  expect_equal(
    as.data.frame(join_records(open, named)),
    as.data.frame(join_records(open, shut))
  )
  two <- join_records(of("x", 1:3, 1:3 + 0), of("y", 1:3, 4:6 + 0, "b"))
  expect_identical(nrow(two), 6L)
  expect_identical(sum(is.na(two$x)), 3L)
  keyed <- add_attributes(
    open, data.frame(port = "a", depth = 4), key = "port",
    measures = c(depth = "level")
  )
  times <- as_records(
    tibble::tibble(day = as.POSIXct(day), port = "a", kilos = 1), "day",
    c(kilos = "flow"), series = "port"
  )
  for (wrong in list(
    list(open), list(open, open), list(shut, keyed), list(open, times), list(
      open, roll_up(shut, "day")
    ),
    list(open, as_records(
      data.frame(day = day, kilos = 1), "day", c(kilos = "flow")
    )),
    list(open, as_records(
      data.frame(day = day[c(1, 1)], port = "a", kilos = 1), "day",
      c(kilos = "flow"), series = "port", duplicates = "keep"
    ))
  )) {
    expect_error(do.call(join_records, wrong), class = "backfill_error")
  }
})

test_that("several files, each of several series, are one table", {
  dir <- withr::local_tempdir()
  for (island in c("north", "south")) {
    writeLines(c(
      "day,port,kilos", "2031-04-01,a,1", "2031-04-01,b,2", "2031-04-02,a,3"
    ), file.path(dir, paste0(island, ".csv")))
  }
  found <- read_records(
    file.path(dir, "*.csv"), "day", c(kilos = "flow"), series = "port",
    source = "island"
  )
  expect_identical(nrow(found), 6L)
  daily <- roll_up(found, "day")
  expect_identical(nrow(unique(as.data.frame(daily)[c("island", "port")])), 4L)
})
