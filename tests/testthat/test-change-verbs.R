# Values in turn, as a level or a flow of days or months.
series_of <- function(
  value, every = "month", kind = "flow", first = "2031-01-01", ...
) {
  when <- seq(as.Date(first), by = every, length.out = length(value))
  roll_up(
    records_of(when[!is.na(value)], x = value[!is.na(value)], kind = kind),
    every, cadence = every, ...
  )
}

withheld <- function(x, column) attr(x, "backfill")$added[[column]]$withheld

test_that("each form of growth, by hand", {
  monthly <- series_of(c(100, 121, 0, 50, -5, 10), kind = "level")
  form <- function(as, ...) add_growth(monthly, as = as, name = "g", ...)$g
  expect_equal(form("ratio"), c(NA, 1.21, 0, NA, -0.1, NA))
  expect_equal(form("difference"), c(NA, 21, -121, 50, -55, 15))
  expect_equal(form("log"), c(NA, log(1.21), NA, NA, NA, NA))
  yearly <- series_of(c(100, rep(50, 23), 121), kind = "level")
  expect_equal(
    add_growth(yearly, "2 years", as = "annualised")$annual_growth_2_years[25],
    10
  )
  # Of days by their dates: 29 days and 6 hours are a twelfth of a mean year.
  daily <- series_of(c(100, rep(1, 30), 110), "day", "level")
  expect_equal(
    add_growth(daily, 31, as = "annualised", name = "g")$g[32],
    100 * (1.1^(365.2425 / 31) - 1)
  )
  rate <- roll_up(
    as_records(
      data.frame(
        when = c("2031-01-01", "2031-02-01"), rate = c(4, 4.5), kilos = 1:2
      ),
      "when", list(rate = measure("level", unit = "%"), kilos = "flow")
    ),
    "month"
  )
  points <- add_growth(rate, as = "points")
  expect_identical(points$points_1_month[points$measure == "rate"], c(NA, 0.5))
  expect_identical(
    points$points_1_month[points$measure == "kilos"], c(NA_real_, NA)
  )
  expect_equal(sum(withheld(points, "points_1_month")), 3)
  expect_warning(
    add_growth(rate), "percent of that", class = "backfill_warning_use"
  )
  expect_error(
    add_growth(monthly, as = "points"), "no measure is in percent",
    class = "backfill_error_argument"
  )
})

test_that("nothing is infinite or no number, whatever the form, and the reasons add up", {
  wild <- series_of(
    c(1e-300, 1e300, 0, -5, 100, -5, NA, 1, 1e12), "day", "level"
  )
  for (as in setdiff(names(backfill:::growth_forms), "points")) {
    grown <- add_growth(wild, as = as, name = "g")
    expect_false(any(is.infinite(grown$g) | is.nan(grown$g)), label = as)
    expect_equal(sum(withheld(grown, "g")), sum(is.na(grown$g)), label = as)
  }
  # A period never stands in for what is ahead of it.
  some <- series_of(c(10, NA, NA, 40), "day", "level")
  expect_identical(
    add_growth(some, 2, forward = TRUE, max_age = 2)$growth_ahead_2_days,
    rep(NA_real_, 4)
  )
  expect_identical(
    add_growth(some, 4, forward = TRUE, max_age = 1)$growth_ahead_4_days,
    c(300, NA, NA, NA)
  )
})

test_that("several horizons in one call are those of each alone, and reasons add up to the rows without", {
  monthly <- roll_up(inns(), "month")
  over <- list("1 month", "3 months", "1 year")
  all <- add_growth(
    monthly, over = c("1 month", "3 months", "1 year"), as = "log"
  )
  for (one in over) {
    alone <- add_growth(monthly, over = one, as = "log")
    name <- setdiff(names(alone), names(monthly))
    expect_identical(all[[name]], alone[[name]], label = one)
    expect_equal(
      sum(withheld(all, name)), sum(is.na(all[[name]])), label = one
    )
  }
  reasons <- attr(summary(all), "backfill")$reasons
  expect_setequal(reasons$column, setdiff(names(all), names(monthly)))
  for (name in unique(reasons$column)) {
    expect_equal(
      sum(reasons$rows[reasons$column == name]), sum(is.na(all[[name]]))
    )
  }
})

