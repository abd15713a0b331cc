test_that("periods, their first days and labels agree with base R's dates on every day from 1900 to 2100", {
  day <- seq(as.Date("1900-01-01"), as.Date("2100-12-31"), by = "day")
  starts <- list(
    day = day,
    week = day - (as.POSIXlt(day)$wday + 6) %% 7,
    month = as.Date(format(day, "%Y-%m-01")),
    quarter = as.Date(sub(" .*", "", sprintf("%s-%02d-01", format(day, "%Y"), as.POSIXlt(day)$mon %/% 3 * 3 + 1))),
    year = as.Date(format(day, "%Y-01-01"))
  )
  labels <- list(
    day = format(day), week = format(day, "%G-W%V"), month = format(day, "%Y-%m"),
    quarter = paste0(format(day, "%Y-"), quarters(day)), year = format(day, "%Y")
  )
  for (unit in names(starts)) {
    number <- backfill:::period_number(day, unit)
    expect_identical(as.numeric(backfill:::period_start(number, unit)), as.numeric(starts[[unit]]), label = unit)
    expect_identical(backfill:::period_label(starts[[unit]], unit), labels[[unit]], label = unit)
    # Numbers run without a hole, so that one period back is a subtraction.
    expect_identical(unique(number), as.numeric(seq(min(number), max(number))), label = unit)
    expect_identical(number[day == "1970-01-01"], 0, label = unit)
  }
})

test_that("years 1 and 9999 are in the calendar", {
  ends <- as.Date(c("0001-01-01", "9999-12-31"))
  expect_identical(
    backfill:::period_start(backfill:::period_number(ends, "quarter"), "quarter"),
    as.Date(c("0001-01-01", "9999-10-01"))
  )
})

test_that("a year back is the same date, and 29 February falls on the 28th", {
  days <- as.Date(c("2032-02-29", "2032-03-01", "2033-02-28", "2031-12-31"))
  expect_identical(
    .Date(backfill:::years_back_cpp(as.numeric(days), 1L)),
    as.Date(c("2031-02-28", "2031-03-01", "2032-02-28", "2030-12-31"))
  )
  expect_identical(.Date(backfill:::years_back_cpp(as.numeric(days[1]), 4L)), as.Date("2028-02-29"))
})

test_that("lengths of time are read in words and in ISO 8601, and nothing else is", {
  read <- function(text) {
    length <- backfill:::parse_length(text)
    if (is.null(length)) NULL else backfill:::length_in_words(length)
  }
  expect_identical(lapply(c("month", "15 minutes", "P1W", "PT15M", "P3M", "12 months", "1 Year"), read),
                   list("month", "15 minutes", "week", "15 minutes", "quarter", "year", "year"))
  expect_identical(lapply(list("", "fortnight", "0 days", "-1 day", "1.5 days", "P1H", 7, NA_character_), read),
                   rep(list(NULL), 8))
})

test_that("local times become the instants that base R gives, also across the changes of the clock", {
  for (zone in c("WET", "Etc/GMT+5", "CET")) {
    instant <- seq(as.POSIXct("2030-03-20", tz = "UTC"), as.POSIXct("2030-11-10", tz = "UTC"), by = 1800)
    table <- backfill:::zone_table(zone, min(as.numeric(instant)), max(as.numeric(instant)))
    local <- as.numeric(instant) + as.POSIXlt(instant, tz = zone)$gmtoff
    expect_identical(backfill:::instant_to_local(as.numeric(instant), table), local, label = zone)
    to_instant <- function(local) {
      backfill:::clock_to_instant_cpp(local + 0, integer(), table$from, table$offset)
    }
    back <- to_instant(local)
    expect_identical(back$never, integer())
    same <- back$instant == as.numeric(instant)
    expect_true(all(same | replace(same, back$twice, back$again %in% as.numeric(instant))), label = zone)
    # Whatever the order in which they are asked for.
    shuffled <- rev(seq_along(local))
    expect_identical(to_instant(local[shuffled])$instant, back$instant[shuffled], label = zone)
    # The hour from 01:00 (WET) or 02:00 (CET) on 31 March 2030 is never shown.
    never <- as.numeric(as.POSIXct(c(WET = "2030-03-31 01:30", CET = "2030-03-31 02:30"), tz = "UTC"))
    skipped <- to_instant(never)
    expect_identical(seq_along(never) %in% skipped$never, c("WET", "CET") == zone, label = zone)
    expect_identical(is.na(skipped$instant), c("WET", "CET") == zone, label = zone)
    # An hour is shown twice where the clock is put back: four half hours are.
    expect_identical(length(back$twice), if (zone %in% c("WET", "CET")) 4L else 0L, label = zone)
  }
})
