every_day <- seq(as.Date("1900-01-01"), as.Date("2100-12-31"), by = "day")

test_that("periods of any length start where base R's dates say, on every day from 1900 to 2100", {
  day <- every_day
  part <- as.POSIXlt(day)
  month <- (part$year - 70L) * 12L + part$mon
  first_of <- function(month) {
    as.Date(sprintf(
      "%04d-%02d-01", 1970L + month %/% 12L, month %% 12L + 1L
    ))
  }
  anchor <- as.Date("2031-04-09")
  open <- !part$wday %in% c(0, 6) & !day %in% as.Date(c(
    "2031-04-10", "2031-04-14", "2031-04-12"
  ))
  working <- calendar(
    "working day",
    holidays = as.Date(c("2031-04-10", "2031-04-14", "2031-04-12"))
  )
  starts <- list(
    list("day", day),
    list("week", day - (part$wday + 6) %% 7),
    list(calendar("week", week_start = "Sunday"), day - part$wday),
    list(
      calendar("10 days", anchor = anchor),
      anchor + as.numeric(day - anchor) %/% 10 * 10
    ),
    list(
      calendar("2 weeks", anchor = "2031-04-07"),
      anchor - 2 + as.numeric(day - (anchor - 2)) %/% 14 * 14
    ),
    list("third", first_of(month) + pmin((part$mday - 1) %/% 10, 2) * 10),
    list("month", first_of(month)),
    list("P2M", first_of(month %/% 2L * 2L)),
    list(
      calendar("5 months", anchor = "2031-03-01"),
      first_of((month - 734L) %/% 5L * 5L + 734L)
    ),
    list("quarter", first_of(month %/% 3L * 3L)),
    list(
      calendar("quarter", year_start = 2),
      first_of((month - 1L) %/% 3L * 3L + 1L)
    ),
    list("year", first_of(month %/% 12L * 12L)),
    list(
      calendar("year", year_start = 4),
      first_of((month - 3L) %/% 12L * 12L + 3L)
    ),
    list("10 years", first_of(month %/% 120L * 120L))
  )
  for (start in starts) {
    label <- format(backfill:::as_calendar(start[[1]]))
    found <- period_of(day, start[[1]])
    expect_identical(as.numeric(found), as.numeric(start[[2]]), label = label)
    # One after the other, without a hole or an overlap.
    sequence <- period_sequence(day[[1]], day[[length(day)]], start[[1]])
    expect_identical(
      as.numeric(sequence), unique(as.numeric(start[[2]])), label = label
    )
    expect_identical(
      unique(period_end(day, start[[1]]))[-length(sequence)], sequence[-1] - 1,
      label = label
    )
    last_day <- period_end(day[[length(day)]], start[[1]])
    expect_equal(
      sum(days_in_period(sequence, start[[1]])),
      as.numeric(last_day - sequence[[1]]) + 1, label = label
    )
  }
  # A day off belongs to the next working day.
  next_open <- rev(cummin(rev(ifelse(open, as.numeric(day), Inf))))
  known <- is.finite(next_open)
  expect_identical(as.numeric(period_of(day, working))[known], next_open[known])
  expect_identical(
    days_in_period(every_day[known], working, workdays = TRUE),
    rep(1L, sum(known))
  )
  expect_identical(
    as.numeric(period_of(period_end(day, working), working)),
    as.numeric(period_of(day, working))
  )
  # A Monday has the weekend before it, unless a holiday follows; Wednesday 9
  # April 2031 has itself alone.
  expect_identical(
    days_in_period(c("2031-04-07", "2031-04-09", "2031-04-15"), working),
    c(3L, 1L, 4L)
  )
})

test_that("labels and positions are those that base R formats, on every day from 1900 to 2100", {
  day <- every_day
  year <- as.integer(format(day, "%Y"))
  month <- as.integer(format(day, "%m"))
  fiscal <- year + (month >= 4)
  labels <- list(
    day = format(day), week = format(day, "%G-W%V"), month = format(
      day, "%Y-%m"
    ),
    quarter = paste0(format(day, "%Y-"), quarters(day)), year = format(
      day, "%Y"
    ),
    third = sprintf(
      "%s-T%d", format(day, "%Y-%m"),
      pmin((as.integer(format(day, "%d")) - 1L) %/% 10L, 2L) + 1L
    )
  )
  for (unit in names(labels)) {
    expect_identical(period_name(day, unit), labels[[unit]], label = unit)
  }
  expect_identical(
    period_name(day, calendar("year", year_start = 4)),
    sprintf("FY%d", fiscal)
  )
  expect_identical(period_name(day, calendar("quarter", year_start = 4)),
                   sprintf(
                     "FY%d-Q%d", fiscal, (month - 4L) %% 12L %/% 3L + 1L
                   ))
  positions <- c(
    "day of month" = "%d", "day of year" = "%j", week = "%V", month = "%m"
  )
  for (position in names(positions)) {
    expect_equal(
      cycle_position(day, position),
      as.integer(format(day, positions[[position]])), label = position
    )
  }
  expect_identical(
    as.integer(cycle_position(day, "weekday")), as.integer(format(day, "%u"))
  )
  expect_identical(
    as.character(cycle_position("2031-04-09", "weekday")), "Wednesday"
  )
  expect_identical(
    cycle_position(day, "quarter", year_start = 4),
    (month - 4L) %% 12L %/% 3L + 1L
  )
})

