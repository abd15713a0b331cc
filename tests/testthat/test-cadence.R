# The cadence that a series keeps, by the time that passes or by the clock, and
# what follows from it for coverage.

utc <- function(x) as.POSIXct(x, tz = "UTC")

rolled <- function(when, zone, every, ...) {
  records <- as_records(
    tibble::tibble(when = when, kwh = 1), "when", c(kwh = "flow"), zone = zone
  )
  roll_up(records, every, enough = 1, ...)
}

cadence_of <- function(x) attr(x, "backfill")$cadences$cadences$words

inner <- function(x) x$standing[-c(1, nrow(x))]

test_that("a regular step in UTC is seen as such by any clock", {
  # Each zone changes its clock within the span; the step is one of time that
  # passes.
  steps <- c(
    "15 minutes" = 900, "hour" = 3600, "2 hours" = 7200, "3 hours" = 10800,
    "day" = 86400
  )
  for (
    zone in c(
      "Europe/Paris", "Australia/Lord_Howe", "America/St_Johns", "Pacific/Apia"
    )
  ) {
    for (name in names(steps)) {
      when <- seq(
        utc("2009-02-10 00:00"), utc("2009-12-20 00:00"), by = steps[[name]]
      )
      monthly <- rolled(when, zone, "month")
      expect_identical(cadence_of(monthly), name, label = paste(zone, name))
      expect_true(all(inner(monthly) == "complete"), label = paste(zone, name))
      # A hole is told as one, and only in its month.
      hole <- when >= utc("2009-06-10") & when < utc("2009-06-13")
      holed <- rolled(when[!hole], zone, "month")
      expect_identical(
        which(inner(holed) == "partial"), 4L,
        label = paste(zone, name, "with a hole")
      )
    }
  }
})

test_that("a regular step by the clock is seen as such over its changes", {
  for (zone in c("Europe/Paris", "America/New_York")) {
    days <- seq(as.Date("2031-02-10"), as.Date("2031-12-20"), by = 1)
    for (hours in list(0, c(6, 18), seq(0, 20, 4))) {
      clock <- paste(
        rep(days, each = length(hours)),
        sprintf("%02d:00", rep(hours, length(days)))
      )
      records <- as_records(
        tibble::tibble(when = clock, kwh = 1), "when", c(kwh = "flow"),
        zone = zone
      )
      expect_true(all(inner(roll_up(records, "month")) == "complete"))
      expect_identical(nrow(account(records)$gaps), 0L)
    }
  }
})

test_that("what is missing in an hour that the clock repeats is missing", {
  when <- seq(utc("2031-10-20 22:00"), by = 900, length.out = 96 * 12)
  # 02:00 to 03:00 comes twice in the night to 26 October.
  for (
    missing in list(
      utc("2031-10-26 00:00") + 900 * 0:3, utc("2031-10-26 01:00") + 900 * 0:3
    )
  ) {
    there <- when[!when %in% missing]
    daily <- rolled(there, "Europe/Paris", "day")
    expect_identical(
      as.character(daily$standing[daily$period == as.Date("2031-10-26")]),
      "partial"
    )
    expect_equal(
      daily$coverage[daily$period == as.Date("2031-10-26")], 96 / 100
    )
    records <- as_records(
      tibble::tibble(when = there, kwh = 1), "when", c(kwh = "flow"),
      zone = "Europe/Paris"
    )
    expect_equal(account(records)$gaps$missing, 4)
    # A counter's rise over them is no longer one of its own hour.
    meter <- as_records(
      tibble::tibble(when = there, kwh = seq_along(there)), "when",
      c(kwh = "counter"), zone = "Europe/Paris"
    )
    hourly <- roll_up(meter, "hour")
    expect_identical(sum(hourly$standing == "partial"), 2L)
  }
})

test_that("where the clock is put back over midnight every day has its own slots", {
  when <- seq(utc("2009-10-20 02:30"), utc("2009-11-10 03:00"), by = 1800)
  daily <- rolled(when, "America/St_Johns", "day")
  expect_true(all(inner(daily) == "complete"))
  expect_true(all(daily$coverage <= 1))
  # Sunday, 1 November, starts twice: the half hour before is that of the day
  # before.
  expect_identical(daily$n[daily$period == as.Date("2009-10-31")], 49L)
  expect_true(all(
    inner(rolled(when, "America/St_Johns", "month")) == "complete"
  ))
})

test_that("a series without a cadence of its own is irregular, whatever its neighbours do", {
  set.seed(3)
  month <- seq(as.Date("2030-01-01"), by = "month", length.out = 24)
  book <- tibble::tibble(
    when = month + sample(0:25, 24, replace = TRUE), ledger = "berths",
    kilos = 1
  )
  daily <- tibble::tibble(
    when = seq(as.Date("2030-01-01"), as.Date("2031-12-31"), by = 1),
    ledger = "ice", kilos = 1
  )
  both <- as_records(
    rbind(book, daily), "when", c(kilos = "flow"), series = "ledger"
  )
  alone <- as_records(book, "when", c(kilos = "flow"), series = "ledger")
  expect_match(account(both)$cadence, "irregularly for berths")
  of <- function(x) {
    as.data.frame(
      x[x$ledger == "berths", c("period", "value", "n", "coverage")]
    )
  }
  expect_equal(
    of(roll_up(both, "month")), of(roll_up(alone, "month")), ignore_attr = TRUE
  )
  expect_true(all(roll_up(both, "month")$standing[1:24] == "complete"))
  # Unless the user says otherwise.
  expect_true(all(
    roll_up(both, "month", cadence = "day")$standing[1:24] == "partial"
  ))
})

test_that("a market of three days a week with gaps is one, and scattered days are none", {
  days <- seq(as.Date("2031-01-01"), as.Date("2031-12-31"), by = 1)
  market <- days[as.POSIXlt(days)$wday %in% c(1, 3, 6)]
  market <- market[-c(20:30, 61)]
  monthly <- roll_up(
    records_of(market, kilos = rep(1, length(market))), "month", enough = 1
  )
  expect_match(
    cadence_of(monthly), "day (Monday, Wednesday and Saturday)", fixed = TRUE
  )
  expect_identical(
    as.character(monthly$standing) == "partial", 1:12 %in% c(2, 3, 5)
  )
  false <- vapply(1:200, function(seed) {
    set.seed(seed)
    some <- sort(sample(days, 110))
    cadence_of(roll_up(records_of(some, kilos = 1), "month")) != "irregular"
  }, NA)
  expect_lte(sum(false), 2)
})

test_that("periods of the clock across midnight have the slots of their open parts", {
  hours <- seq(utc("2031-04-07 00:00"), utc("2031-04-20 23:00"), by = 3600)
  records <- as_records(
    tibble::tibble(when = hours, kwh = 1), "when", c(kwh = "flow")
  )
  shift <- calendar(
    "12 hours", anchor = utc("2031-04-07 18:00"), workdays = 1:5
  )
  found <- roll_up(records, shift)
  # Friday 18:00 to Saturday 06:00 is open for six hours, Saturday for none.
  at <- function(time) found[found$period == utc(time), ]
  expect_equal(at("2031-04-11 18:00")$coverage, 1)
  expect_true(is.na(at("2031-04-12 06:00")$coverage))
  expect_equal(at("2031-04-13 18:00")$coverage, 1)
  expect_true(all(found$coverage <= 1 | is.na(found$coverage)))
  short <- roll_up(records[hours != utc("2031-04-11 20:00"), ], shift)
  expect_equal(short$coverage[short$period == utc("2031-04-11 18:00")], 5 / 6)
})
