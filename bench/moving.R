# How long changes and moving windows take, beside bare passes over the same figures and what base R has for the work.
# Times are the least of runs in turn, in one process.
suppressPackageStartupMessages(library(backfill))
source(file.path("bench", "measure.R"))

points <- as.numeric(Sys.getenv("BACKFILL_BENCH_ROWS", "1e7"))
set.seed(4)
value <- runif(points)
kernel <- function(value, stat, share = 0) {
  n <- length(value)
  backfill:::moving_cpp(rep(1L, n), as.numeric(seq_len(n)), value, 364L, 0L, numeric(), FALSE, stat, share, 1)
}
