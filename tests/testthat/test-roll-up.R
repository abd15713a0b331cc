test_that("a flow is added up and a level averaged, by hand", {
  records <- as_records(
    tibble::tibble(
      day = c("2031-04-29", "2031-04-30", "2031-05-01", "2031-05-02"),
      kilos = c(1, 2, 3, 4.5), price = c(10, 20, 40, NA)
    ),
    "day", c(kilos = "flow", price = "level")
  )
  monthly <- roll_up(records, "month", cadence = "irregular")
  expect_identical(monthly$measure, c("kilos", "kilos", "price", "price"))
  expect_identical(
    monthly$period,
    as.Date(c("2031-04-01", "2031-05-01", "2031-04-01", "2031-05-01"))
  )
  expect_identical(monthly$value, c(3, 7.5, 15, 40))
  expect_identical(monthly$n, c(2L, 2L, 2L, 1L))
})

test_that("a flow's total is the same over periods of any length", {
  total <- function(every) sum(roll_up(crossings(), every)$value, na.rm = TRUE)
  records <- crossings()
  expect_identical(
    vapply(
      c("day", "week", "month", "quarter", "year"), total, 0, USE.NAMES = FALSE
    ),
    rep(sum(records$market, na.rm = TRUE) + sum(records$tide), 5)
  )
})

test_that("neither the order of the records nor splitting them changes a sum", {
  withr::local_seed(7)
  kilos <- c(
    1e16, 3.25, -1e16, runif(397) * 10^sample(-8:8, 397, replace = TRUE)
  )
  day <- as.Date("2031-01-01") + c(0, 1, 2, sample(0:89, 397, replace = TRUE))
  rolled <- function(rows) {
    roll_up(
      records_of(day[rows], kilos = kilos[rows]), "year", cadence = "irregular"
    )$value
  }
  forward <- rolled(1:400)
  for (round in 1:5) {
    expect_equal(rolled(sample(400)), forward, tolerance = 1e-15)
  }
  part <- sample(c(TRUE, FALSE), 400, replace = TRUE)
  expect_equal(
    rolled(which(part)) + rolled(which(!part)), forward, tolerance = 1e-9
  )
  expect_identical(rolled(1:3), 3.25)
})

test_that("roll-ups agree with base R's aggregate in a zone with daylight saving", {
  records <- crossings()
  month <- format(records$time, "%Y-%m", tz = "WET")
  monthly <- roll_up(records, "month")
  expect_identical(
    monthly$value[monthly$measure == "tide"],
    as.numeric(tapply(records$tide, month, sum))
  )
  day <- format(records$time, "%Y-%m-%d", tz = "WET")
  daily <- roll_up(records, "day")
  daily <- daily[daily$measure == "tide" & daily$n > 0, ]
  expect_identical(daily$n, as.integer(table(day)))
  expect_identical(format(daily$period), names(table(day)))
})

test_that("coverage counts hours that were, 23 and 25 a day where the clock changes", {
  daily <- roll_up(crossings(), "day")
  tide <- daily[daily$measure == "tide", ]
  rows <- match(
    as.Date(c("2030-03-31", "2030-10-27", "2030-09-14", "2030-02-12")),
    tide$period
  )
  expect_identical(tide$n[rows], c(23L, 25L, 15L, 0L))
  expect_equal(tide$coverage[rows], c(1, 1, 15 / 24, 0))
  expect_identical(
    as.character(tide$standing[rows]),
    c("complete", "complete", "partial", "empty")
  )
  expect_identical(
    tide$value[tide$period == as.Date("2030-02-12")], NA_real_
  )
})

test_that("the first and the last month are partial, and so is the one with the outage", {
  monthly <- roll_up(crossings(), "month", enough = 0.95)
  partial <- unique(monthly$period[monthly$standing == "partial"])
  expect_identical(
    partial, as.Date(c("2029-01-01", "2030-02-01", "2031-12-01"))
  )
  outage <- truths()$crossings$closed_week$rows
  expect_equal(
    unique(monthly$coverage[monthly$period == as.Date("2030-02-01")]),
    (28 * 24 - outage) / (28 * 24)
  )
  # Where every hour counts, the shorter gap is found as well.
  expect_true(
    as.Date("2030-09-01") %in% with(
      roll_up(crossings(), "month", enough = 1), period[standing == "partial"]
    )
  )
})