test_that("over time the base has the same date, or the last before it that there is", {
  day <- seq(as.Date("2031-01-01"), as.Date("2032-04-05"), by = "day")
  daily <- roll_up(records_of(day, x = as.numeric(day), kind = "level"), "day")
  base_of <- function(x, at, over, ...) {
    lag <- add_growth(x, over, as = "difference", name = "g", ...)
    x$value[x$period == as.Date(at)] - lag$g[x$period == as.Date(at)]
  }
  expect_identical(
    base_of(daily, "2031-03-31", "1 month"), as.numeric(as.Date("2031-02-28"))
  )
  expect_identical(
    base_of(daily, "2031-03-30", "1 month"), as.numeric(as.Date("2031-02-28"))
  )
  expect_identical(
    base_of(daily, "2032-02-29", "1 year"), as.numeric(as.Date("2031-02-28"))
  )
  # Monday 1 March 2032: a year before is a Saturday, so the Friday; with that a
  # holiday, the Thursday.
  working <- function(...) calendar("working day", workdays = 1:5, ...)
  weekday <- day[as.POSIXlt(day)$wday %in% 1:5]
  market <- function(calendar, weekday) {
    roll_up(
      records_of(weekday, x = as.numeric(weekday), kind = "level"), calendar
    )
  }
  expect_identical(
    base_of(market(working(), weekday), "2032-03-01", "1 year"),
    as.numeric(as.Date("2031-02-28"))
  )
  off <- weekday[weekday != as.Date("2031-02-28")]
  expect_identical(
    base_of(
      market(working(holidays = as.Date("2031-02-28")), off), "2032-03-01",
      "1 year"
    ),
    as.numeric(as.Date("2031-02-27"))
  )
  # Hours of 29 February find those of the 28th, each of them.
  hour <- seq(
    as.POSIXct("2031-02-27", tz = "UTC"), as.POSIXct("2032-03-02", tz = "UTC"),
    by = "hour"
  )
  hourly <- roll_up(
    records_of(hour, x = as.numeric(hour), kind = "level"), "hour"
  )
  hourly <- add_growth(hourly, "1 year", "difference", name = "g")
  leap <- as.Date(hourly$period) == as.Date("2032-02-29")
  expect_identical(hourly$g[leap], rep(366 * 86400, 24))
})

test_that("an older base stands in, up to the age that is allowed", {
  withr::local_seed(11)
  value <- replace(exp(rnorm(200)), sample(2:199, 120), NA)
  daily <- series_of(value, "day", "level")
  value <- daily$value
  for (max_age in c(0, 1, 3)) {
    found <- add_growth(daily, 5, "ratio", max_age = max_age, name = "g")$g
    expected <- vapply(seq_along(value), function(i) {
      at <- Filter(function(k) k > 0 && !is.na(value[k]), i - 5 - 0:max_age)
      if (length(at) > 0) value[i] / value[at[[1]]] else NA_real_
    }, 0)
    expect_equal(found, expected, label = max_age)
  }
})

test_that("what is ahead is the same growth told earlier, a target, and so is what is made of it", {
  monthly <- roll_up(inns(), "month")
  both <- add_growth(
    add_growth(monthly, "3 months"), "3 months", forward = TRUE
  )
  one <- both[both$inn == "Lantern", ]
  expect_identical(
    one$growth_ahead_3_months, c(one$growth_3_months[-(1:3)], NA, NA, NA)
  )
  is_target <- function(x, column) attr(x, "backfill")$added[[column]]$target
  made <- add_lagged(both, 1, of = "growth_ahead_3_months", name = "later")
  expect_identical(
    vapply(
      c("growth_3_months", "growth_ahead_3_months", "later"), is_target, NA,
      x = made
    ),
    c(growth_3_months = FALSE, growth_ahead_3_months = TRUE, later = TRUE)
  )
  expect_true(is_target(
    add_lagged(monthly, "-1 month"), "value_1_month_ahead"
  ))
  expect_true(is_target(
    add_moving(monthly, 3, align = "leading"), "moving_mean"
  ))
})

