# What an analyst waits for: commands from a file to a file, each in a process
# of its own beside one that does next to nothing, and a table written. Seconds
# of processor time, which other load on the machine disturbs less.
suppressPackageStartupMessages(library(backfill))
source(file.path("bench", "measure.R"))

rows <- as.numeric(Sys.getenv("BACKFILL_BENCH_ROWS", "5e6"))
folder <- tempfile("bench-")
dir.create(folder)
within <- function(name) file.path(folder, name)

# 1,000 gates, counted each day.
write_counts <- function() {
  set.seed(1)
  days <- format(as.Date("2005-01-01") + seq_len(ceiling(rows / 1000)) - 1)
  data.table::fwrite(data.frame(
    date = rep(days, each = 1000, length.out = rows),
    gate = rep(sprintf("gate-%03d", 0:999), length.out = rows),
    value = round(runif(rows, 0, 1000), 1)
  ), within("counts.csv"))
}

# The least of some runs of a child.
child <- function(command, args, runs = 3) {
  min(vapply(seq_len(runs), function(run) {
    before <- proc.time()
    status <- system2(command, args, stdout = FALSE, stderr = FALSE)
    stopifnot(status == 0)
    sum((proc.time() - before)[c("user.child", "sys.child")])
  }, 0))
}

rscript <- file.path(R.home("bin"), "Rscript")
in_r <- function(code) child(rscript, c("--vanilla", "-e", shQuote(code)))
backfill <- function(...) {
  script <- system.file("exec", "backfill", package = "backfill")
  child(rscript, c(script, ...))
}

beside <- function(what, took, floor) {
  sprintf("%-46s %8.2f %8.2f %6.1f", what, took, floor, took / floor)
}

commands <- function() {
  write_counts()
  floor <- in_r(sprintf("x <- data.table::fread('%s')", within("counts.csv")))
  bare <- in_r("1")
  inns <- demo_file("inns.csv")
  c(
    beside(
      sprintf("periods, %.0f million rows to months", rows / 1e6),
      backfill(
        "periods", within("counts.csv"), "--every", "month", "--quiet",
        "--out", within("months.csv")
      ), floor
    ),
    beside("--help", backfill("--help"), bare),
    beside(
      "periods, a small file", backfill("periods", inns, "--quiet"), bare
    ),
    beside(
      "report, a small file",
      backfill("report", inns, "--out", within("inns.html")), bare
    )
  )
}

written <- function() {
  records <- as_records(
    data.frame(
      month = rep(
        seq(as.Date("1950-01-01"), by = "month", length.out = 1000), 1000
      ),
      gate = rep(sprintf("gate-%03d", 0:999), each = 1000),
      value = round(runif(1e6, 0, 1000), 1)
    ), "month", c(value = "flow"), series = "gate"
  )
  table <- add_moving(roll_up(records, "month"), "12 months")
  plain <- as.data.frame(table)
  file <- within("table.csv")
  ours <- least(write_periods(table, file))
  back <- least(read_periods(file))
  stopifnot(identical(read_periods(file)$moving_mean, table$moving_mean))
  floor <- least(data.table::fwrite(plain, within("plain.csv")))
  c(
    beside("write_periods(), a million rows", ours, floor),
    beside("read_periods() of them", back, floor)
  )
}

write_result("whole jobs", c(
  paste(
    "Beside data.table::fread() of the file, `Rscript -e 1`, and",
    "data.table::fwrite(), which rounds"
  ),
  "", sprintf("%-46s %8s %8s %6s", "", "ours", "floor", "ratio"),
  commands(), written()
))
unlink(folder, recursive = TRUE)
