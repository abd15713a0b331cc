test_that("duplicates of the fish quay are an error, or settled by the rule that is asked for", {
  truth <- truths()$landings
  planted <- truth$identical + truth$conflicting
  expect_error(
    lots("error"),
    sprintf("%d rows have.*%d with the same figures, %d with others", planted,
            truth$identical, truth$conflicting),
    class = "backfill_error_duplicates"
  )
  for (rule in c("keep", "first", "last", "sum", "mean")) {
    records <- lots(rule)
    account <- account(records)
    expect_identical(
      account$duplicates, c(truth$identical, truth$conflicting), label = rule
    )
    expect_identical(
      account$rows_read, account$rows_used + nrow(rows_set_aside(records)),
      label = rule
    )
    expect_identical(
      nrow(records), account$rows_used - account$rows_merged, label = rule
    )
    expect_identical(
      sum(grepl("same series", rows_set_aside(records)$reason)),
      if (rule %in% c("first", "last")) {
        planted
      } else {
        0L
      },
      label = rule
    )
  }
  expect_identical(
    account(lots("last"))$out_of_order, as.numeric(truth$late$rows)
  )
})

test_that("rows pasted twice go, and events of one minute stay", {
  lines <- c(
    "2031-05-01 09:15,quay,3", "2031-05-01 09:15,quay,4",
    "2031-05-01 09:15,quay,3", "2031-05-01 10:00,slip,", "2031-05-02 08:00,,5",
    "2031-05-01 10:00,slip,", "2031-05-02 08:00,,5", "2031-05-02 08:00,quay,5"
  )
  file <- text_file("when,place,hours", lines)
  tickets <- read_records(
    file, when = "when", measures = c(hours = "flow"), duplicates = "distinct"
  )
  expect_identical(tickets$hours, c(3, 4, NA, 5, 5))
  aside <- rows_set_aside(tickets)
  expect_identical(
    aside$reason,
    sprintf("the same in every column as line %d", c(2L, 5L, 6L))
  )
  expect_identical(aside$line, c(4L, 7L, 8L))
  told <- account(tickets)
  expect_identical(c(told$rows_read, told$rows_used), c(8L, 5L))
  # Of what is left, two rows share the time of another.
  expect_identical(sum(told$duplicates), 2L)
  # Rows are counted so, too, and the order says nothing of what stays.
  counted <- function(lines) {
    read_records(
      text_file("when,place,hours", lines), when = "when",
      measures = c(tickets = "count"), duplicates = "distinct"
    )
  }
  for (order in list(1:8, 8:1, c(3, 8, 1, 6, 2, 7, 4, 5))) {
    days <- roll_up(counted(lines[order]), "day")
    expect_identical(days$value, c(3, 2))
  }
  ran <- backfill_cli(
    "periods", file, "--when", "when", "--measure", "hours:flow",
    "--duplicates", "distinct", "--every", "month", "--format", "csv",
    "--quiet"
  )
  expect_match(ran$out[[2]], "^hours,2031-05-01,17,")
})

test_that("each rule gives what it says, in any order of the rows", {
  data <- tibble::tibble(
    day = as.Date("2031-04-01") + c(0, 1, 0, 2, 0, 1),
    kilos = c(1, 5, 2, 9, 6, NA)
  )
  settled <- function(rule, rows = 1:6) {
    records <- as_records(
      data[rows, ], "day", c(kilos = "flow"), duplicates = rule
    )
    records$kilos[order(records$day)]
  }
  expect_identical(settled("first"), c(1, 5, 9))
  expect_identical(settled("last"), c(6, NA, 9))
  expect_identical(settled("sum"), c(9, 5, 9))
  expect_identical(settled("mean"), c(3, 5, 9))
  expect_identical(settled("sum", c(6, 3, 1, 4, 2, 5)), c(9, 5, 9))
  aside <- rows_set_aside(as_records(
    data, "day", c(kilos = "flow"), duplicates = "last"
  ))
  expect_identical(
    aside$reason, sprintf("the same series and time as line %d", c(5, 6, 5))
  )
  expect_identical(aside$line, 1:3)
})