test_that("nothing later changes anything earlier, and nothing crosses into another series", {
  withr::local_seed(12)
  day <- rep(seq(as.Date("2031-01-01"), by = "month", length.out = 30), 2)
  port <- rep(c("a", "b"), each = 30)
  of <- function(kilos) {
    roll_up(
      records_of(
        day, kilos = kilos, port = port, series = "port", kind = "level"
      ),
      "month"
    )
  }
  kilos <- exp(rnorm(60))
  verbs <- list(
    function(x) add_growth(x, 2), function(x) add_lagged(x, 2), add_returns,
    function(x) add_returns(x, total = "drawdown"), function(x) {
      add_returns(
        x, "log", total = "growth_of_1"
      )
    },
    function(x) add_moving(x, 4), function(x) add_moving(x, 4, "median"),
    function(x) add_smoothed(x, 2)
  )
  for (verb in verbs) {
    column <- function(kilos) {
      x <- verb(of(kilos))
      x[[length(x)]]
    }
    now <- column(kilos)
    expect_identical(
      column(replace(kilos, 21:30, 99))[c(1:20, 31:60)], now[c(1:20, 31:60)]
    )
  }
})

test_that("a value some periods away, by hand", {
  x <- series_of(c(1, 2, NA, 4))
  expect_identical(add_lagged(x)$value_1_month_before, c(NA, 1, 2, NA))
  ahead <- add_lagged(x, -2)
  expect_identical(ahead$value_2_months_ahead, c(NA, 4, NA, NA))
  expect_identical(unname(withheld(ahead, "value_2_months_ahead")), c(2L, 1L))
  expect_error(add_lagged(x, "10 days"), class = "backfill_error_over")
})

test_that("running totals start anew, and lack no part in silence", {
  x <- series_of(c(1, 2, 3, NA, 5, 6, 7, 8), first = "2030-10-01")
  expect_identical(add_running_total(x)$running_total, rep(NA_real_, 8))
  quarterly <- add_running_total(x, "quarter")
  expect_identical(quarterly$running_total, c(1, 3, 6, NA, NA, NA, 7, 15))
  expect_identical(
    sum(withheld(quarterly, "running_total")),
    sum(is.na(quarterly$running_total))
  )
  expect_identical(
    add_running_total(x, "never")$running_total, c(1, 3, 6, NA, NA, NA, NA, NA)
  )
  # A row that is not there is a part that lacks.
  expect_identical(
    add_running_total(x[-2, ], "quarter")$running_total, c(1, rep(NA, 4), 7, 15)
  )
  fiscal <- add_running_total(x[-1, ], calendar("year", year_start = 11))
  expect_identical(fiscal$running_total, c(2, 5, rep(NA, 5)))
  # Beside last year's to the same date; and the last of a year is that year's
  # sum.
  day <- seq(as.Date("2030-01-01"), as.Date("2032-12-31"), by = "day")
  daily <- add_running_total(roll_up(
    records_of(day, x = seq_along(day)), "day"
  ))
  daily <- add_lagged(daily, "1 year", of = "running_total")
  expect_equal(daily$running_total[day == as.Date("2031-12-31")], sum(366:730))
  expect_identical(
    daily$running_total_1_year_before[day == as.Date("2032-02-29")],
    daily$running_total[day == as.Date("2031-02-28")]
  )
  expect_error(
    add_running_total(x, "week"), "does not fit", class = "backfill_error_every"
  )
  expect_error(
    add_running_total(series_of(1:3, kind = "level")), "no flow",
    class = "backfill_error_input"
  )
})

