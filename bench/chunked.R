# A file of 30 million rows, rolled up in chunks: how long it takes, and the
# most memory that the process takes, in all. Run on its own, as what a process
# has held before it may hold on to.
suppressPackageStartupMessages(library(backfill))
source(file.path("bench", "measure.R"))

rows <- 3 * as.numeric(Sys.getenv("BACKFILL_BENCH_ROWS", "1e7"))
file <- tempfile(fileext = ".csv")

# In another process, whose memory is not counted.
write_file <- function(file, rows) {
  code <- sprintf(paste(
    "set.seed(1); n <- %.0f; each <- 1e6; day <-",
    "format(as.Date('2005-01-01') + seq_len(n / 1000) - 1);",
    "for (k in seq_len(n / each)) { at <- (k - 1) * each + seq_len(each);",
    "data.table::fwrite(data.frame(date = day[(at - 1) %%/%% 1000 + 1],",
    "gate = sprintf('gate-%%03d', (at - 1) %%%% 1000), value =",
    "round(runif(each, 0, 1000), 1)), '%s', append = k > 1) }"
  ), rows, file)
  system2(
    file.path(R.home("bin"), "Rscript"), c("--vanilla", "-e", shQuote(code))
  )
}
write_file(file, rows)

time <- system.time({
  source_of_rows <- read_records(
    file, "date", c(value = "flow"), series = "gate", chunked = TRUE
  )
  monthly <- roll_up(source_of_rows, "month")
})[["elapsed"]]
write_result("chunked", sprintf(
  paste(
    "%.0f million rows (%.0f MB) in chunks, to months of 1,000 series: %.1f",
    "s; most memory of the process %.2f GB"
  ),
  rows / 1e6, file.size(file) / 1e6, time, resident("VmHWM") / 1e9
))
stopifnot(account(source_of_rows)$rows_used == rows)
unlink(file)