test_that("a row that repeats another is found, whatever the order and the number of series", {
  withr::local_seed(3)
  n <- 3000
  data <- tibble::tibble(
    day = as.Date("2031-01-01") + sample(0:400, n, replace = TRUE),
    port = sample(letters, n, replace = TRUE),
    hall = sample(3, n, replace = TRUE), kilos = 1
  )
  for (series in list("port", c("port", "hall"), NULL)) {
    for (rows in list(seq_len(n), order(data$day))) {
      key <- do.call(paste, data[rows, c("day", series)])
      records <- as_records(
        data[rows, ], "day", c(kilos = "flow"), series = series,
        duplicates = "first"
      )
      expect_identical(rows_set_aside(records)$line, which(duplicated(key)))
      kept <- data[rows, ][!duplicated(key), ]
      name <- if (is.null(series)) {
        rep("", nrow(kept))
      } else {
        do.call(paste, kept[series])
      }
      early <- unsplit(
        lapply(
          split(as.numeric(kept$day), name), function(day) day < cummax(day)
        ),
        name
      )
      expect_identical(account(records)$out_of_order, as.numeric(sum(early)))
    }
  }
})

test_that("the account finds the cadence, the longest gaps and what looks odd", {
  look <- account(crossings())
  expect_identical(look$cadence, "hour")
  truth <- truths()$crossings
  expect_identical(
    look$gaps$missing[1:2],
    c(truth$closed_week$rows, truth$short_outage$rows) + 0
  )
  expect_identical(format(look$gaps$after[[1]], "%F %R"), "2030-02-10 23:00")
  expect_identical(
    account(landings())$cadence, "day (Monday to Saturday)"
  )
  odd <- function(kilos, kind = "flow") {
    found <- account(records_of(
      as.Date("2031-01-01") + seq_along(kilos), kilos = kilos, kind = kind
    ))
    c(found$suspicious$what, found$notes)
  }
  expect_match(odd(rep(0, 50)), "every value is 0")
  expect_match(
    odd(c(20:40, -99, 41:60, -99)), "2 rows it is -99.*`missing` is \"-99\"",
    all = FALSE
  )
  expect_match(odd(c(1:60 %% 7, rep(3, 70))), "3 stands 7[01] times in a row")
  expect_match(odd(c(5, -2, 7)), "1 value is below zero")
  expect_match(odd(c(5, 7, 6, 9), "counter"), "falls 1 time")
  # Not odd: a last value of 0, a season without catches.
  expect_identical(odd(c(3, 9, 4, 8, 2, 6, 0)), character())
  expect_identical(odd(c(1:60 %% 7, rep(0, 70))), character())
})

test_that("each series has a cadence of its own, and gaps are counted in its slots", {
  # Of what was corrected, the first entry.
  ledger <- utils::read.csv(demo_file("ledger.csv"))
  ledger <- ledger[!duplicated(ledger[c("item", "period")]), ]
  look_at <- function(data) {
    account(as_records(data, "period", c(value = "level"), series = "item"))
  }
  look <- look_at(ledger)
  expect_identical(
    look$cadence,
    paste(
      "month for berths let and nets mended, quarter for crew signed and rope",
      "bought and week for ice sold"
    )
  )
  expect_identical(nrow(look$gaps), 0L)
  ice <- which(ledger$item == "ice sold")
  gaps <- look_at(ledger[-ice[21:23], ])$gaps
  expect_identical(c(gaps$item, gaps$missing), c("ice sold", "3"))
  # Two records are too few to tell, and what the others do says nothing of
  # them.
  day <- as.Date("2031-01-01") + 0:59
  sparse <- records_of(
    c(day, day[c(10, 40)]), stall = rep(c("a", "b"), c(60, 2)), kilos = 1:62,
    series = "stall"
  )
  expect_identical(account(sparse)$cadence, "day for a; irregularly for b")
  # A stall closed on Sundays beside one that is not.
  open <- as.POSIXlt(day)$wday != 0
  closed <- records_of(
    c(day, day[open]), stall = rep(c("a", "b"), c(60, sum(open))), kilos = 1,
    series = "stall"
  )
  expect_identical(
    account(closed)$cadence, "day for a and day (Monday to Saturday) for b"
  )
  expect_identical(roll_up(closed, "month")$coverage[c(1, 4)], c(1, 1))
  expect_error(
    roll_up(
      as_records(ledger, "period", c(value = "level"), series = "item"),
      "month"
    ),
    "one per quarter for crew signed and rope bought, which",
    class = "backfill_error_every"
  )
})

