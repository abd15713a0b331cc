test_that("a profile of records is what base R gives position by position", {
  withr::local_seed(71)
  when <- as.POSIXct("2031-03-20", tz = "UTC") + 3600 * 0:799
  data <- records_of(
    rep(when, 2), g = rep(c("a", "b"), each = 800), x = rnorm(1600),
    series = "g", zone = "WET"
  )
  hour <- sprintf("%02d:00", as.POSIXlt(data$when)$hour)
  weekend <- ifelse(
    as.POSIXlt(data$when)$wday %in% c(0, 6), "weekend", "Monday to Friday"
  )
  found <- cycle_profile(data, "hour", apart = "weekend", holds = 0.5)
  expect_identical(nrow(found), 2L * 2L * 24L)
  key <- paste(found$g, found$weekend, found$position)
  own <- paste(data$g, weekend, hour)
  expect_equal(found$value, as.vector(tapply(data$x, own, mean)[key]))
  expect_equal(found$n, as.vector(table(own)[key]))
  expect_equal(found$sd, as.vector(tapply(data$x, own, stats::sd)[key]))
  expect_equal(
    found$lower, as.vector(tapply(data$x, own, stats::quantile, 0.25)[key])
  )
  expect_equal(
    found$upper, as.vector(tapply(data$x, own, stats::quantile, 0.75)[key])
  )
  for (stat in c("median", "sum", "90%")) {
    by_hand <- switch(
      stat, median = stats::median, sum = sum,
      function(x) stats::quantile(x, 0.9)
    )
    expect_equal(cycle_profile(data, "hour", stat = stat)$value,
                 as.vector(tapply(data$x, paste(data$g, hour), by_hand)),
                 label = stat)
  }
  # A group of one's own, by column or by value; the order of the records is no
  # matter.
  data$open <- rep(c("open", "closed"), 800)
  mine <- cycle_profile(data, "weekday", apart = "open")
  expect_identical(columns(mine[c("value", "n")]),
                   columns(
                     cycle_profile(data, "weekday", apart = data$open)[
                       c("value", "n")
                     ]
                   ))
  expect_equal(sum(mine$n), 1600)
  shuffled <- data[sample(1600), ]
  expect_equal(
    cycle_profile(shuffled, "weekday", apart = "open")$value, mine$value,
    tolerance = 1e-14
  )
})

test_that("of periods only whole ones count; 29 February and week 53 have places of their own", {
  monthly <- roll_up(inns(), "month")
  months <- cycle_profile(monthly, "month")
  known <- monthly[monthly$standing == "complete", ]
  expect_equal(
    months$value,
    as.vector(t(tapply(
      known$value, list(known$inn, format(known$period, "%m")), mean
    )))
  )
  expect_equal(sum(months$n), nrow(known))
  day <- as.Date("2031-01-01") + 0:1095
  daily <- roll_up(records_of(day, x = seq_along(day)), "day")
  year <- cycle_profile(daily, "day of year")
  expect_identical(nrow(year), 366L)
  expect_identical(year$n[year$position == "02-29"], 1L)
  expect_equal(
    year$value[year$position == "03-01"],
    mean(which(format(day, "%m-%d") == "03-01"))
  )
  expect_identical(levels(cycle_profile(daily, "week")$position)[53], "W53")
  partial <- roll_up(
    records_of(as.Date("2031-01-15") + 0:100, x = 1), "month"
  )
  expect_identical(cycle_profile(partial, "month")$n[1:4], c(0L, 1L, 1L, 0L))
})

test_that("a grid is the two-way table of its cells", {
  monthly <- roll_up(inns(), "month")
  grid <- cycle_grid(monthly, "month", "year")
  known <- monthly[monthly$standing == "complete", ]
  expect_identical(nrow(grid), nrow(known))
  expect_setequal(
    paste(grid$inn, grid$column, as.integer(grid$row), grid$value),
    paste(
      known$inn, format(known$period, "%Y"),
      as.POSIXlt(known$period)$mon + 1, known$value
    )
  )
  sail <- crossings()
  cells <- cycle_grid(sail, "weekday", "hour", of = "market")
  local <- as.POSIXlt(sail$time)
  by_hand <- tapply(
    sail$market, list((local$wday + 6) %% 7, local$hour), mean, na.rm = TRUE
  )
  expect_equal(cells$value, as.vector(t(by_hand)))
  # The first days of January can lie in a week of the year before.
  day <- roll_up(
    records_of(
      as.Date(c("2031-12-28", "2032-12-31", "2033-01-01", "2033-01-03")),
      x = 1:4
    ),
    "day"
  )
  weeks <- cycle_grid(day, "year", "week")
  expect_identical(
    paste(weeks$row, weeks$column, weeks$n),
    c("2031 W52 1", "2032 W53 2", "2033 W01 1")
  )
})

test_that("what makes no sense is refused or warned of", {
  expect_error(
    cycle_profile(water_tanks(), "month"), "Roll it up",
    class = "backfill_error_use"
  )
  expect_error(
    cycle_profile(inns(), "hour"), "dates only",
    class = "backfill_error_argument"
  )
  expect_error(
    cycle_profile(inns(), "moon"), class = "backfill_error_argument"
  )
  expect_error(
    cycle_profile(inns(), "month", apart = "harbour"),
    class = "backfill_error_column"
  )
  expect_error(
    cycle_profile(inns(), "month", apart = 1:3), "3 values",
    class = "backfill_error_argument"
  )
  expect_error(
    cycle_grid(inns(), "month", "month"),
    class = "backfill_error_argument"
  )
  expect_error(
    cycle_profile(data.frame(), "month"), class = "backfill_error_input"
  )
  expect_warning(
    cycle_profile(landings(), "weekday", stat = "sum"), "price is a level",
    class = "backfill_warning_use"
  )
})

test_that("a grid says its sentence once, with its sides named", {
  grid <- cycle_grid(crossings(), "weekday", "hour")
  said <- utils::capture.output(print(grid))
  expect_match(said[1], "by weekday (down) and hour (across)", fixed = TRUE)
  expect_identical(sum(grepl("(across)", said, fixed = TRUE)), 1L)
  title <- ggplot2::autoplot(grid)$labels$title
  expect_length(title, 1)
})
