# How long changes and moving windows take, beside bare passes over the same
# figures and what base R has for the work. Times are the least of runs in turn,
# in one process.
suppressPackageStartupMessages(library(backfill))
source(file.path("bench", "measure.R"))

points <- as.numeric(Sys.getenv("BACKFILL_BENCH_ROWS", "1e7"))
set.seed(4)
value <- runif(points)
fewer <- value[seq_len(points / 10)]

# The kernel alone, as those of base R, which know no series and no periods.
window <- function(value, stat, share = 0) {
  n <- length(value)
  series <- rep(1L, n)
  number <- as.numeric(seq_len(n))
  least(
    backfill:::moving_cpp(
      series, number, value, 364L, 0L, numeric(), FALSE, stat, share, 1
    )
  )
}

bare <- least(cumsum(value))
mean <- window(value, 0L)
filter <- least(stats::filter(value, rep(1 / 365, 365), sides = 1), 1)
others <- vapply(
  c(total = 1L, sd = 2L, lowest = 3L, highest = 4L),
  function(stat) window(value, stat), 0
)
median <- window(fewer, 5L, 0.5)
quantile <- window(fewer, 5L, 0.9)
running <- least(stats::runmed(fewer, 365))

# 20,000 series of 500 days each.
each <- 500
daily <- roll_up(as_records(tibble::new_tibble(list(
  when = rep(
    seq(as.Date("2030-01-01"), by = "day", length.out = each), points / each
  ),
  gate = rep(sprintf("gate-%05d", seq_len(points / each)), each = each),
  value = value
), nrow = points), "when", c(
  value = "flow"
), series = "gate", duplicates = "keep"), "day")
subtraction <- least(value[-1] - value[-points])
growth <- least(add_growth(daily))
moving <- least(add_moving(daily, 7))

# Verbs beside their kernels: one series of a million periods, and many.
verb_and_kernel <- function(series, each) {
  table <- roll_up(as_records(tibble::new_tibble(list(
    when = rep(
      as.POSIXct("2001-01-01", tz = "UTC") + 3600 * seq_len(each), series
    ),
    gate = rep(sprintf("gate-%05d", seq_len(series)), each = each),
    value = rep_len(value, series * each)
  ), nrow = series * each), "when", c(
    value = "level"
  ), series = "gate", duplicates = "keep"), "hour")
  line <- rep(seq_len(series), each = each)
  number <- as.numeric(rep(seq_len(each), series))
  c(
    verb = least(add_moving(table, 24)),
    kernel = least(backfill:::moving_cpp(
      line, number, table$value, 23L, 0L, numeric(), FALSE, 0L, 0, 1
    ))
  )
}
one <- verb_and_kernel(1, points / 10)
many <- verb_and_kernel(points / 500, 500)

write_result("moving", c(
  sprintf(
    "%.0f million points, window 365; seconds, the least of 3 runs in turn.",
    points / 1e6
  ), "",
  sprintf("cumsum()                    %6.3f", bare),
  sprintf(
    paste(
      "moving mean                 %6.3f   %.1f times cumsum();",
      "stats::filter() takes %.0f times as long (%.1f s)"
    ),
    mean, mean / bare, filter / mean, filter
  ),
  sprintf(
    "moving %-7s              %6.3f   %.1f times cumsum()", names(others),
    others, others / bare
  ), "",
  sprintf("%.0f million points, window 365", length(fewer) / 1e6), "",
  sprintf(
    paste(
      "moving median               %6.3f   stats::runmed() takes %.2f times",
      "as long (%.3f s)"
    ),
    median, running / median, running
  ),
  sprintf("moving 90%% quantile         %6.3f", quantile), "",
  sprintf(
    "%s series of %d days, in a table", format(points / each, big.mark = ","),
    each
  ), "",
  sprintf("bare subtraction            %6.3f", subtraction),
  sprintf(
    "add_growth()                %6.3f   %.1f times the subtraction", growth,
    growth / subtraction
  ),
  sprintf("add_moving(), 7 days        %6.3f", moving), "",
  "add_moving() beside its kernel, window 24", "",
  sprintf(
    "%-27s %6.3f   %.1f times the kernel's %.3f",
    c("one series", "20,000 series of 500"),
    c(one[["verb"]], many[["verb"]]),
    c(one[["verb"]], many[["verb"]]) / c(one[["kernel"]], many[["kernel"]]),
    c(one[["kernel"]], many[["kernel"]])
  )
))
