test_that("the rates that come with the package are of verbs and worlds that there are", {
  rates <- verdict_rates()
  expect_gt(nrow(rates), 500)
  verbs <- unique(sub("[(].*", "", rates$verb))
  expect_true(all(verbs %in% getNamespaceExports("backfill")))
  expect_true(all(rates$rate >= 0 & rates$rate <= 1, na.rm = TRUE))
  expect_setequal(rates$kind, c("wrong", "right"))
  # Each has what it is compared with, and what it would find.
  one <- verdict_rates("trend_line")
  expect_identical(unique(one$verb), "trend_line()")
  noise <- one[one$world == "noise" & one$verdict == "a trend", ]
  expect_true(all(noise$rate <= 0.08))
  expect_output(print(one), "stated as wrong in 5%")
  drawn <- ggplot2::layer_data(autoplot(one), 2)
  expect_true(max(as.numeric(drawn$label)) >= 100 * max(noise$rate) - 1)
  expect_error(verdict_rates("add_growth"), class = "backfill_error_argument")
})

test_that("rates are made by a program that runs", {
  folder <- withr::local_tempdir()
  file.copy(checkout("bench"), folder, recursive = TRUE)
  dir.create(file.path(folder, "inst"))
  made <- processx::run(
    file.path(R.home("bin"), "Rscript"),
    c("--vanilla", "bench/rates.R", "season_spells"), wd = folder,
    env = c(
      "current", RATES = "quick",
      R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep)
    ), error_on_status = FALSE
  )
  expect_identical(made$status, 0L, label = made$stderr)
  expect_match(made$stdout, "[0-9]+ rates, [0-9]+ of wrong verdicts")
  # The quick way writes nothing.
  expect_length(list.files(file.path(folder, "inst")), 0)
})
