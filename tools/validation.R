# What the package computes beside certified values, base R and itself by other
# ways, into docs/validation.md. Random series are those of a seed.
suppressPackageStartupMessages(library(backfill))
set.seed(2031)

months <- function(...) {
  series <- list(...)
  table <- data.frame(
    month = seq(as.Date("2012-01-01"), by = "month", length.out = length(
      series[[1]]
    )), series
  )
  kinds <- stats::setNames(rep("level", length(series)), names(series))
  roll_up(as_records(table, "month", kinds), "month")
}

# Numbers that were certified in exact arithmetic, for mean, standard deviation
# and the autocorrelation at lag 1: the sets NumAcc1 to 4 of the Statistical
# Reference Datasets for univariate summaries.
alternating <- function(base) base + c(0.2, rep(c(0.1, 0.3), 500))
certified <- list(
  list("NumAcc1", 1e7 + c(1, 3, 2), c(10000002, 1, -0.5)),
  list("NumAcc2", alternating(1), c(1.2, 0.1, -0.999)),
  list("NumAcc3", alternating(1e6), c(1000000.2, 0.1, -0.999)),
  list("NumAcc4", alternating(1e7), c(10000000.2, 0.1, -0.999))
)

# The digits that two numbers share.
digits_shared <- function(found, true) {
  pmin(15, -log10(abs(found - true) / abs(true)))
}

certified_rows <- function() {
  vapply(certified, function(set) {
    days <- data.frame(
      day = as.Date("2012-01-01") + seq_along(set[[2]]) - 1, x = set[[2]]
    )
    x <- roll_up(as_records(days, "day", c(x = "level")), "day")
    summed <- series_summary(x)
    memory <- backfill:::autocorrelation_cpp(
      rep(1L, nrow(x)), as.numeric(seq_len(nrow(x))), x$value, 1L, FALSE
    )
    found <- c(summed$mean, summed$sd, memory$coefficient[[1]])
    sprintf(
      "| %s | %d | %.1f | %.1f | %.1f |", set[[1]], nrow(x),
      digits_shared(found[[1]], set[[3]][[1]]),
      digits_shared(found[[2]], set[[3]][[2]]),
      digits_shared(found[[3]], set[[3]][[3]])
    )
  }, "")
}

# What is computed, beside what, and either of two random series x and y.
beside_base <- list(
  list(
    "moving mean, 12 periods", "`stats::filter()`",
    quote(add_moving(months(x = x), 12)$moving_mean),
    quote(stats::filter(x, rep(1 / 12, 12), sides = 1))
  ),
  list(
    "moving median, 7 periods", "`stats::median()` of each window",
    quote(add_moving(months(x = x), 7, "median")$moving_median),
    quote(of_windows(x, 7, stats::median))
  ),
  list(
    "moving 90% quantile, 24 periods", "`stats::quantile()`, type 7",
    quote(add_moving(months(x = x), 24, "90%")$moving_90_percent),
    quote(of_windows(x, 24, stats::quantile, 0.9))
  ),
  list(
    "growth over a year", "`diff()`",
    quote(add_growth(months(x = x), "1 year")$growth_1_year),
    quote(c(rep(NA, 12), 100 * diff(x, 12) / x[seq_len(length(x) - 12)]))
  ),
  list(
    "mean, standard deviation, quartiles", "`mean()`, `sd()`, `quantile()`",
    quote(unlist(series_summary(months(x = x))[
      c("mean", "sd", "lower_quartile", "upper_quartile")
    ])),
    quote(c(mean(x), stats::sd(x), stats::quantile(x, c(0.25, 0.75))))
  ),
  list(
    "autocorrelations", "`stats::acf()`",
    quote(autocorrelation(months(x = x), lags = 24)$coefficient),
    quote(stats::acf(x, 24, plot = FALSE)$acf[-1])
  ),
  list(
    "partial autocorrelations", "`stats::pacf()`",
    quote(autocorrelation(months(x = x), lags = 24)$partial_coefficient),
    quote(stats::pacf(x, 24, plot = FALSE)$acf)
  ),
  list(
    "correlations of changes", "`stats::cor()`",
    quote(correlations(months(x = x, y = y))$coefficient),
    quote(stats::cor(diff(x), diff(y)))
  ),
  list(
    "rank correlations of changes", "`stats::cor()`, Spearman",
    quote(correlations(months(x = x, y = y), "spearman")$coefficient),
    quote(stats::cor(diff(x), diff(y), method = "spearman"))
  ),
  list(
    "rank correlations of changes", "`stats::cor()`, Kendall",
    quote(correlations(months(x = x, y = y), "kendall")$coefficient),
    quote(stats::cor(diff(x), diff(y), method = "kendall"))
  ),
  list(
    "trend of a straight line", "`stats::lm()`",
    quote(trend_line(months(x = x), of = "value")$slope),
    quote(stats::coef(stats::lm(x ~ seq_along(x)))[[2]])
  ),
  list(
    "seasonal index, ratios to a centred average", "`stats::decompose()`",
    quote(seasonal_index(
      months(x = x), form = "multiplicative", combine = "mean"
    )$index),
    quote(stats::decompose(stats::ts(x, frequency = 12), "mult")$figure)
  ),
  list(
    "seasonal index, differences from it", "`stats::decompose()`",
    quote(seasonal_index(
      months(x = x), form = "additive", combine = "mean"
    )$index),
    quote(stats::decompose(stats::ts(x, frequency = 12))$figure)
  )
)

