# How long reading takes beside data.table::fread() alone, the bare floor: a
# file of 10 million rows and three columns (date, gate, value), with the dates
# in ISO 8601, which fread() reads itself, and in other forms. Times are the
# least of runs in turn, in one process, by the clock and by the processor,
# which other load on the machine disturbs less; memory is the most that R held
# during one run, beside the columns' numeric size.
suppressPackageStartupMessages(library(backfill))
source(file.path("bench", "measure.R"))

rows <- as.numeric(Sys.getenv("BACKFILL_BENCH_ROWS", "1e7"))
runs <- 5
folder <- tempfile("bench-")
dir.create(folder)

write_forms <- function() {
  set.seed(1)
  days <- as.Date("2005-01-01") + seq_len(ceiling(rows / 1000)) - 1
  at <- rep(seq_along(days), each = 1000, length.out = rows)
  data <- data.frame(
    date = "", gate = rep(sprintf("gate-%03d", 0:999), length.out = rows),
    value = round(runif(rows, 0, 1000), 1)
  )
  forms <- list(
    iso = format(days), dmy = format(days, "%d/%m/%Y"),
    named = format(days, "%d %b %Y"),
    serial = as.character(as.numeric(days) + 25569)
  )
  for (form in names(forms)) {
    data$date <- forms[[form]][at]
    data.table::fwrite(data, file.path(folder, paste0(form, ".csv")))
  }
  # Every text a different one: a second each, by a clock with daylight saving.
  data$date <- format(
    as.POSIXct("2028-01-01", tz = "UTC") + 20 * seq_len(rows),
    "%Y-%m-%d %H:%M:%S"
  )
  data.table::fwrite(data, file.path(folder, "times.csv"))
  c(names(forms), "times")
}

alone <- function(file) data.table::fread(file, showProgress = FALSE)
ours <- function(file, form) {
  read_records(
    file, "date", c(value = "flow"), series = "gate",
    date_order = if (form == "dmy") "dmy",
    date_unit = if (form == "serial") "day",
    zone = if (form == "times") "WET" else "UTC"
  )
}

seconds <- function(code) {
  gc()
  time <- system.time(code)
  c(time[["elapsed"]], time[["user.self"]] + time[["sys.self"]])
}

# The most that R's vectors took during a call, in bytes, beside what they took
# before.
most_bytes <- function(code) {
  before <- sum(gc(reset = TRUE)[, 2])
  force(code)
  (sum(gc()[, 6]) - before) * 2^20
}

lines <- c(
  sprintf(
    "%.0f million rows, 3 columns; seconds, the least of %d runs in turn.",
    rows / 1e6, runs
  ), "",
  sprintf(
    "%-8s %12s %14s %8s %20s %22s", "dates", "fread alone", "read_records",
    "ratio", "ratio by processor", "most memory / numeric"
  )
)
for (form in write_forms()) {
  file <- file.path(folder, paste0(form, ".csv"))
  # Of fread() and of ours by the clock, and of both by the processor; the first
  # run warms up.
  taken <- vapply(seq_len(runs + 1), function(run) {
    c(rbind(seconds(alone(file)), seconds(ours(file, form))))
  }, numeric(4))[, -1]
  least <- apply(taken, 1, min)
  memory <- most_bytes(ours(file, form)) / (rows * 3 * 8)
  lines <- c(
    lines,
    sprintf(
      "%-8s %12.2f %14.2f %8.2f %20.2f %22.2f", form, least[[1]], least[[2]],
      least[[2]] / least[[1]], least[[4]] / least[[3]], memory
    )
  )
}
write_result("reading", lines)
unlink(folder, recursive = TRUE)
