# Periods as base R has them, and results in a document.

test_that("time series and matrices hold the figures at their periods, and lead back", {
  monthly <- roll_up(inns(), "month")
  series <- stats::as.ts(monthly)
  expect_identical(stats::tsp(series)[3], 12)
  expect_identical(stats::start(series), c(2028, 2))
  whole <- as.data.frame(monthly[monthly$inn == "Hearth", ])
  expect_identical(as.numeric(series[, "Hearth"]), whole$value)
  grid <- as.matrix(monthly)
  expect_identical(rownames(grid)[c(1, 46)], c("2028-02", "2031-11"))
  expect_identical(unname(grid[, "Hearth"]), whole$value)
  # The way back: the same figures at the same months.
  back <- as_records(
    series[, "Hearth", drop = TRUE], "month", c(nights = "flow")
  )
  again <- roll_up(back, "month")
  expect_identical(again$value[!is.na(again$value)], stats::na.omit(
    whole$value
  )[seq_along(stats::na.omit(whole$value))])
  expect_identical(min(again$period), min(whole$period))
  # Quarters of a year, working days and other columns.
  growth <- add_growth(roll_up(inns(), "quarter"), "1 year")
  of_growth <- stats::as.ts(growth, of = "growth_1_year")
  expect_identical(stats::frequency(of_growth), 4)
  expect_identical(stats::start(of_growth), c(2028, 1))
  days <- roll_up(crossings(), "day")
  expect_identical(stats::frequency(stats::as.ts(days)), 7)
  expect_identical(ncol(as.matrix(days)), 2L)
  # What is partial is left out unless it is asked for.
  cut <- roll_up(crossings(), "month")
  last <- nrow(as.matrix(cut))
  expect_true(is.na(as.matrix(cut)[last, "tide"]))
  expect_false(is.na(as.matrix(cut, partial = TRUE)[last, "tide"]))
  expect_error(stats::as.ts(cut, of = "no such"), class = "backfill_error")
})

test_that("a plain data frame knows nothing of periods", {
  plain <- as.data.frame(roll_up(inns(), "month"))
  expect_identical(class(plain), "data.frame")
  expect_null(attr(plain, "backfill"))
})

test_that("in a document a result is its sentences and a table", {
  skip_if_not_installed("knitr")
  index <- seasonal_index(roll_up(inns(), "month"))
  text <- strsplit(as.character(knitr::knit_print(index)), "\n")[[1]]
  said <- gsub("\\s+", " ", paste(text, collapse = " "))
  expect_match(said, "Lantern: August runs 105% above an average month")
  expect_match(text, "^[|] January [|]", all = FALSE)
  records <- as.character(knitr::knit_print(inns()))
  expect_match(records, "180 rows read")
  expect_no_match(records, "[|]")
})