test_that("series rebased to a common start, and shares of a total", {
  month <- rep(sprintf("2031-%02d", 1:3), 2)
  port <- rep(c("a", "b"), c(2, 3))
  two <- roll_up(
    records_of(
      month[-1], kilos = c(20, 30, 5, 8, 0), port = port, series = "port"
    ),
    "month"
  )
  rebased <- add_rebased(two)
  expect_equal(rebased$rebased, c(NA, 100, 150, 62.5, 100, 0))
  expect_equal(
    add_rebased(two, start_value = 1, at = "2031-03-15")$rebased,
    c(NA, 2 / 3, 1, NA, NA, NA)
  )
  expect_error(
    add_rebased(two, at = "2032-01-01"), "outside the table",
    class = "backfill_error_argument"
  )
  # Where a part is missing there is no share; elsewhere they add up to 1.
  expect_equal(add_share(two)$share, c(NA, 20 / 28, 1, NA, 8 / 28, 0))
  shared <- add_share(roll_up(inns(), "month"))
  totals <- tapply(shared$share, shared$period, sum)
  expect_equal(range(totals[!is.na(totals)]), c(1, 1))
  expect_error(add_share(two, within = "sea"), class = "backfill_error_column")
})

test_that("returns by hand, over closed days, and what they come to in a year", {
  value <- c(100, 110, NA, 99, 132)
  x <- series_of(value, "day", "level")
  expect_equal(
    add_returns(x, longest = 2)$return, c(NA, 0.1, NA, -0.1, 1 / 3)
  )
  expect_equal(
    add_returns(x, "log", longest = 2)$log_return,
    c(NA, log(1.1), NA, log(0.9), log(4 / 3))
  )
  expect_equal(add_returns(x, total = "growth_of_1")$growth_of_1, value / 100)
  expect_equal(
    add_returns(x, total = "drawdown")$drawdown, c(0, 0, NA, -0.1, 0)
  )
  expect_identical(
    attr(add_returns(x, longest = 2), "backfill")$added$return$longer, 1
  )
  withr::local_seed(13)
  monthly <- series_of(exp(cumsum(rnorm(37, 0, 0.05))), kind = "level")
  found <- summary(add_returns(monthly))
  found <- found[found$column == "return", ]
  growth <- monthly$value[-1] / monthly$value[-37] - 1
  expect_equal(found$per_year, 12)
  expect_equal(
    found$mean_per_year, ((monthly$value[37] / monthly$value[1])^(1 / 3) - 1)
  )
  expect_equal(found$volatility_per_year, stats::sd(growth) * sqrt(12))
  # Over a hole there is no return, and the year's figures are of the rest.
  holed <- monthly
  holed$value[15:20] <- NA
  holed$standing[15:20] <- "empty"
  kept <- c(1:13, 21:36)
  found <- summary(add_returns(holed))
  found <- found[found$column == "return", ]
  expect_equal(found$per_year, 12)
  expect_equal(found$mean_per_year, exp(12 * mean(log1p(growth[kept]))) - 1)
  expect_equal(found$volatility_per_year, stats::sd(growth[kept]) * sqrt(12))
  expect_identical(
    add_returns(series_of(c(1, 0, 2, 3), kind = "level"))$return,
    c(NA, NA, NA, 0.5)
  )
  expect_error(
    add_returns(series_of(1:3)), "no level", class = "backfill_error_input"
  )
})

