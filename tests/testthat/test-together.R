# Series put together, attributes, working days: figures that are easily counted
# twice, or for the wrong day.

days <- as.Date("2031-04-07") + 0:13 # a Monday

test_that("readings of several meters are added up by the last one known of each, or refused", {
  data <- tibble::tibble(
    day = days[c(1, 2, 4, 2, 3, 4, 5)], meter = rep(c("a", "b"), c(3, 4)),
    kwh = c(10, 12, 15, 100, 101, 103, 104)
  )
  records <- as_records(data, "day", c(kwh = "counter"), series = "meter")
  read <- roll_up(
    records, "day", by = character(), use = "last", cadence = "irregular"
  )
  # On the first day b is not known yet; on the last it is as it was before, but
  # nobody knows whether it still stands.
  expect_equal(read$value, c(10, 112, 113, 118, 119))
  expect_equal(
    as.character(read$standing),
    c("partial", "complete", "complete", "complete", "partial")
  )
  for (use in c("first", "lowest", "highest", "mean", "median", "90%")) {
    expect_error(
      roll_up(records, "day", by = character(), use = use),
      "not the readings of one", class = "backfill_error_use"
    )
  }
  # Of one series, or apart, all of them are given.
  expect_equal(roll_up(records, "week", use = "highest")$value, c(15, 104))
  # A stock is pooled alike, where that is asked for.
  stock <- as_records(data, "day", c(kwh = "level"), series = "meter")
  pooled <- roll_up(
    stock, "day", by = character(), use = "last", cadence = "irregular",
    pool = "sum"
  )
  expect_equal(pooled$value, c(10, 112, 113, 118, 119))
  expect_equal(
    as.character(pooled$standing[c(1, 3, 5)]),
    c("partial", "complete", "partial")
  )
  # Means are not carried on: a sum that lacks one is partial.
  means <- roll_up(
    stock, "day", by = character(), cadence = "irregular", pool = "sum"
  )
  expect_equal(
    as.character(means$standing),
    c("partial", "complete", "partial", "complete", "partial")
  )
})

test_that("an attribute counts once for its key, in the ratio as in its own row", {
  data <- expand.grid(
    day = days[1:2], harbour = c("Ost", "Kell", "Varn"),
    stringsAsFactors = FALSE
  )
  data$island <- ifelse(data$harbour == "Varn", "Little", "Great")
  data$nights <- 1:6
  records <- as_records(
    data, "day", c(nights = "flow"), series = c("island", "harbour")
  )
  records <- add_attributes(
    records, data.frame(island = c("Great", "Little"), residents = c(100, 10)),
    key = "island", measures = c(residents = "level")
  )
  records <- add_measures(records, rate = nights / residents)
  by_island <- roll_up(records, "day", by = "island")
  value <- function(x, name) x$value[x$measure == name]
  expect_equal(value(by_island, "residents"), c(100, 100, 10, 10))
  expect_equal(value(by_island, "nights"), c(4, 6, 5, 6))
  expect_equal(value(by_island, "rate"), c(4, 6, 5, 6) / c(100, 100, 10, 10))
  all <- roll_up(records, "day", by = character())
  expect_equal(value(all, "rate"), c(9, 12) / 110)
  # A harbour that is silent on one day takes nothing from the residents.
  silent <- roll_up(
    records[!(records$harbour == "Ost" & records$day == days[1]), ], "day",
    by = "island", cadence = "irregular"
  )
  expect_equal(value(silent, "rate")[1], 3 / 100)
  # The same of periods that are rolled up.
  expect_equal(
    value(roll_up(roll_up(records, "day"), "day", by = "island"), "rate"),
    value(by_island, "rate")
  )
})

test_that("what is recorded on days off joins the next working day or is left out, and is told", {
  data <- tibble::tibble(day = days, kilos = 1:14, price = 101:114)
  records <- as_records(data, "day", c(kilos = "flow", price = "level"))
  found <- roll_up(records, "working day")
  value <- function(x, name) x$value[x$measure == name]
  # Saturday and Sunday join Monday; a price of Saturday is none of Monday's.
  expect_equal(value(found, "kilos"), c(1:5, 6 + 7 + 8, 9:12, 13 + 14))
  expect_equal(value(found, "price"), c(101:105, 108:112, NA))
  expect_equal(sum(value(found, "kilos")), sum(1:14))
  said <- gsub(
    "\\s+", " ", paste(utils::capture.output(print(found)), collapse = " ")
  )
  expect_match(
    said, "counted in the next working day: 4 records of kilos", fixed = TRUE
  )
  expect_match(
    said, "left out as readings of another day: 4 records of price",
    fixed = TRUE
  )
  # Days rolled up to working days give the same, and say so.
  chained <- roll_up(roll_up(records, "day"), "working day")
  expect_equal(value(chained, "kilos"), value(found, "kilos"))
  expect_equal(value(chained, "price"), value(found, "price"))
  expect_true(all(chained$coverage <= 1 | is.na(chained$coverage)))
  expect_match(
    paste(utils::capture.output(print(chained)), collapse = " "),
    "4 days of kilos", fixed = TRUE
  )
  # In chunks as in memory.
  file <- text_file(
    "day,kilos,price", paste(data$day, data$kilos, data$price, sep = ",")
  )
  chunked <- read_records(
    file, "day", c(kilos = "flow", price = "level"), chunked = TRUE
  )
  expect_equal(roll_up(chunked, "working day")$value, found$value)
  # Nothing to say where nothing was recorded on them.
  expect_null(attr(roll_up(records[1:5, ], "working day"), "backfill")$days_off)
})

test_that("working days roll up to no period beyond the last of them", {
  weekdays <- seq(as.Date("2029-12-31"), as.Date("2030-12-31"), by = 1)
  weekdays <- weekdays[as.POSIXlt(weekdays)$wday %in% 1:5]
  weekdays <- weekdays[weekdays <= as.Date("2030-12-27")] # the last Friday
  daily <- roll_up(
    records_of(weekdays, kilos = rep(1, length(weekdays))), "working day"
  )
  for (every in c("year", "quarter", "month")) {
    yearly <- roll_up(daily, every)
    expect_equal(max(yearly$period), max(period_of(weekdays, every)))
    expect_equal(sum(yearly$value), length(weekdays))
    expect_equal(
      yearly$value,
      roll_up(
        records_of(weekdays, kilos = rep(1, length(weekdays))), every
      )$value
    )
  }
})

test_that("several counters of which some fall are rolled up together", {
  data <- tibble::tibble(
    day = rep(days[1:4], 2), north = c(1:4, 11:14),
    south = c(5, 6, 1, 2, 21:24), meter = rep(c("a", "b"), each = 4)
  )
  records <- as_records(
    data, "day", c(north = "counter", south = "counter"), series = "meter"
  )
  found <- roll_up(records, "day")
  expect_equal(attr(found, "backfill")$falls$what, "reset")
  expect_equal(
    found$value[found$measure == "south" & found$meter == "a"], c(NA, 1, NA, 1)
  )
  none <- roll_up(
    as_records(data, "day", c(north = "counter"), series = "meter"), "day"
  )
  expect_identical(none$value[2:4], c(1, 1, 1))
})
