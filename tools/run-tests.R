# Runs the tests against the installed package, or those of the files named. The
# last line counts them.
suppressPackageStartupMessages({
  library(testthat)
  library(backfill)
})
named <- commandArgs(trailingOnly = TRUE)
results <- as.data.frame(test_dir(
  "tests/testthat", filter = if (length(named) > 0) sprintf(
    "^(%s)$", paste(named, collapse = "|")
  ),
  package = "backfill", load_package = "installed", reporter = "summary",
  stop_on_failure = FALSE
))
failed <- sum(results$failed) + sum(results$error)
skipped <- sum(results$skipped)
cat(sprintf("\n%d passed, %d failed%s\n", sum(results$passed), failed,
            if (skipped > 0) sprintf(", %d skipped", skipped) else ""))
# A run without a single test is no success.
if (failed > 0 || sum(results$passed) == 0) quit(save = "no", status = 1)