test_that("of a regular series with holes, each hole is found and each month's coverage is what is left", {
  withr::local_seed(8)
  start <- as.POSIXct("2030-01-01", tz = "WET")
  every_day <- seq(as.Date("2030-01-01"), as.Date("2030-12-31"), by = "day")
  six <- lapply(
    c(0, 6, 12, 18),
    function(hour) seq(start + hour * 3600, by = "DSTday", length.out = 365)
  )
  whole <- list( # by base R's own sequences, over both changes of the clock
    "30 minutes" = seq(
      start, as.POSIXct("2030-12-31 23:30", tz = "WET"), by = "30 min"
    ),
    "6 hours" = sort(do.call(c, six)),
    "day (Monday to Friday)" = every_day[as.POSIXlt(every_day)$wday %in% 1:5],
    month = seq(as.Date("2000-01-01"), by = "month", length.out = 300)
  )
  for (cadence in names(whole)) {
    when <- whole[[cadence]]
    hole <- cumsum(c(
      5,
      sample(
        20:60, 3
      )
    )) # where each starts, with one more record missing in each than the last
    gone <- unlist(Map(
      function(from, size) from + seq_len(size) - 1, hole, 1:4
    ))
    left <- records_of(when[-gone], kilos = 1, zone = "WET")
    look <- account(left)
    expect_identical(look$cadence, cadence)
    expect_identical(look$gaps$missing, c(4, 3, 2), label = cadence)
    expect_equal(
      as.numeric(look$gaps$after), as.numeric(when[hole[4:2] - 1]),
      label = cadence
    )
    rolled <- roll_up(left, if (cadence == "month") "year" else "month")
    period <- format(when, if (cadence == "month") "%Y" else "%Y-%m")
    expect_equal(
      rolled$coverage, as.vector(table(period[-gone]) / table(period)),
      label = cadence
    )
  }
})

test_that("of days with a record each, one that is missing is a gap", {
  day <- as.Date("2031-01-01") + c(0:9, 11:20)
  gaps <- account(records_of(day, kilos = seq_along(day)))$gaps
  expect_identical(gaps$missing, 1)
  expect_identical(
    c(gaps$after, gaps$before), as.Date(c("2031-01-10", "2031-01-12"))
  )
})

test_that("the account prints as a page and becomes a data frame that agrees with it", {
  records <- lots("last", missing = "unsold")
  account <- as.data.frame(account(records))
  count <- function(fact) account$count[account$fact == fact]
  expect_identical(
    count("rows read"), count("rows used") + count("rows set aside")
  )
  expect_identical(count("price missing: unsold"), 6)
  expect_identical(
    account$text[account$fact == "cadence"], "day (Monday to Saturday)"
  )
  page <- withr::with_options(
    list(cli.width = 100), capture.output(print(account(records)))
  )
  expect_match(
    page[[1]],
    "9,024 rows read, 9,016 used, from 2028-01-03 to 2031-12-30, 8 set aside"
  )
  expect_match(
    page,
    paste(
      "7 rows have the series and time of another \\(4 with the same",
      "figures, 3 with others\\)"
    ),
    all = FALSE
  )
  expect_match(
    page,
    paste(
      "Longest gaps: 9 records of cod / Whimbrel between 2031-02-14 and",
      "2031-02-26"
    ),
    all = FALSE
  )
})

test_that("dates across are in an order of ours, of which nothing is said", {
  grid <- cbind(
    year = 2028:2031,
    matrix(1:48, 4, byrow = TRUE, dimnames = list(NULL, month.abb))
  )
  file <- withr::local_tempfile(fileext = ".csv")
  write.csv(grid, file, row.names = FALSE)
  x <- read_records(
    file, c(year = "year", month = "month"), c(v = "level"),
    layout = "dates across"
  )
  expect_identical(account(x)$out_of_order, 0L)
  expect_no_match(capture.output(print(account(x))), "out of order")
})

test_that("what several series have together is said to be theirs", {
  two <- roll_up(as_records(
    data.frame(
      day = as.Date("2031-01-01") + rep(0:27, 2), g = rep(1:2, each = 28),
      a = 1, b = 1
    ), "day", c(a = "flow", b = "flow"), series = "g"
  ), "week")
  expect_output(
    print(check_identity(two, "a = b")), "holds in 6 of 6 weeks of 2 series"
  )
})
