# Records in DuckDB against the same ones in memory, where that is installed: it
# takes long to compile, so that no other test needs it.

test_that("random records give the same periods in DuckDB as in memory", {
  skip_if_not_installed("duckdb")
  base <- duckdb_base()
  rounds <- as.integer(Sys.getenv("BACKFILL_ORACLE", "100"))
  for (seed in seq_len(rounds)) {
    case <- elsewhere_case(seed)
    expect_alike(
      rolled(case_there(case, base), case), rolled(case_here(case), case),
      paste("case", seed)
    )
  }
})
