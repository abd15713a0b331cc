# How long the roll-up takes, beside the bare floor (sum() over the values) and
# general-purpose means (data.table grouping by a computed column, tapply() of
# base R): 10 million records of 1,000 series over two years, sorted by series
# and time, and shuffled, to days, ISO weeks and months, in UTC and in a zone
# with daylight saving. Times are the least of runs in turn, in one process.
# Memory is the most that the process held during the roll-up, of R's vectors
# and of the kernels' own, beside the records' columns.
suppressPackageStartupMessages(library(backfill))
source(file.path("bench", "measure.R"))

rows <- as.numeric(Sys.getenv("BACKFILL_BENCH_ROWS", "1e7"))
series_count <- 1000

make_records <- function(rows, series_count, zone, sorted, seed = 1) {
  set.seed(seed)
  span <- as.numeric(as.POSIXct(c("2030-01-01", "2031-12-31"), tz = zone))
  each <- ceiling(rows / series_count)
  # Seconds at random, in order within each series.
  instant <- rep(
    sort(span[[1]] + floor(runif(each, 0, diff(span)))), series_count
  )[seq_len(rows)]
  name <- rep(
    sprintf("gate-%04d", seq_len(series_count)), each = each, length.out = rows
  )
  value <- runif(rows, 0, 1000)
  if (!sorted) {
    order <- sample(rows)
    instant <- instant[order]
    name <- name[order]
    value <- value[order]
  }
  as_records(
    tibble::new_tibble(
      list(when = .POSIXct(instant, tz = zone), gate = name, value = value),
      nrow = rows
    ),
    "when", c(value = "flow"), series = "gate", zone = zone, duplicates = "keep"
  )
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

# As one would write it.
grouped <- function(x, every, zone) {
  data <- data.table::data.table(
    gate = x$gate, value = x$value,
    period = period_column[[every]](x$when, zone)
  )
  data[, list(value = sum(value)), by = c("gate", "period")]
}

measured <- list()
for (zone in c("UTC", "CET")) {
  for (sorted in c(TRUE, FALSE)) {
    x <- make_records(rows, series_count, zone, sorted)
    floor <- least(sum(x$value))
    for (every in names(period_column)) {
      ours <- least(roll_up(x, every))
      table <- least(grouped(x, every, zone), runs = 1)
      base <- if (every == "month") least(
        tapply(x$value, list(x$gate, period_column$month(x$when, zone)), sum), 1
      )
      measured[[length(measured) + 1]] <- data.frame(
        zone = zone, order = if (sorted) "sorted" else "shuffled",
        every = every, sum = floor, roll_up = ours,
        by_sum = ours / floor, table = table / ours, base = if (is.null(base)) {
          NA
        } else {
          base / ours
        },
        memory = most_memory(roll_up(x, every)) / (rows * 24)
      )
    }
    rm(x)
  }
}
measured <- do.call(rbind, measured)

growth <- vapply(c(0.1, 0.3, 1, 3), function(share) {
  x <- make_records(rows * share, series_count, "CET", TRUE)
  c(rows * share / 1e6, least(roll_up(x, "month"), 1))
}, numeric(2))

many <- local({
  month <- seq(as.Date("2020-01-01"), by = "month", length.out = 120)
  as_records(
    tibble::new_tibble(list(
      when = rep(month, 1e5),
      gate = rep(sprintf("gate-%06d", 1:1e5), each = 120),
      value = runif(1.2e7)
    ), nrow = 1.2e7),
    "when", c(value = "flow"), series = "gate", duplicates = "keep"
  )
})
many_seconds <- c(
  least(roll_up(many, "month"), 1), least(roll_up(many, "year"), 1)
)

write_result("roll-up", c(
  sprintf(
    paste(
      "%.0f million records of 1,000 series over two years; seconds, the",
      "least of 3 runs in turn."
    ),
    rows / 1e6
  ),
  paste(
    "\"/ sum\": times the bare sum() over the values; \"data.table\",",
    "\"base\": how many times as long grouping by a"
  ),
  paste(
    "computed column takes there; memory: the most beside the records'",
    "columns (24 bytes a record)."
  ), "",
  sprintf(
    "%-5s %-9s %-6s %8s %8s %8s %11s %6s %8s", "zone", "order", "every", "sum",
    "roll_up", "/ sum", "data.table", "base", "memory"
  ),
  with(
    measured,
    sprintf(
      "%-5s %-9s %-6s %8.3f %8.3f %8.1f %11.1f %6s %8.2f", zone, order, every,
      sum, roll_up, by_sum, table,
      ifelse(is.na(base), "", sprintf("%.1f", base)), memory
    )
  ),
  "", "Sorted, CET, to months:",
  sprintf(
    "%5.1f million records %8.3f s, %5.1f ns each", growth[1, ], growth[2, ],
    growth[2, ] / growth[1, ] * 1e3
  ),
  "", sprintf(
    "100,000 series of 120 months: to months %.2f s, to years %.2f s",
    many_seconds[[1]], many_seconds[[2]]
  )
))