test_that("the cadence is found: hours, days, market days, weeks, months, or none", {
  cadence_of <- function(when) {
    account(
      records_of(when, kilos = seq_along(when))
    )$cadence
  }
  day <- as.Date("2031-01-01") + 0:199
  expect_identical(
    cadence_of(as.POSIXct("2031-01-01", tz = "UTC") + 900 * 0:99), "15 minutes"
  )
  expect_identical(cadence_of(day), "day")
  expect_identical(
    cadence_of(
      day[
        !weekdays(day, abbreviate = FALSE) %in% weekdays(
          as.Date("2031-01-04") + 0:1
        )
      ]
    ),
    "day (Monday to Friday)"
  )
  expect_identical(cadence_of(day[seq(1, 200, 7)]), "week")
  expect_identical(
    cadence_of(format(
      seq(as.Date("2031-01-01"), by = "month", length.out = 20), "%Y-%m"
    )),
    "month"
  )
  expect_identical(
    cadence_of(seq(as.Date("2031-02-01"), by = "month", length.out = 20) - 1),
    "month"
  )
  expect_identical(
    cadence_of(seq(as.Date("2031-01-01"), by = "quarter", length.out = 9)),
    "quarter"
  )
  expect_identical(cadence_of(day[c(1, 3, 30, 44, 45, 120, 199)]), "irregular")
  # Half a week says nothing yet about the days without a record.
  expect_identical(cadence_of(day[c(1, 2, 4)]), "day")
})

test_that("days held as integers and as doubles give the same account and the same periods", {
  day <- as.Date(c(
    seq(as.Date("2031-01-01"), as.Date("2031-02-27"), by = "day"),
    as.Date("2031-03-05")
  ))
  read <- lapply(
    list(integer = as.integer(day), double = as.double(day)),
    function(days) {
      records_of(
        .Date(days), kilos = seq_along(days),
        gate = rep_len(c("a", "b"), length(days)), series = "gate"
      )
    }
  )
  expect_type(read$integer$when, "integer")
  expect_identical(
    roll_up(read$integer, "week"), roll_up(read$double, "week")
  )
  expect_equal(account(read$integer), account(read$double))
})

test_that("a record on a day off fills no slot of a market day", {
  day <- as.Date("2031-01-01") + 0:180
  sunday <- as.POSIXlt(day)$wday == 0
  open <- !sunday |
    seq_along(day) == which(sunday)[[6]]  # one Sunday sale, on 9 February
  open[day == as.Date("2031-02-10")] <-
    FALSE             # and one Monday without
  monthly <- roll_up(records_of(day[open], kilos = rep(1, sum(open))), "month")
  expect_equal(monthly$coverage[[2]], 23 / 24)
  expect_identical(monthly$value[[2]], 24)
})

test_that("without a cadence a period at either end is partial unless the records reach its outer day", {
  days <- as.Date(c(
    "2031-01-03", "2031-01-04", "2031-02-20", "2031-02-25", "2031-03-31"
  ))
  monthly <- roll_up(
    records_of(days, kilos = 1:5), "month", cadence = "irregular"
  )
  expect_identical(
    as.character(monthly$standing), c("partial", "complete", "complete")
  )
  expect_identical(monthly$coverage, rep(NA_real_, 3))
})

test_that("each series is rolled up apart, over the same periods, by its name's order", {
  month <- c("2031-01", "2031-03", "2031-02")
  records <- records_of(
    month, port = c("b", "a", "b"), kilos = c(1, 2, 4), series = "port"
  )
  monthly <- roll_up(records, "month")
  expect_identical(monthly$port, rep(c("a", "b"), each = 3))
  expect_identical(monthly$value, c(NA, NA, 2, 1, 4, NA))
  expect_identical(
    as.character(monthly$standing),
    c("empty", "empty", "complete", "complete", "complete", "empty")
  )
})

test_that("what cannot be rolled up is refused", {
  monthly <- records_of(c("2031-01", "2031-02", "2031-03"), kilos = 1:3)
  expect_error(
    roll_up(monthly, "week"), "one per month", class = "backfill_error_every"
  )
  expect_error(
    roll_up(monthly, "fortnight"), "not a length of period",
    class = "backfill_error_every"
  )
  expect_error(
    roll_up(monthly, "month", enough = 95), "share",
    class = "backfill_error_argument"
  )
  expect_error(
    roll_up(monthly, "month", cadence = "often"), "length of time",
    class = "backfill_error_argument"
  )
  expect_error(
    roll_up(monthly[0, ], "month"), "no rows", class = "backfill_error_input"
  )
  expect_error(
    roll_up(data.frame(a = 1), "month"), "not a records table",
    class = "backfill_error_input"
  )
  mistyped <- records_of(rep(c("0031-01-02", "2031-01-02"), 200), kilos = 1:400,
                         port = as.character(1:400), series = "port")
  expect_error(
    roll_up(mistyped, "day", cadence = "irregular"), "0031-01-02.*wrong",
    class = "backfill_error_input"
  )
})

