test_that("the setup finds what is missing or too old, and nothing else", {
  missing_from <- function(..., arguments = "asked.for") {
    folder <- withr::local_tempdir()
    writeLines(
      c(
        "Package: x", "Imports: ",
        paste0("    ", paste(c(...), collapse = ",\n    ")),
        "Suggests: only.for.tests"
      ),
      file.path(folder, "DESCRIPTION")
    )
    script <- checkout("tools", "missing-packages.R")
    processx::run(
      file.path(R.home("bin"), "Rscript"), c("--vanilla", script, arguments),
      wd = folder
    )$stdout
  }
  expect_identical(missing_from("utils", "testthat (>= 1.0)"), "asked.for")
  expect_identical(
    missing_from("utils (>= 99.0)", "no.such.package", "stats"),
    "utils no.such.package asked.for"
  )
  expect_identical(missing_from("stats", arguments = "--all"), "only.for.tests")
})

test_that("a command leaves the options of the session as they were", {
  before <- options()
  folder <- withr::local_tempdir()
  ran <- command_line("periods", demo_file("inns.csv"), "--quiet", dir = folder)
  expect_identical(ran$status, 0L)
  expect_identical(options()[names(before)], before)
  # Also where data.table comes with the command.
  code <- paste(
    "backfill:::run_command_line(c('inspect', backfill::demo_file('inns.csv')))",
    "stopifnot(isFALSE(getOption('datatable.verbose')))", sep = "; "
  )
  ran <- processx::run(
    file.path(R.home("bin"), "Rscript"), c("--vanilla", "-e", code),
    error_on_status = FALSE,
    env = c("current", R_LIBS = paste(.libPaths(), collapse = ":"))
  )
  expect_identical(ran$status, 0L, label = ran$stderr)
})
