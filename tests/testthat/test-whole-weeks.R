# Months, quarters and years of whole weeks, beside slow arithmetic of base R.

day <- seq(as.Date("1995-01-01"), as.Date("2065-12-31"), by = "day")

# The first day of the week that a month is started by, one day at a time.
first_week <- function(year, month, week_start, rule) {
  first <- as.Date(sprintf("%04d-%02d-01", year, month))
  near <- first + switch(rule, before = -6:0, nearest = -3:3, after = 0:6)
  near[as.POSIXlt(near)$wday %% 7 == week_start %% 7]
}

test_that("years of a pattern start by their rule, and their months have so many weeks", {
  for (rule in c("before", "nearest", "after")) {
    for (month in c(1, 2, 9)) {
      start <- do.call(c, lapply(1990:2070, first_week, month, 7, rule))
      years <- calendar(
        "year", whole_weeks = "4-5-4", first_week = rule, year_start = month,
        week_start = "Sunday"
      )
      holds <- findInterval(day, start)
      expect_identical(period_of(day, years), start[holds])
      weeks <- as.numeric(diff(start)) / 7
      expect_setequal(weeks, 52:53)
      months <- calendar(
        "month", whole_weeks = "4-5-4", first_week = rule, year_start = month,
        week_start = "Sunday"
      )
      own <- pmin(
        findInterval(
          as.numeric(day - start[holds]) %/% 7, cumsum(c(0, rep(c(4, 5, 4), 4)))
        ), 12
      )
      fiscal <- month > 1
      expect_identical(period_name(day, months), sprintf(
        "%s%d-M%02d", if (fiscal) "FY" else "", (1990:2070 + fiscal)[holds], own
      ))
      expect_identical(
        period_name(day, calendar(
          "week", whole_weeks = "4-5-4", first_week = rule, year_start = month,
          week_start = "Sunday"
        )),
        sprintf(
          "%s%d-W%02d", if (fiscal) "FY" else "", (1990:2070 + fiscal)[holds],
          as.numeric(day - start[holds]) %/% 7 + 1
        )
      )
    }
  }
})

test_that("from the Monday nearest to 1 January they are the years of ISO 8601", {
  years <- calendar("year", whole_weeks = "4-4-5")
  expect_identical(period_name(day, years), format(day, "%G"))
  weeks <- calendar("week", whole_weeks = "4-4-5")
  expect_identical(period_name(day, weeks), format(day, "%G-W%V"))
})

test_that("months by month start with the week that their own 1st lies by", {
  for (rule in c("before", "nearest", "after")) {
    months <- calendar("month", whole_weeks = "by month", first_week = rule)
    at <- expand.grid(month = 1:12, year = 1994:2066)
    start <- do.call(c, Map(first_week, at$year, at$month, 1, rule))
    holds <- findInterval(day, start)
    expect_identical(period_of(day, months), start[holds])
    expect_identical(
      period_name(day, months),
      sprintf("%d-M%02d", at$year, at$month)[holds]
    )
    quarters <- calendar("quarter", whole_weeks = "by month", first_week = rule)
    expect_identical(
      period_of(day, quarters), start[(holds - 1) %/% 3 * 3 + 1]
    )
  }
})

sold <- function() {
  days <- seq(as.Date("2027-01-31"), as.Date("2033-01-29"), by = "day")
  as_records(
    data.frame(
      day = days, shop = rep(c("North", "South"), each = length(days)),
      kilos = c(seq_along(days) %% 11, seq_along(days) %% 7)
    ), when = "day", series = "shop", measures = c(kilos = "flow")
  )
}

retail <- function(every) {
  calendar(
    every, whole_weeks = "4-5-4", week_start = "Sunday", year_start = 2
  )
}

test_that("totals are kept over months, quarters and years, by whichever way", {
  days <- sold()
  months <- roll_up(days, retail("month"))
  expect_equal(sum(months$value), sum(days$kilos))
  expect_true(all(months$standing == "complete"))
  expect_setequal(
    as.numeric(period_end(months$period, retail("month")) - months$period) + 1,
    c(28, 35)
  )
  for (longer in c("quarter", "year")) {
    expect_identical(
      roll_up(months, longer)$value, roll_up(days, retail(longer))$value
    )
    expect_identical(
      roll_up(roll_up(days, retail("week")), retail(longer))$value,
      roll_up(days, retail(longer))$value
    )
  }
})

