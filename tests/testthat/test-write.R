test_that("what is written reads back exactly, with every column", {
  withr::local_seed(8)
  day <- as.Date("2031-01-01") + 0:99
  daily <- add_growth(roll_up(
    records_of(day, kilos = exp(rnorm(100, sd = 20))), "day"
  ))
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(daily, file)
  back <- utils::read.csv(file, colClasses = c(period = "Date"))
  expect_identical(names(back), names(daily))
  for (column in c("value", "growth_1_day", "coverage")) {
    expect_identical(as.numeric(back[[column]]), daily[[column]])
  }
  expect_identical(back$period, daily$period)
  expect_identical(back$standing, as.character(daily$standing))
  expect_false(any(grepl("NA", readLines(file))))
})

test_that("no input is overwritten, and a failure leaves nothing behind", {
  file <- text_file("date,kilos", "2031-04-01,5", "2031-04-02,6")
  before <- readLines(file)
  daily <- roll_up(read_records(file, "date", c(kilos = "flow")), "day")
  expect_error(
    write_periods(daily, file), "not overwritten", class = "backfill_error_file"
  )
  expect_error(
    write_periods(daily, file.path(dirname(file), ".", basename(file))),
    class = "backfill_error_file"
  )
  expect_error(
    write_periods(daily, file.path(dirname(file), "none", "x.csv")),
    class = "backfill_error_file"
  )
  expect_error(
    write_periods(data.frame(), tempfile()), "not a periods table",
    class = "backfill_error_input"
  )
  home <- withr::local_dir(dirname(file))
  from_here <- roll_up(
    read_records(basename(file), "date", c(kilos = "flow")), "day"
  )
  setwd(home)
  expect_error(
    write_periods(from_here, file), "not overwritten",
    class = "backfill_error_file"
  )
  daily$odd <- lapply(seq_len(nrow(daily)), function(i) quote(x))
  expect_error(write_periods(daily, file.path(dirname(file), "out.csv")))
  expect_identical(
    list.files(dirname(file), all.files = TRUE, no.. = TRUE), basename(file)
  )
  expect_identical(readLines(file), before)
})

test_that("what a killed run has left goes, and what is being written stays", {
  folder <- withr::local_tempdir()
  left <- file.path(folder, c(".backfill-0a1.csv", ".backfill-ff2.csv"))
  file.create(left)
  Sys.setFileTime(left[[1]], Sys.time() - 7200)
  daily <- roll_up(as_records(
    data.frame(day = as.Date("2031-04-01") + 0:1, kilos = 5:6), "day",
    c(kilos = "flow")
  ), "day")
  write_periods(daily, file.path(folder, "out.csv"))
  expect_identical(file.exists(left), c(FALSE, TRUE))
})
