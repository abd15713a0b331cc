# A new verb is one file: with it alone beside the sources, and the NAMESPACE
# that is generated from them, R and the command line have it.

test_that("a verb with a print, a figure and a command is one file of its own", {
  source <- checkout()
  folder <- withr::local_tempdir()
  package <- file.path(folder, "backfill")
  dir.create(file.path(package, "inst"), recursive = TRUE)
  file.copy(
    file.path(source, c("DESCRIPTION", "NAMESPACE", "LICENSE", "R", "exec")),
    package, recursive = TRUE
  )
  file.copy(
    file.path(source, "inst", "extdata"), file.path(package, "inst"),
    recursive = TRUE
  )
  file.copy(test_path("toy", "toy-runs.R"), file.path(package, "R"))
  exported <- file(file.path(package, "NAMESPACE"), "a")
  writeLines(c(
    "export(longest_rise)", "S3method(describe,backfill_rises)",
    "S3method(ggplot2::autoplot,backfill_rises)"
  ), exported)
  close(exported)
  # The compiled code is that of the package under test.
  library <- file.path(folder, "library")
  built <- file.path(library, "backfill")
  dir.create(file.path(built, "libs"), recursive = TRUE)
  file.copy(
    list.files(system.file("libs", package = "backfill"), full.names = TRUE),
    file.path(built, "libs"), recursive = TRUE
  )
  made <- processx::run(
    file.path(R.home("bin"), "R"),
    c(
      "CMD", "INSTALL", "--no-libs", "--no-docs", "--no-byte-compile",
      "--no-test-load", "--no-lock", paste0("--library=", library), package
    ),
    error_on_status = FALSE
  )
  expect_identical(made$status, 0L, label = made$stderr)
  run <- function(command, ...) {
    processx::run(
      command, c(...), wd = folder, error_on_status = FALSE,
      env = c("current", R_LIBS = paste(
        c(library, .libPaths()), collapse = .Platform$path.sep
      ))
    )
  }
  rscript <- file.path(R.home("bin"), "Rscript")
  listed <- run(
    rscript, file.path(built, "exec", "backfill"), "rises",
    demo_file("inns.csv"), "--when", "month", "--series", "inn",
    "--measure", "guest_nights:flow", "--every", "month", "--least", "6",
    "--figure", "rises.png"
  )
  expect_identical(listed$status, 0L, label = listed$stderr)
  expect_match(listed$stderr, "rises 7 times in a row", fixed = TRUE)
  expect_match(listed$stdout, "inn +measure +rises")
  expect_gt(file.size(file.path(folder, "rises.png")), 5000)
  refused <- run(
    rscript, file.path(built, "exec", "backfill"), "rises",
    demo_file("inns.csv"), "--when", "month", "--series", "inn",
    "--measure", "guest_nights:flow", "--every", "month", "--least", "none"
  )
  expect_identical(refused$status, 2L)
  expect_match(refused$stderr, "--least", fixed = TRUE)
  expect_match(
    run(rscript, file.path(built, "exec", "backfill"), "--help")$stdout,
    "List the longest run +backfill rises"
  )
})