size_in_words <- function(off) if (off == 0) "none" else sprintf("%.0e", off)

# What `figure` gives of each window of so many periods; none at the start.
of_windows <- function(x, width, figure, ...) {
  c(rep(NA, width - 1), vapply(width:length(x), function(end) {
    as.numeric(figure(x[(end - width + 1):end], ...))
  }, 0))
}

base_rows <- function(series = 100) {
  vapply(beside_base, function(one) {
    off <- 0
    figures <- 0
    for (i in seq_len(series)) {
      x <- 100 * exp(cumsum(stats::rnorm(96, 0, 0.05)))
      y <- 50 + cumsum(stats::rnorm(96))
      found <- as.numeric(eval(one[[3]]))
      true <- as.numeric(eval(one[[4]]))
      stopifnot(identical(is.na(found), is.na(true)))
      far <- abs(found - true) / pmax(1, abs(true))
      off <- max(off, far, na.rm = TRUE)
      figures <- figures + sum(!is.na(true))
    }
    sprintf(
      "| %s | %s | %s | %s |", one[[1]], one[[2]],
      format(figures, big.mark = ","), size_in_words(off)
    )
  }, "")
}

# The same table by other ways: how many figures differ in any bit, or for a
# database, which adds in an order of its own, the largest difference.
ways_rows <- function() {
  file <- demo_file("crossings.csv")
  read <- function(...) {
    read_records(
      file, "time", c(market = "flow", tide = "flow"), zone = "WET", ...
    )
  }
  records <- read()
  plain <- roll_up(records, "week")
  of <- function(x) as.data.frame(x)[c("value", "n", "coverage")]
  unlike <- function(x) {
    sum(!mapply(identical, unlist(of(x)), unlist(of(plain))))
  }
  count <- format(length(unlist(of(plain))), big.mark = ",")
  threads <- vapply(1:4, function(n) {
    withr::with_envvar(
      c(BACKFILL_THREADS = n), unlike(roll_up(records, "week"))
    )
  }, 0)
  shuffled <- roll_up(records[sample(nrow(records)), ], "week")
  chunked <- roll_up(read(chunked = TRUE), "week")
  rows <- c(
    sprintf("| 1 to 4 threads | %s | %d figures differ |", count, sum(threads)),
    sprintf("| rows in random order | %s | %d differ |", count,
            unlike(shuffled)),
    sprintf("| in chunks | %s | %d differ |", count, unlike(chunked))
  )
  if (!requireNamespace("RSQLite", quietly = TRUE)) {
    return(rows)
  }
  there <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  on.exit(DBI::dbDisconnect(there))
  table <- as.data.frame(records)
  table$time <- format(table$time, "%Y-%m-%dT%H:%M:%SZ", tz = "UTC")
  DBI::dbWriteTable(there, "crossings", table)
  counted <- roll_up(records_at(
    there, "crossings", "time", c(market = "flow", tide = "flow"), zone = "WET"
  ), "week")
  off <- abs(counted$value - plain$value) / pmax(1, abs(plain$value))
  c(rows, sprintf(
    "| counted in SQLite | %s | largest difference: %s |", count,
    size_in_words(max(off, na.rm = TRUE))
  ))
}

in_lines <- function(...) strwrap(paste(...), 121)

writeLines(c(
  "# Validation", "",
  in_lines(sprintf(paste(
    "What Backfill computes beside certified values, base R and itself by",
    "other ways. Made by `make validation` on %s with backfill %s and R %s."
  ), Sys.Date(), utils::packageVersion("backfill"), getRversion())), "",
  "## Certified values", "",
  in_lines(
    "The digits, of 15, that agree with figures certified in exact arithmetic,",
    "of the Statistical Reference Datasets. NumAcc3 and NumAcc4",
    "cannot have all: a deviation of 0.1 from 10,000,000.2 keeps 8 to 9 digits",
    "as a binary number, whatever is computed of it."
  ), "",
  "| set | values | mean | standard deviation | autocorrelation at lag 1 |",
  "|---|---|---|---|---|", certified_rows(), "",
  "## Base R", "",
  in_lines(
    "Each on 100 random series of 96 months; the largest difference is",
    "relative where figures are above 1."
  ), "",
  "| figure | beside | figures | largest difference |", "|---|---|---|---|",
  base_rows(), "",
  "## The same by other ways", "",
  "Weeks of the demo's 25,566 hourly records:", "",
  "| way | figures | |", "|---|---|---|", ways_rows(), "",
  "## Verdicts", "",
  in_lines(
    "How often each verdict is wrong, and how often it finds what is there, is",
    "simulated by `make rates` and stands in the help of each verb and in",
    "`verdict_rates()`. `make oracle` compares with slow oracles in base R",
    "over 3,000 random tables, `make test-engines` counts in PostgreSQL and",
    "ClickHouse what is counted in memory."
  )
), "docs/validation.md")
