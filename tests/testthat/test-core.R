# The core on its own: plain vectors in, compared with slow and obvious ways of
# doing the same.

test_that("the roll-up of random instants agrees with base R in any zone, for every period", {
  withr::local_seed(11)
  n <- 3000
  for (zone in c("UTC", "WET", "CET", "Etc/GMT+9")) {
    time <- .POSIXct(floor(runif(n, 1.9e9, 1.96e9)), tz = zone)
    value <- round(rnorm(n), 3)
    value[sample(n, 100)] <- NA
    series <- sample(c("a", "b", "c"), n, replace = TRUE)
    records <- records_of(
      time, port = series, kilos = value, series = "port", zone = zone
    )
    day <- as.Date(format(time, "%Y-%m-%d", tz = zone))
    start <- list(
      day = day, week = day - (as.POSIXlt(day)$wday + 6) %% 7,
      month = as.Date(format(day, "%Y-%m-01")),
      year = as.Date(format(day, "%Y-01-01"))
    )
    for (every in names(start)) {
      rolled <- roll_up(records, every, cadence = "irregular")
      rolled <- rolled[rolled$n > 0, ]
      known <- !is.na(value)
      by <- list(period = start[[every]][known], port = series[known])
      expected <- stats::aggregate(list(value = value[known]), by, sum)
      expect_identical(rolled$port, expected$port, label = paste(zone, every))
      expect_identical(
        rolled$period, expected$period, label = paste(zone, every)
      )
      expect_equal(rolled$value, expected$value, label = paste(zone, every))
    }
  }
})

test_that("coverage agrees with slots that are written out one by one", {
  withr::local_seed(12)
  ends <- as.POSIXct(c("2030-01-20 07:10", "2031-02-11 16:10"), tz = "WET")
  for (minutes in c(20, 60)) {
    slots <- seq(ends[[1]], ends[[2]], by = minutes * 60)
    kept <- sort(c(
      1L, length(slots), sample(length(slots), length(slots) * 0.8)
    ))
    records <- records_of(slots[kept], kilos = kept, zone = "WET")
    for (every in c("day", "month", "year")) {
      rolled <- roll_up(records, every)
      # All slots of the first period up to the end of the last one, whether
      # records reach there or not.
      first <- as.POSIXct(
        paste(format(min(rolled$period)), "00:10"), tz = "WET"
      )
      after <- seq(max(rolled$period), by = every, length.out = 2)[[2]]
      all <- seq(
        first, as.POSIXct(paste(format(after), "00:00"), tz = "WET"),
        by = minutes * 60
      )
      form <- c(day = "%Y-%m-%d", month = "%Y-%m", year = "%Y")[[every]]
      expected <- table(format(all, form, tz = "WET"))
      found <- table(factor(
        format(unique(slots[kept]), form, tz = "WET"), names(expected)
      ))
      expect_equal(
        rolled$coverage, as.numeric(found / expected),
        label = paste(minutes, every)
      )
    }
  }
})

test_that("bases are found as a search through all rows finds them", {
  withr::local_seed(13)
  rows <- unique(data.frame(
    series = sample(4L, 200, TRUE),
    number = as.numeric(sample(-30:30, 200, TRUE))
  ))
  rows <- rows[order(rows$series, rows$number), ]
  for (back in c(1, 3, 12)) {
    expected <- match(
      paste(rows$series, rows$number - back), paste(rows$series, rows$number)
    )
    found <- backfill:::find_rows_cpp(
      rows$series, rows$number, rows$number, rows$number - back, FALSE, 0
    )
    expect_identical(found, expected, label = back)
  }
})

test_that("a survey of times finds their ends and their step, in any order", {
  survey <- function(when, series = rep(1L, length(when))) {
    parts <- list(list(when = when, series = series))
    scale <- if (inherits(when, "Date")) 86400 else 1
    backfill:::survey_times(
      parts, scale, max(series), backfill:::zone_table("UTC")
    )$all
  }
  time <- .POSIXct(1.9e9 + c(0, 900, 4500, 2700), tz = "UTC")
  for (order in list(1:4, 4:1, c(2, 4, 1, 3))) {
    found <- survey(time[order])
    expect_identical(
      c(found$lowest, found$highest, found$step), c(1.9e9, 1.9e9 + 4500, 900)
    )
  }
  # Two a second past the hour, and two half an hour later: only together they
  # differ by less than an hour.
  halves <- as.POSIXct("2031-01-01 00:00:01", tz = "UTC") +
    c(0, 3600, 1800, 5400)
  pair <- c(1L, 1L, 2L, 2L)
  expect_identical(survey(halves, pair)$step, 1800)
  yearly <- as.Date(c("2030-01-01", "2031-01-01", "2030-05-01", "2031-05-01"))
  expect_identical(survey(yearly, pair)$months, 4)
  # The records of several series together have in common what they have as one.
  withr::local_seed(5)
  apart <- c(1:4, sample(4L, 36, TRUE))
  random <- lapply(
    c(1, 900, 86400),
    function(unit) {
      as.POSIXct("2031-01-01", tz = "UTC") + unit *
        sample(0:500, 40)
    }
  )
  months <- seq(as.Date("2001-01-01"), by = "quarter", length.out = 90)
  for (time in c(random, list(sample(months, 40), sample(months, 40) - 1))) {
    merged <- survey(time, apart)
    # Months are counted only as long as all are starts or ends of months.
    monthly <- merged$month_starts || merged$month_ends
    common <- setdiff(
      names(merged),
      c("anchor", "first_month", "in_order", if (!monthly) "months")
    )
    expect_identical(merged[common], survey(time)[common])
  }
  expect_true(
    survey(as.Date(c("2031-02-28", "2032-02-29", "2031-04-30")))$month_ends
  )
  expect_false(survey(as.Date(c("2031-02-28", "2032-02-28")))$month_ends)
})

