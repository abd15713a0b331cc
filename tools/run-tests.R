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
# A warning may be a column that a test asks for and that is not there.
warned <- sum(results$warning)
cat(sprintf("\n%d passed, %d failed%s%s\n", sum(results$passed), failed,
            if (warned > 0) sprintf(", %d warned", warned) else "",
            if (skipped > 0) sprintf(", %d skipped", skipped) else ""))
# A run without a single test is no success.
if (failed + warned > 0 || sum(results$passed) == 0) {
  quit(save = "no", status = 1)
}