test_that("bands hold the end that they say, and every figure has one", {
  x <- series_of(c(-10, -5, 0, 5, NA, 9), kind = "level")
  expect_identical(
    as.integer(add_bands(x, c(-5, 0, 5), of = "value")$band),
    c(1L, 2L, 3L, 4L, NA, 4L)
  )
  right <- add_bands(
    x, c(-5, 0, 5), c("w", "x", "y", "z"), of = "value", closed = "right"
  )
  expect_identical(as.character(right$band), c("w", "w", "x", "y", NA, "z"))
  counts <- count_bands(right)
  expect_identical(counts$periods, c(2L, 1L, 1L, 1L))
  expect_equal(counts$share, c(2, 1, 1, 1) / 5)
  withr::local_seed(14)
  many <- series_of(rnorm(99), kind = "level")
  ends <- function(scale, breaks) {
    attr(
      add_bands(many, breaks, of = "value", scale = scale), "backfill"
    )$added$band$breaks$x
  }
  expect_equal(
    ends("quantile", c(0.1, 0.37)),
    unname(stats::quantile(many$value, c(0.1, 0.37)))
  )
  expect_equal(
    ends("sd", c(-1, 2)), mean(many$value) + c(-1, 2) * stats::sd(many$value)
  )
  expect_error(
    add_bands(x, c(5, 0), of = "value"), "rise",
    class = "backfill_error_argument"
  )
  expect_error(
    add_bands(x, 0, "one", of = "value"), "2 names",
    class = "backfill_error_argument"
  )
  expect_error(
    count_bands(x), "not a column of bands", class = "backfill_error_column"
  )
})

test_that("a basket by hand: rebalanced, held, with a member missing", {
  month <- rep(sprintf("2031-%02d", 1:4), 2)
  price <- c(10, 20, 10, 10, 5, 5, 10, NA)
  known <- !is.na(price)
  two <- roll_up(
    records_of(
      month[known], price = price[known],
      fish = rep(c("cod", "ling"), each = 4)[known], series = "fish",
      kind = "level"
    ),
    "month"
  )
  # (100 % + 0) / 2, then (-50 % + 100 %) / 2
  expect_equal(basket(two)$value, c(100, 150, 187.5, NA))
  expect_equal(basket(two, rebalance = "never")$value, c(100, 150, 150, NA))
  expect_equal(basket(two, c(cod = 1))$value, c(100, 200, 100, 100))
  expect_identical(as.character(basket(two)$standing[4]), "empty")
  expect_equal(add_returns(basket(two))$return[2:3], c(0.5, 0.25))
  expect_error(
    basket(two, c(cod = 1, ling = 1)), "0.5", class = "backfill_error_argument"
  )
  expect_error(
    basket(two, c(eel = 1)), "not a series", class = "backfill_error_argument"
  )
  expect_error(basket(series_of(1:3)), "level", class = "backfill_error_input")
})

test_that("rankings by hand", {
  month <- rep(sprintf("2031-%02d", 1:6), 2)
  two <- roll_up(
    records_of(
      month[-11], kilos = c(10, 11, 11, 11, 22, 11, 50, 40, 40, 41, 8),
      series = "port", port = rep(c("a", "b"), c(6, 5))
    ),
    "month"
  )
  falls <- rank_changes(two, order = "falls")
  expect_identical(falls$port, c("a", "b"))
  expect_equal(falls$percent, c(-50, -20))
  expect_equal(
    rank_changes(two, order = "falls", as = "difference", n = 1)$change, -11
  )
  # b's fall to 8 follows on a missing month and is none.
  expect_identical(
    rank_changes(two, 1, per_series = TRUE)$to,
    as.Date(c("2031-05-01", "2031-02-01"))
  )
  # A movement across the quarter's end belongs to the later quarter.
  quarterly <- rank_changes(two, 1, "largest", "difference", within = "quarter")
  expect_identical(quarterly$within, c("2031-Q1", "2031-Q2"))
  expect_identical(quarterly$to, as.Date(c("2031-02-01", "2031-05-01")))
  expect_identical(quarterly$change, c(-10, 11))
  expect_match(describe(quarterly), "Ranked within each quarter", all = FALSE)
  each <- rank_changes(
    two, 1, "rises", "difference", per_series = TRUE, within = "quarter"
  )
  expect_identical(each$port, c("a", "a", "b"))
  expect_identical(each$change, c(1, 11, 1))
  expect_error(
    rank_changes(two, within = "yeer"), "within", class = "backfill_error_every"
  )
  expect_error(
    rank_changes(two, within = "day"), "shorter than a month",
    class = "backfill_error_every"
  )
  flat <- rank_changes(two, 2, order = "flattest", stretch = 3)
  expect_equal(flat$change, c(0, 1))
  expect_identical(flat$from, as.Date(c("2031-02-01", "2031-02-01")))
  # What overlaps with one that is listed is not.
  expect_identical(
    nrow(rank_changes(two, 9, order = "flattest", stretch = 3)), 2L
  )
  latest <- rank_series(two)
  expect_identical(latest$port, c("a", "b"))
  expect_equal(latest$share, c(11, 8) / 19)
  expect_identical(latest$change, c(-11, NA))
  expect_identical(rank_series(two, "2031-02-10", n = 1)$port, "b")
  # The share is of all series, and of the row that it stands in.
  three <- roll_up(as_records(
    data.frame(
      day = as.Date("2031-01-01"), port = c("a", "b", "c"), kilos = c(1, 5, 4)
    ), "day", c(kilos = "flow"), series = "port"
  ), "day")
  expect_equal(rank_series(three)$share, c(0.5, 0.4, 0.1))
  expect_equal(rank_series(three, n = 1)$share, 0.5)
})

