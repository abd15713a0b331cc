# The kernels know nothing of R: their own tests are C++, built with the checks
# of undefined behaviour.

test_that("the kernels hold by themselves", {
  skip_unless_thorough()
  skip_if(Sys.which("g++") == "", "no g++ at hand")
  program <- withr::local_tempfile()
  built <- processx::run("g++", c(
    "-std=gnu++17", "-O1", "-Wall", "-Wextra", "-fsanitize=undefined",
    "-fno-sanitize-recover=all", "-pthread",
    paste0("-I", checkout("src", "kernels")),
    checkout("tests", "kernels", "unit.cpp"), "-o", program
  ), error_on_status = FALSE)
  expect_identical(built$status, 0L, info = built$stderr)
  expect_identical(built$stderr, "")
  ran <- processx::run(program, error_on_status = FALSE)
  expect_identical(ran$status, 0L, info = ran$stderr)
})

test_that("results are the same with any number of threads", {
  day <- as.Date("2031-01-01") + 0:999
  daily <- roll_up(
    records_of(
      rep(day, 150), boat = rep(sprintf("%03d", 1:150), each = 1000),
      kilos = 1:150000 %% 97 / 7, series = "boat"
    ),
    "day"
  )
  averaged <- function(threads) {
    withr::local_options(backfill.threads = threads)
    add_moving(daily, 28)
  }
  expect_identical(averaged(3), averaged(1))
  expect_error(averaged("many"), "backfill.threads")
})