test_that("the helpers answer by hand, also for missing dates and for the clock", {
  easter <- calendar(
    "month", workdays = 1:5,
    holidays = as.Date(c("2031-04-11", "2031-04-14", "2031-04-12"))
  )
  expect_identical(
    days_in_period(c("2031-04-09", NA, "2032-02-01"), easter, workdays = TRUE),
    c(20L, NA, 20L)
  )
  expect_identical(
    days_in_period(c("2031-04-09", "2032-02-01"), "month"), c(30L, 29L)
  )
  expect_identical(
    period_of(c("2031-04-09", NA), "quarter"), as.Date(c("2031-04-01", NA))
  )
  expect_identical(period_name("2031-04-09", "10 days"), "2031-04-01/P10D")
  time <- as.POSIXct("2031-10-26 00:40", tz = "UTC") + 3600 * 0:1
  expect_identical(period_name(.POSIXct(time, tz = "WET"), "hour"),
                   c("2031-10-26T01:00+01:00", "2031-10-26T01:00+00:00"))
  expect_identical(
    cycle_position(.POSIXct(time, tz = "WET"), "hour"), c(1L, 1L)
  )
  expect_identical(
    as.numeric(period_of(time, "15 minutes")), as.numeric(time) - 600
  )
  # Seven hours do not divide a day: they go on from an anchor.
  seven <- calendar("7 hours", anchor = as.POSIXct("2031-10-26", tz = "UTC"))
  expect_equal(
    period_of(time[[1]] + 86400, seven),
    as.POSIXct("2031-10-26 21:00", tz = "UTC")
  )
  expect_output(
    print(calendar("quarter", year_start = 4, zone = "WET")),
    "fiscal quarter.*from April.*WET"
  )
})

test_that("what is no calendar is refused with what would be one", {
  expect_error(
    calendar("fortnight"), "not a length of period",
    class = "backfill_error_every"
  )
  expect_error(calendar("0 days"), class = "backfill_error_every")
  expect_error(
    calendar("day", zone = "Atlantis"), "not a zone",
    class = "backfill_error_zone"
  )
  expect_error(
    calendar("week", week_start = "Someday"), "week_start",
    class = "backfill_error_argument"
  )
  expect_error(
    calendar("year", year_start = 13), "1 to 12",
    class = "backfill_error_argument"
  )
  expect_error(
    calendar("2 months", anchor = "2031-04-09"), "no month starts",
    class = "backfill_error_argument"
  )
  expect_error(
    calendar("week", anchor = "2031-04-09"), "week_start",
    class = "backfill_error_argument"
  )
  expect_error(
    calendar("2 weeks", week_start = "Sunday", anchor = "2031-04-09"),
    "Wednesday", class = "backfill_error_argument"
  )
  expect_error(
    calendar("working day", holidays = "holidays.ics"), "read_holidays",
    class = "backfill_error_argument"
  )
  expect_error(
    period_of("9 April", "day"), "2031-04-09", class = "backfill_error_argument"
  )
  expect_error(
    period_sequence("2031-05-01", "2031-04-01", "day"), "after",
    class = "backfill_error_argument"
  )
  expect_error(
    days_in_period(Sys.time(), "hour"), "no number of days",
    class = "backfill_error_argument"
  )
})

