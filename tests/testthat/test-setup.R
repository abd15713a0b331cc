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
