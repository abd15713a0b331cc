# The kernels know nothing of R: their own tests are C++, built with the checks
# of undefined behaviour.

test_that("the kernels hold by themselves", {
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