test_that("days and hours are those of the local clock in every zone, at each of its changes from 1990 to 2037", {
  range <- as.numeric(as.POSIXct(c("1990-01-01", "2037-12-31"), tz = "UTC"))
  weeks <- seq(range[[1]], range[[2]], by = 7 * 86400)
  offset_at <- function(instant, zone) {
    as.POSIXlt(.POSIXct(instant, tz = zone))$gmtoff
  }
  offsets <- lapply(
    stats::setNames(nm = OlsonNames()), function(zone) offset_at(weeks, zone)
  )
  # Of zones that only differ in their name, one.
  zones <- names(offsets)[!duplicated(offsets)]
  expect_gt(length(zones), 150)
  if (!thorough()) {
    # Half an hour of daylight saving, a day that never was, a clock put back
    # at midnight, and some more.
    zones <- c(
      "Australia/Lord_Howe", "Pacific/Apia", "America/St_Johns", "Asia/Amman",
      withr::with_seed(5, sample(zones, 30))
    )
  }
  wrong <- character()
  for (zone in zones) {
    change <- which(diff(offsets[[zone]]) != 0)
    low <- weeks[change]
    high <- weeks[change + 1]
    while (any(high - low > 1)) {
      middle <- floor((low + high) / 2)
      same <- offset_at(middle, zone) == offsets[[zone]][change]
      low <- ifelse(same, middle, low)
      high <- ifelse(same, high, middle)
    }
    instant <- sort(unique(c(
      range, outer(high, c(-86400, -3600, -1, 0, 1, 1799, 3600, 86400), "+")
    )))
    time <- .POSIXct(instant, tz = zone)
    local <- as.POSIXlt(time)
    full_hour <- instant - local$min * 60 - floor(local$sec)
    # An hour that the change falls into starts anew with it.
    latest <- c(-Inf, high)[findInterval(instant, high) + 1]
    same <- identical(
      as.numeric(period_of(time, "day")), as.numeric(as.Date(local))
    ) &&
      identical(as.numeric(period_of(time, "hour")), pmax(full_hour, latest)) &&
      identical(cycle_position(time, "hour"), local$hour)
    wrong <- c(wrong, if (!same) zone)
  }
  expect_identical(wrong, character())
})

test_that("years 1 and 9999 are in the calendar", {
  ends <- as.Date(c("0001-01-01", "9999-12-31"))
  expect_identical(
    period_of(ends, "quarter"), as.Date(c("0001-01-01", "9999-10-01"))
  )
  expect_identical(period_name(ends, "week"), c("0001-W01", "9999-W52"))
})

test_that("a year back is the same date, and 29 February falls on the 28th", {
  days <- as.Date(c("2032-02-29", "2032-03-01", "2033-02-28", "2031-12-31"))
  expect_identical(
    .Date(backfill:::months_back_cpp(as.numeric(days), 12L)),
    as.Date(c("2031-02-28", "2031-03-01", "2032-02-28", "2030-12-31"))
  )
  expect_identical(
    .Date(backfill:::months_back_cpp(as.numeric(days[1]), 48L)),
    as.Date("2028-02-29")
  )
})

test_that("lengths of time are read in words and in ISO 8601, and nothing else is", {
  read <- function(text) {
    length <- backfill:::parse_length(text)
    if (is.null(length)) NULL else backfill:::length_in_words(length)
  }
  expect_identical(
    lapply(
      c("month", "15 minutes", "P1W", "PT15M", "P3M", "12 months", "1 Year"),
      read
    ),
    list(
      "month", "15 minutes", "week", "15 minutes", "quarter", "year", "year"
    )
  )
  expect_identical(
    lapply(
      list(
        "", "fortnight", "0 days", "-1 day", "1.5 days", "P1H", 7,
        NA_character_
      ),
      read
    ),
    rep(list(NULL), 8)
  )
})

test_that("local times become the instants that base R gives, also across the changes of the clock", {
  for (zone in c("WET", "Etc/GMT+5", "CET")) {
    instant <- seq(
      as.POSIXct("2030-03-20", tz = "UTC"),
      as.POSIXct("2030-11-10", tz = "UTC"), by = 1800
    )
    table <- backfill:::zone_table(
      zone, min(as.numeric(instant)), max(as.numeric(instant))
    )
    local <- as.numeric(instant) + as.POSIXlt(instant, tz = zone)$gmtoff
    expect_identical(
      backfill:::instant_to_local(as.numeric(instant), table), local,
      label = zone
    )
    to_instant <- function(local) {
      backfill:::turn_into_instants_by_clock_cpp(
        local + 0, integer(), table$from, table$offset
      )
    }
    back <- to_instant(local)
    expect_identical(back$never, integer())
    same <- back$instant == as.numeric(instant)
    expect_true(
      all(
        same | replace(same, back$twice, back$again %in% as.numeric(instant))
      ),
      label = zone
    )
    # Whatever the order in which they are asked for.
    shuffled <- rev(seq_along(local))
    expect_identical(
      to_instant(local[shuffled])$instant, back$instant[shuffled], label = zone
    )
    # The hour from 01:00 (WET) or 02:00 (CET) on 31 March 2030 is never shown.
    never <- as.numeric(as.POSIXct(
      c(WET = "2030-03-31 01:30", CET = "2030-03-31 02:30"), tz = "UTC"
    ))
    skipped <- to_instant(never)
    expect_identical(
      seq_along(never) %in% skipped$never, c("WET", "CET") == zone, label = zone
    )
    expect_identical(
      is.na(skipped$instant), c("WET", "CET") == zone, label = zone
    )
    # An hour is shown twice where the clock is put back: four half hours are.
    expect_identical(length(back$twice), if (zone %in% c("WET", "CET")) {
      4L
    } else {
      0L
    }, label = zone)
  }
})