test_that("a return goes back over one closed stretch and no further, unless the user says so", {
  weekday <- function(x) as.POSIXlt(x)$wday
  days <- seq(as.Date("2031-01-01"), as.Date("2031-06-30"), by = 1)
  open <- days[weekday(days) %in% 1:5]
  month_gone <- open[format(open, "%m") != "03"]
  daily <- function(day) {
    roll_up(
      records_of(
        day, price = 100 * 1.01^as.numeric(day - days[1]), kind = "level"
      ),
      "day"
    )
  }
  found <- add_returns(daily(month_gone))
  at <- function(x, day) x$return[x$period == as.Date(day)]
  expect_equal(at(found, "2031-01-06"), 1.01^3 - 1) # over a weekend
  first_back <- as.character(month_gone[month_gone > as.Date("2031-03-31")][1])
  expect_true(is.na(at(found, first_back)))
  said <- gsub(
    "\\s+", " ", paste(utils::capture.output(print(found)), collapse = " ")
  )
  expect_match(said, "the value before lies too far back (1)", fixed = TRUE)
  expect_equal(sum(!is.na(found$return)), length(month_gone) - 2)
  expect_equal(
    at(add_returns(daily(month_gone), longest = "60 days"), first_back) > 0.2,
    TRUE
  )
  # Every day open: one missing day is a hole already.
  expect_true(is.na(at(add_returns(daily(days[-40])), as.character(days[41]))))
  # Days off of the calendar are no hole, however many.
  holidays <- days[
    days >= as.Date("2031-04-14") & days <= as.Date("2031-04-25")
  ]
  calendar <- calendar("day", workdays = 1:5, holidays = holidays)
  closed <- records_of(open[!open %in% holidays], price = 1.5, kind = "level")
  expect_equal(at(add_returns(roll_up(closed, calendar)), "2031-04-28"), 0)
  expect_error(
    add_returns(daily(open), longest = "soon"), "longest",
    class = "backfill_error_argument"
  )
})

