# How long the roll-up takes, beside the bare floor (sum() over the values) and general-purpose means (data.table
# grouping by a computed column, tapply() of base R): 10 million records of 1,000 series over two years, sorted by
# series and time, and shuffled, to days, ISO weeks and months, in UTC and in a zone with daylight saving. Times are the
# least of runs in turn, in one process. Memory is the most that the process held during the roll-up, of R's vectors and
# of the kernels' own, beside the records' columns.
suppressPackageStartupMessages(library(backfill))
source(file.path("bench", "measure.R"))

rows <- as.numeric(Sys.getenv("BACKFILL_BENCH_ROWS", "1e7"))
series_count <- 1000

make_records <- function(rows, series_count, zone, sorted, seed = 1) {
  set.seed(seed)
  span <- as.numeric(as.POSIXct(c("2030-01-01", "2031-12-31"), tz = zone))
  each <- ceiling(rows / series_count)
  # Seconds at random, in order within each series.
  instant <- rep(sort(span[[1]] + floor(runif(each, 0, diff(span)))), series_count)[seq_len(rows)]
  name <- rep(sprintf("gate-%04d", seq_len(series_count)), each = each, length.out = rows)
  value <- runif(rows, 0, 1000)
  if (!sorted) {
    order <- sample(rows)
    instant <- instant[order]
    name <- name[order]
    value <- value[order]
  }
  as_records(tibble::new_tibble(list(when = .POSIXct(instant, tz = zone), gate = name, value = value), nrow = rows),
             "when", c(value = "flow"), series = "gate", zone = zone, duplicates = "keep")
}

period_column <- list(
  day = function(when, zone) as.Date(when, tz = zone),
  week = function(when, zone) {
    day <- as.Date(when, tz = zone)
    day - (as.POSIXlt(day)$wday + 6L) %% 7L
  },
  month = function(when, zone) {
    part <- as.POSIXlt(when, tz = zone)
    part$year * 12L + part$mon
  }
)

grouped <- function(x, every, zone) {
  data <- data.table::data.table(gate = x$gate, value = x$value, period = period_column[[every]](x$when, zone))
  data[, list(value = sum(value)), by = c("gate", "period")]
}

rows_out <- list()
for (zone in c("UTC", "CET")) {
  for (sorted in c(TRUE, FALSE)) {
    x <- make_records(rows, series_count, zone, sorted)
    floor <- least(sum(x$value))
    for (every in names(period_column)) {
      ours <- least(roll_up(x, every, cadence = "irregular"))
      found <- least(roll_up(x, every))
      table <- least(grouped(x, every, zone), runs = 1)
      memory <- most_memory(roll_up(x, every)) / (rows * 24)
      rows_out[[length(rows_out) + 1]] <- data.frame(
        zone = zone, order = if (sorted) "sorted" else "shuffled", every = every, sum = floor, roll_up = found,
        "given cadence" = ours, data.table = table, "times sum" = found / floor, "data.table times" = table / found,
        memory = memory, check.names = FALSE
      )
      print(rows_out[[length(rows_out)]], digits = 3)
    }
    rm(x)
  }
}