test_that("several weeks or years start with the one that holds the first of 1970, whatever day or month that is", {
  for (k in 1:7) {
    fortnight <- calendar("2 weeks", week_start = backfill:::weekday_names[k])
    week <- calendar("week", week_start = backfill:::weekday_names[k])
    expect_equal(
      period_of(as.Date("1970-01-01"), fortnight),
      period_of(as.Date("1970-01-01"), week)
    )
  }
  for (month in 1:12) {
    expect_equal(
      period_of(
        as.Date("1970-01-01"), calendar("2 years", year_start = month)
      ),
      period_of(as.Date("1970-01-01"), calendar("year", year_start = month))
    )
  }
  noon <- as.POSIXct("2031-04-09 03:00", tz = "UTC")
  expect_equal(
    period_of(noon + 3600, calendar("6 hours", anchor = noon)), noon
  )
  expect_equal(
    period_of(
      noon + 3600, calendar("6 hours", zone = "Europe/Paris", anchor = noon)
    ),
    noon, ignore_attr = TRUE
  )
})

test_that("no two periods of the clock have one start, and none without a moment has a number", {
  spans <- list(
    "Europe/Paris" = c("2031-03-29", "2031-04-01"),
    "Pacific/Apia" = c("2011-12-28", "2012-01-02"),
    "Australia/Lord_Howe" = c("2031-10-03", "2031-10-07"),
    "America/St_Johns" = c("2009-10-30", "2009-11-03")
  )
  for (zone in names(spans)) {
    when <- seq(
      as.POSIXct(spans[[zone]][1], tz = zone),
      as.POSIXct(spans[[zone]][2], tz = zone), by = 300
    )
    for (
      every in c(
        "40 minutes", "30 minutes", "90 minutes", "2 hours", "6 hours",
        "8 hours", "12 hours"
      )
    ) {
      start <- period_sequence(when[1], when[length(when)], every)
      expect_true(all(diff(as.numeric(start)) > 0), label = paste(zone, every))
      # Each instant lies in the period that starts last before it, where the
      # clock is not put back.
      if (
        zone %in% c("Europe/Paris", "Pacific/Apia") || every %in% c(
          "40 minutes", "30 minutes"
        )
      ) {
        expect_equal(as.numeric(period_of(when, every)),
                     as.numeric(start)[
                       findInterval(as.numeric(when), as.numeric(start))
                     ], label = paste(zone, every))
      }
      records <- as_records(
        tibble::tibble(when = when, kilos = 1), "when", c(kilos = "flow"),
        zone = zone
      )
      found <- add_growth(roll_up(records, every))
      expect_equal(sum(found$value), length(when))
    }
  }
})

test_that("a leading gap is filled in season from the same date", {
  day <- seq(as.Date("2031-01-01"), as.Date("2033-12-31"), by = 1)
  value <- as.numeric(format(day, "%m%d"))
  late <- as_records(rbind(
    tibble::tibble(day = day, stall = "a", kilos = value),
    tibble::tibble(day = day[day >= as.Date("2032-01-01")], stall = "b",
                   kilos = value[365 + 1:731])
  ), "day", c(kilos = "flow"), series = "stall")
  filled <- impute_gaps(
    roll_up(late, "day"), "seasonal", cycle = "1 year", leading = TRUE
  )
  b <- filled[filled$stall == "b", ]
  expect_equal(b$value, value)
})

test_that("periods of several units have their start and length for a label", {
  labels <- c(
    "2 days" = "2031-04-09/P2D", "2 weeks" = "2031-03-31/P2W",
    "2 months" = "2031-03/P2M", "2 quarters" = "2031-01/P6M",
    "2 years" = "2030-01/P2Y", "2 thirds" = "2031-03-21/P20D",
    "5 working days" = "2031-04-03/P5D"
  )
  expect_identical(
    vapply(names(labels), function(every) period_name("2031-04-09", every), ""),
    labels
  )
  expect_identical(
    backfill:::labels_in_words("FY2031-Q2, 2031-M04 and 2031-W05"),
    "quarter 2 of FY2031, month 4 of 2031 and week 5 of 2031"
  )
  expect_identical(
    period_name("2031-04-09", calendar("2 months", whole_weeks = "4-4-5")),
    "2031-03/P2M"
  )
})
