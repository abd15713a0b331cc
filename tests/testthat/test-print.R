test_that("periods print as sentences, then rows, and both say what the table holds", {
  monthly <- add_growth(
    roll_up(crossings(), "month", enough = 0.95), over = "1 year"
  )
  printed <- withr::with_options(
    list(cli.width = 100), capture.output(print(monthly, n = 3))
  )
  expect_match(
    printed[[1]],
    paste(
      "^36 months from 2029-01 to 2031-12 of market \\(flow, added up\\)",
      "and tide"
    )
  )
  expect_match(
    printed,
    "66 are complete and 6 are partial. Partial: 2029-01, 2030-02 and 2031-12",
    all = FALSE
  )
  latest <- monthly[monthly$period == as.Date("2031-11-01"), ]
  figures <- sprintf(
    "2031-11): market %+.1f%% and tide %+.1f%%.", latest$growth_1_year[1],
    latest$growth_1_year[2]
  )
  expect_match(printed, figures, fixed = TRUE, all = FALSE)
  withheld <- sum(is.na(monthly$growth_1_year))
  expect_match(
    printed, sprintf("growth_1_year is missing in %d rows", withheld),
    all = FALSE
  )
  expect_identical(sum(grepl("^market +20(29|3)", printed)), 3L)
  expect_match(printed[[length(printed)]], "69 more rows")
})

test_that("the account prints each reason with its count, and each row with its line", {
  printed <- withr::with_options(
    list(cli.width = 100), capture.output(print(account(crossings())))
  )
  expect_match(
    printed[[1]],
    paste(
      "25,572 rows read, 25,565 used, from 2029-01-09 06:00 WET to",
      "2031-12-17 21:00 WET"
    )
  )
  expect_match(
    printed, "^10,535  time    2030-03-31 01:00  no such time in zone WET",
    all = FALSE
  )
  account <- as.data.frame(account(crossings()))
  expect_identical(
    account$count[account$fact == "set aside: not a number"], 2
  )
})

test_that("a series that is small beside the others of its measure keeps its digits", {
  year <- rep(c("2030-01", "2031-01"), each = 2)
  records <- records_of(
    year, line = c("price", "visits", "price", "visits"), series = "line",
    figure = c(1.648, 6894.25, 1.652, 7001.5), kind = "level"
  )
  printed <- capture.output(print(roll_up(
    records, "year", cadence = "irregular"
  )))
  expect_match(printed, "2030 +1[.]648 ", all = FALSE)
  expect_match(printed, "2030 +6,894 ", all = FALSE)
})

test_that("figures are rounded for reading, the same way down a column", {
  expect_identical(
    backfill:::format_figures(c(1234567, 12, NA)), c("1,234,567", "12", NA)
  )
  expect_identical(
    trimws(backfill:::format_figures(c(0.123456, 12.5))), c("0.12", "12.50")
  )
  # Of a coverage only the whole is 100%; other shares are rounded.
  expect_identical(
    backfill:::format_coverage(c(1, 0.9999, 0.5, NA)),
    c("100.0%", "99.9%", "50.0%", NA)
  )
  expect_identical(
    backfill:::format_share(c(1, 0.8065, 0.16667, NA)),
    c("100.0%", "80.7%", "16.7%", NA)
  )
})

test_that("of a part of a table no count of the whole is said", {
  monthly <- add_growth(roll_up(crossings(), "month", enough = 0.95))
  printed <- capture.output(print(
    monthly[monthly$period >= as.Date("2031-11-01"), ]
  ))
  expect_match(
    printed, "growth_1_month is missing in 2 of these rows.", fixed = TRUE,
    all = FALSE
  )
})

test_that("a cadence that leaves most out is questioned", {
  withr::local_seed(9)
  day <- as.Date("2031-01-01") + sort(sample(0:364, 400, replace = TRUE))
  sales <- roll_up(records_of(day, kilos = seq_along(day)), "month")
  hint <- "events that come when they come"
  printed <- function(x) {
    gsub("\\s+", " ", paste(capture.output(print(x)), collapse = " "))
  }
  expect_match(printed(sales), hint)
  expect_no_match(printed(roll_up(crossings(), "month")), hint)
})

test_that("whatever is printed ends its last line", {
  monthly <- roll_up(inns(), "month")
  for (
    x in list(
      monthly, monthly[0, ], inns(), account(inns()),
      measure("level", "kg")
    )
  ) {
    file <- withr::local_tempfile()
    withr::with_output_sink(file, print(x))
    bytes <- readBin(file, "raw", file.size(file))
    expect_identical(
      bytes[length(bytes)], charToRaw("\n"), label = class(x)[[1]]
    )
  }
})

test_that("what is rounded to nothing has no sign, and no change has two", {
  cells <- backfill:::format_cells
  for (unit in list(NULL, "%", "% of", "points", "return", "share")) {
    for (x in c(-1e-9, 1e-9)) {
      shown <- cells(c(x, 12.5), unit)[[1]]
      expect_false(grepl("^ *[-+]", shown), label = paste(unit, x))
    }
    expect_match(cells(c(-9.5, 12.5), unit)[[1]], "^ *-")
  }
  x <- as_records(data.frame(
    month = seq(as.Date("2031-01-01"), by = "month", length.out = 18),
    rate = 10 + (1:18)^2
  ), "month", list(rate = measure("level", "%")))
  grown <- add_growth(roll_up(x, "month"), as = "points")
  said <- capture.output(print(latest(grown, of = "points_1_month")))
  expect_false(any(grepl("[+][+]", said)))
  expect_true(any(grepl(", [+]2[.]0 pp on", said)))
})