test_that("a ranking names the first of all, what stands in its way, and takes no percent of a percentage", {
  said <- function(x) {
    gsub(
      "\\s+", " ", paste(utils::capture.output(print(x)), collapse = " ")
    )
  }
  month <- seq(as.Date("2031-01-01"), by = "month", length.out = 5)
  two <- roll_up(records_of(rep(month, 2), port = rep(c("a", "b"), each = 5),
                            kilos = c(
                              100, 101, 102, 103, 104, 100, 100, 200, 100, 100
                            ), series = "port"), "month")
  each <- rank_changes(two, 1, per_series = TRUE)
  expect_match(
    said(each),
    "b moved most: +100.0% from 2031-02 to 2031-03.", fixed = TRUE
  )
  expect_match(
    said(rank_changes(two[two$port == "a", ][1:4, ], order = "falls")),
    "No fall was found."
  )
  two$standing[3] <- "partial"
  expect_match(
    said(rank_changes(two, 2)),
    "Partial, and so without a movement: 2031-03 of a.", fixed = TRUE
  )
  grown <- add_growth(two)
  ranked <- rank_changes(grown, 2, of = "growth_1_month")
  expect_equal(ranked$change[1], -150)
  expect_true(all(is.na(ranked$percent)))
  expect_match(said(ranked), "-150.0 pp", fixed = TRUE)
  expect_error(
    rank_changes(grown, of = "growth_1_month", as = "percent"),
    "a change already",
    class = "backfill_error_argument"
  )
})

test_that("a note goes with its column, and goes when that is replaced", {
  x <- add_growth(series_of(c(100, 110, 121)))
  notes <- function(x) names(attr(x, "backfill")$added)
  replaced <- x
  replaced$growth_1_month <- c(1, 2, 3)
  expect_length(notes(replaced), 0)
  replaced <- x
  replaced[["growth_1_month"]] <- c(1, 2, 3)
  expect_length(notes(replaced), 0)
  replaced <- x
  replaced[, "growth_1_month"] <- c(1, 2, 3)
  expect_length(notes(replaced), 0)
  expect_length(notes(dplyr::mutate(x, growth_1_month = value)), 0)
  expect_false(any(grepl(
    "Latest growth", utils::capture.output(print(replaced))
  )))
  # The same figures put back, other rows and other columns are no replacement.
  same <- x
  same$growth_1_month <- same$growth_1_month
  expect_identical(notes(same), "growth_1_month")
  expect_identical(notes(x[2:3, ]), "growth_1_month")
  expect_identical(notes(dplyr::mutate(x, twice = 2 * value)), "growth_1_month")
  # A new name takes the note along.
  renamed <- add_moving(x, 2, of = "growth_1_month")
  names(renamed)[names(renamed) == "growth_1_month"] <- "rise"
  expect_identical(notes(renamed), c("rise", "moving_mean"))
  expect_identical(attr(renamed, "backfill")$added$moving_mean$of, "rise")
  expect_identical(notes(dplyr::rename(x, rise = growth_1_month)), "rise")
})

test_that("the highest, lowest and mean so far are those of base R, by series and year", {
  withr::local_seed(61)
  when <- seq(as.Date("2029-03-01"), by = "month", length.out = 30)
  x <- roll_up(records_of(
    rep(when, 2), port = rep(c("Sund", "Holm"), each = 30),
    figure = round(rnorm(60), 2), series = "port", kind = "level"
  ), "month")
  of <- list(highest = cummax, lowest = cummin, mean = function(v) {
    cumsum(v) / seq_along(v)
  })
  year <- format(x$period, "%Y")
  for (stat in names(of)) {
    name <- paste0("running_", stat)
    expect_equal(
      add_running(x, stat)[[name]], ave(x$value, x$port, FUN = of[[stat]])
    )
    expect_equal(
      add_running(x, stat, reset = "year")[[name]],
      ave(x$value, x$port, year, FUN = of[[stat]])
    )
  }
  x$value[3] <- 99
  x$standing[3] <- "partial"
  so_far <- add_running(x, "highest")$running_highest
  expect_identical(so_far[3], NA_real_)
  expect_lt(max(so_far, na.rm = TRUE), 99)
  # Nothing later changes anything earlier.
  expect_identical(
    add_running(x[x$period < "2030-01-01", ], "mean")$running_mean,
    add_running(x, "mean")$running_mean[x$period < "2030-01-01"]
  )
  expect_error(add_running(x, "sum"), class = "backfill_error_argument")
  expect_error(add_running(x, reset = "week"), class = "backfill_error_every")
})