test_that("a periods table changed by hand is taken if it is sound, and refused in words if not", {
  days <- as.Date("2031-01-06") + 0:69
  weekly <- roll_up(records_of(days, kilos = 1:70), "week")
  changed <- function(column, value) {
    weekly[[column]] <- value
    weekly
  }
  sound <- list(
    droplevels(weekly$standing), factor(
      weekly$standing, rev(levels(weekly$standing))
    ), as.character(weekly$standing)
  )
  for (standing in sound) {
    expect_equal(
      add_growth(changed("standing", standing))$growth_1_week,
      100 * c(NA, diff(weekly$value)) / c(NA, weekly$value[-10])
    )
    further <- roll_up(changed("standing", standing), "5 weeks")
    expect_identical(
      as.character(further$standing),
      as.character(roll_up(weekly, "5 weeks")$standing)
    )
  }
  expect_equal(
    add_per_day(changed("measure", factor(weekly$measure)))$per_day,
    weekly$value / 7
  )
  broken <- list(
    coverage = 2, coverage = "1", n = NA_integer_, n = -1L, measure = "fish",
    measure = NA_character_, standing = "odd", value = "a",
    period = weekly$period + 1, period = as.POSIXct(weekly$period), period = 1
  )
  verbs <- list(
    add_growth, gaps, widen, flag_periods, autocorrelation,
    function(x) roll_up(x, "5 weeks")
  )
  for (i in seq_along(broken)) {
    for (verb in verbs) {
      expect_error(
        verb(changed(names(broken)[i], broken[[i]])), names(broken)[i],
        class = "backfill_error_input"
      )
    }
  }
  expect_error(
    add_growth(records_of(days, kilos = 1)), "Roll the records up first",
    class = "backfill_error_input"
  )
})

test_that("a table whose series, date or measure is renamed stays what it is", {
  records <- inns()
  names(records)[names(records) == "inn"] <- "isle"
  expect_s3_class(records, "backfill_records")
  monthly <- roll_up(inns(), "month")
  expect_identical(
    columns(roll_up(records, "month"))$value, columns(monthly)$value
  )
  expect_true("isle" %in% names(roll_up(records, "month")))
  names(records)[match(c("month", "guest_nights"), names(records))] <-
    c("when", "nights")
  expect_identical(unique(roll_up(records, "month")$measure), "nights")

  renamed <- add_growth(monthly)
  names(renamed)[names(renamed) %in% c("inn", "growth_1_month")] <-
    c("isle", "g")
  expect_s3_class(renamed, "backfill_periods")
  expect_output(print(renamed), "Latest growth of value over 1 month \\(g,")
  expect_identical(
    add_share(renamed, within = character())$share,
    add_share(monthly, within = character())$share
  )
  further <- roll_up(renamed, "quarter", by = character())
  expect_identical(
    further$value, roll_up(monthly, "quarter", by = character())$value
  )
  # What is known of single rows goes with them, and so do results.
  store <- roll_up(water_tanks(), "month")
  names(store)[[1]] <- "plant"
  expect_true("plant" %in% names(attr(store, "backfill")$falls))
  expect_output(print(store), "A counter falls")
  flags <- flag_periods(monthly)
  names(flags)[[1]] <- "isle"
  expect_s3_class(flags, "backfill_flags")
  expect_output(print(flags), "isle +measure")
  index <- seasonal_index(renamed)
  names(index)[names(index) == "isle"] <- "place"
  names(renamed)[names(renamed) == "isle"] <- "place"
  expect_identical(
    deseasonalise(renamed, index)$adjusted,
    deseasonalise(monthly, seasonal_index(monthly))$adjusted
  )
  # What a column means by its name alone cannot be called otherwise.
  expect_message(
    names(monthly)[names(monthly) == "value"] <- "nights",
    class = "backfill_message_roles_lost"
  )
  skip_if_not_installed("dplyr")
  expect_s3_class(
    dplyr::rename(roll_up(inns(), "month"), isle = "inn"),
    "backfill_periods"
  )
})