test_that("tables stay what they are through `[` and dplyr, and say so where they cannot", {
  monthly <- roll_up(inns(), "month")
  kept <- dplyr::filter(monthly, .data$inn == "Lantern")
  expect_s3_class(add_growth(kept), "backfill_periods")
  expect_s3_class(
    dplyr::mutate(monthly, thousands = .data$value / 1000), "backfill_periods"
  )
  expect_message(
    plain <- dplyr::select(monthly, "period", "value"), "no longer periods",
    class = "backfill_message_roles_lost"
  )
  expect_error(
    add_growth(plain), "not a periods table", class = "backfill_error_input"
  )
  expect_s3_class(inns()[1:5, ], "backfill_records")
  expect_s3_class(rbind(monthly[1:3, ], monthly[4:6, ]), "backfill_periods")
  lost <- list(
    function(x) subset(x, select = -value), function(x) {
      replace(
        x, "value", list(NULL)
      )
    },
    function(x) `$<-`(x, "value", NULL), function(x) {
      `[[<-`(
        x, "standing", value = NULL
      )
    },
    function(x) stats::setNames(x, toupper(names(x)))
  )
  for (step in lost) {
    expect_message(
      plain <- step(monthly), class = "backfill_message_roles_lost"
    )
    expect_s3_class(plain, c("tbl_df", "tbl", "data.frame"), exact = TRUE)
  }
})

test_that("many records, which several processors share, give each series what it gives alone", {
  set.seed(8)
  n <- 3e5
  x <- data.frame(
    port = sample(c("Garth", rep("Kettle", 4), "Ness", "Skerry"), n, TRUE),
    time = as.POSIXct("2031-01-01", tz = "UTC") + 900 *
      sample(35000, n, TRUE), kilos = sample(1000, n, TRUE)
  )
  port <- function(x) {
    as_records(
      x, when = "time", measures = c(kilos = "flow"), series = "port",
      zone = "UTC", duplicates = "keep"
    )
  }
  use <- list(kilos = c("sum", "sd", "last", "slots"))
  for (rows in list(seq_len(n), order(x$port, x$time), order(x$time))) {
    pool <- roll_up(
      port(x[rows, ]), "day", use = use, cadence = "15 minutes"
    )
    for (one in unique(x$port)) {
      alone <- roll_up(
        port(x[rows, ][x$port[rows] == one, ]), "day", use = use,
        cadence = "15 minutes"
      )
      expect_identical(
        columns(
          pool[pool$port == one & pool$period %in% alone$period, ]
        ),
        columns(alone), label = one
      )
    }
  }
})

test_that("records that are out of order only far down fill the same slots", {
  withr::local_seed(9)
  time <- as.POSIXct("2031-01-01", tz = "UTC") + sort(sample(2 * 86400, 500))
  sorted <- roll_up(records_of(time, kilos = 1), "day", cadence = "hour")
  again <- roll_up(
    records_of(time[c(1:300, 500:301)], kilos = 1), "day", cadence = "hour"
  )
  expect_identical(columns(again), columns(sorted))
  expect_identical(sorted$coverage, c(1, 1))
})

test_that("what is cut is partial, what is thin counts from its share, by hand", {
  day <- seq(as.Date("2031-01-01"), as.Date("2031-04-30"), by = "day")
  standing <- function(out, kind = "flow", ...) {
    x <- records_of(day[-out], v = rep(1, 120 - length(out)), kind = kind)
    as.character(roll_up(x, "month", ...)$standing)
  }
  all <- rep("complete", 4)
  first <- replace(all, 1, "partial")
  # One day late is thin, two days late are cut, whatever is enough.
  expect_identical(standing(1), all)
  expect_identical(standing(1:2), first)
  expect_identical(standing(1:2, enough = 0.5), first)
  expect_identical(standing(119:120), replace(all, 4, "partial"))
  # Of February's 28 days two may be missing inside, and seven of a level.
  expect_identical(standing(c(40, 50)), all)
  expect_identical(standing(c(36, 40, 50)), replace(all, 2, "partial"))
  expect_identical(standing(c(36, 40, 50), kind = "level"), all)
  expect_identical(standing(c(36, 40, 50), enough = 0.8), all)
  expect_identical(standing(40, enough = 1), replace(all, 2, "partial"))
  # Neither the neighbour of a cut series nor the way there matters.
  cut <- records_of(
    c(day, day[-(1:9)]), v = rep(1, 231), series = "mill",
    mill = rep(c("Ard", "Bel"), c(120, 111))
  )
  both <- roll_up(cut, "month")
  expect_identical(as.character(both$standing), c(all, first))
  expect_identical(
    roll_up(roll_up(cut, "day"), "month")$standing, both$standing
  )
  quarters <- roll_up(both, "quarter")
  expect_identical(
    as.character(quarters$standing),
    c("complete", "partial", "partial", "partial")
  )
  # Of a series that leaves out half of its days three late ones are no cut.
  withr::local_seed(5)
  some <- day[c(4, sort(sample(5:120, 58)), 120)]
  x <- roll_up(
    records_of(unique(some), v = rep(1, length(unique(some)))), "month",
    cadence = "day", enough = 0.3
  )
  expect_identical(as.character(x$standing), all)
})