test_that("a month is compared with that of its name, also after a 53rd week", {
  months <- roll_up(sold(), retail("month"), by = character())
  label <- period_name(months$period, retail("month"))
  lagged <- add_lagged(months, "1 year")$value_1_year_before
  expect_true("growth_1_whole_week_month" %in% names(add_growth(months)))
  before <- sprintf(
    "FY%d%s", as.integer(substr(label, 3, 6)) - 1L, substr(label, 7, 10)
  )
  expect_identical(lagged, months$value[match(before, label)])
  # One of the years has 53 weeks.
  expect_true(any(table(substr(period_name(
    roll_up(sold(), retail("week"), by = character())$period, retail("week")
  ), 1, 6)) == 53))
  index <- seasonal_index(months, form = "multiplicative")
  expect_identical(
    levels(index$position)[1:2], c("January", "February")
  )
  grid <- cycle_grid(months, "year", "month")
  expect_setequal(grid$column[grid$row == "2027"], month.name[2:12])
  traced <- trace_value(
    add_running_total(months, reset = "year"), months$period[[5]],
    column = "running_total"
  )
  expect_equal(traced$figure[[1]], sum(months$value[1:5]))
})

test_that("a file, an index, a study, a shell and a database know such months", {
  months <- roll_up(sold(), retail("month"))
  folder <- withr::local_tempdir()
  file <- file.path(folder, "months.csv")
  write_periods(months, file)
  expect_identical(
    roll_up(read_periods(file), "quarter")$value,
    roll_up(months, "quarter")$value
  )
  index <- seasonal_index(months, form = "multiplicative")
  write_index(index, file.path(folder, "index.json"))
  kept <- read_index(file.path(folder, "index.json"))
  expect_identical(
    deseasonalise(months, kept)$adjusted,
    deseasonalise(months, index)$adjusted
  )
  data.table::fwrite(as.data.frame(sold()), file.path(folder, "days.csv"))
  shown <- backfill_cli(
    "periods", "days.csv", "--quiet", "--format", "csv", "--whole-weeks",
    "4-5-4", "--week-start", "Sunday", "--year-start", "2", dir = folder
  )
  expect_identical(shown$status, 0L)
  expect_equal(utils::read.csv(text = shown$out)$value, months$value)
  study <- file.path(folder, "study.yaml")
  writeLines(c(
    "backfill: 1", "records:", "  days: {file: days.csv, when: day,",
    "    series: shop, measures: {kilos: flow}}", "steps:",
    "  - roll_up: {every: {every: month, whole_weeks: 4-5-4,",
    "      week_start: Sunday, year_start: 2}}", "    name: months"
  ), study)
  ran <- run_study(study, file.path(folder, "run"))
  expect_identical(study_result(ran, "months")$value, months$value)
})

test_that("what cannot be made of weeks, or says nothing, is refused", {
  expect_error(
    calendar("day", whole_weeks = "4-4-5"), class = "backfill_error_argument"
  )
  expect_error(
    calendar("month", first_week = "before"), class = "backfill_error_argument"
  )
  expect_error(
    calendar("month", whole_weeks = "5-5-3"), class = "backfill_error_argument"
  )
  months <- roll_up(sold(), retail("month"))
  # A civil month lies in two of whole weeks.
  civil <- as_records(data.frame(
    month = seq(as.Date("2028-01-01"), by = "month", length.out = 30), kilos = 1
  ), "month", c(kilos = "flow"))
  for (every in c("month", "quarter", "year")) {
    expect_error(
      roll_up(civil, retail(every)), "cut through",
      class = "backfill_error_every"
    )
  }
  expect_error(
    roll_up(roll_up(civil, "month"), retail("year")), class = "backfill_error"
  )
  expect_error(
    rbind(months, roll_up(sold(), "month")), class = "backfill_error_input"
  )
})
