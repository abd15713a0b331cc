library(testthat)
library(backfill)

test_check("backfill")
