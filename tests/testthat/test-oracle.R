# The package against helper-oracle.R, over random tables: sixty here,
# thousands by `make oracle`.

seeds <- seq_len(as.integer(Sys.getenv("BACKFILL_ORACLE", "40")))
some <- seeds[seq_len(ceiling(length(seeds) / 3))]

# The table rolled up, with a row for each series and period in the oracle's
# order.
rolled_up <- function(table, use = NULL, kind = "level", ...) {
  records <- as_records(
    table$data, "when", stats::setNames(kind, "value"), series = "series",
    zone = table$zone, duplicates = "keep"
  )
  found <- roll_up(records, table$every, use = use, ...)
  found[order(found$series, found$period), ]
}

statistics_by_hand <- list(
  sum = sum, mean = mean, lowest = min, highest = max, median = stats::median,
  sd = stats::sd, count = length,
  first = function(x) x[1], last = function(x) x[length(x)],
  "90%" = function(x) unname(stats::quantile(x, 0.9, type = 7))
)

test_that("calendars, coverage, standings and statistics are those of the oracle", {
  for (seed in seeds) {
    table <- oracle_table(seed)
    use <- names(statistics_by_hand)[seed %% length(statistics_by_hand) + 1]
    found <- suppressWarnings(rolled_up(table, use))
    # Who records by steps is seen to.
    regular <- attr(found, "backfill")$cadences$cadences$words != "irregular"
    expect_true(
      all(regular),
      label = sprintf("seed %d: %s %s", seed, table$way, table$step)
    )
    expected <- oracle_roll_up(table, statistics_by_hand[[use]])
    label <- sprintf(
      "seed %d, %s of %s every %s, %s", seed, use, table$way, table$every,
      table$zone
    )
    expect_equal(found$period, expected$period, label = label)
    expect_equal(found$value, expected$value, tolerance = 1e-10, label = label)
    expect_identical(found$n, expected$n, label = label)
    expect_equal(found$coverage, expected$coverage, label = label)
    expect_identical(
      as.character(found$standing), expected$standing, label = label
    )
    expect_true(all(found$coverage <= 1))
  }
})

test_that("periods roll up further to what the oracle makes of the records", {
  for (seed in some) {
    table <- oracle_table(seed)
    chain <- switch(
      table$every, day = , month = c("month", "year"),
      third = c("month", "quarter"), week = NULL, quarter = "year", year = NULL
    )
    if (is.null(chain)) next
    use <- c("sum", "mean", "lowest", "last", "count")[seed %% 5 + 1]
    found <- suppressWarnings(rolled_up(table, use))
    for (every in setdiff(chain, table$every)) {
      longer <- roll_up(found, every)
      table$every <- every
      expected <- oracle_roll_up(table, statistics_by_hand[[use]])
      label <- sprintf("seed %d, %s of %s to %s", seed, use, table$way, every)
      expect_equal(
        longer$value, expected$value, tolerance = 1e-10, label = label
      )
      expect_equal(longer$coverage, expected$coverage, label = label)
      expect_identical(
        as.character(longer$standing), expected$standing, label = label
      )
    }
  }
})

test_that("growth, windows and flags are those of the oracle", {
  for (seed in some) {
    table <- oracle_table(seed)
    found <- rolled_up(table)
    # Growth by a number of periods, whatever a year of them is.
    over <- seed %% 3 + 1
    width <- seed %% 4 + 2
    stat <- c("mean", "highest", "median", "sd")[seed %% 4 + 1]
    made <- add_moving(
      add_growth(found, over = over, name = "grown"), window = width,
      stat = stat, name = "moved"
    )
    label <- sprintf("seed %d", seed)
    expect_equal(made$grown, oracle_growth(found, over), label = label)
    expect_equal(
      made$moved, oracle_moving(found, width, statistics_by_hand[[stat]]),
      label = label
    )
    for (series in unique(found$series)) {
      one <- found[found$series == series, ]
      if (all(is.na(whole(one)))) next
      flags <- flag_periods(one, beyond = c(sd = 2), last = 4)
      expected <- oracle_flags(whole(one), 4, 2)
      for (column in names(expected)) expect_equal(
        flags[[column]], expected[[column]], label = paste(label, column)
      )
    }
  }
})

test_that("a seasonal index is that of the oracle", {
  for (seed in some) {
    set.seed(seed)
    months <- sample(c("month", "quarter"), 1)
    cycle <- c(month = 12, quarter = 4)[[months]]
    n <- cycle * sample(3:6, 1) + sample(0:(cycle - 1), 1)
    start <- as.Date("2020-01-01")
    period <- seq(start, by = months, length.out = n + 11)[
      sample.int(11, 1) + seq_len(n)
    ]
    value <- exp(stats::rnorm(n, 4, 0.3))
    x <- roll_up(
      as_records(
        tibble::tibble(when = period, value = value), "when", c(value = "flow")
      ),
      months
    )
    position <- if (months == "month") {
      as.POSIXlt(period)$mon + 1
    } else {
      as.POSIXlt(period)$mon %/% 3 + 1
    }
    expect_equal(
      seasonal_index(x)$index, oracle_season(value, cycle, position),
      label = sprintf("seed %d", seed)
    )
  }
})

test_that("a table is the same in any order of its records, and a series whatever its neighbours", {
  for (seed in some) {
    table <- oracle_table(seed)
    found <- rolled_up(table)
    shuffled <- table
    shuffled$data <- table$data[sample.int(nrow(table$data)), ]
    expect_equal(
      as.data.frame(rolled_up(shuffled)), as.data.frame(found),
      label = sprintf("seed %d", seed)
    )
    alone <- table
    alone$data <- table$data[table$data$series == "a", ]
    own <- as.data.frame(rolled_up(alone))
    among <- as.data.frame(
      found[found$series == "a" & found$period %in% own$period, ]
    )
    expect_equal(among$value, own$value, label = sprintf("seed %d", seed))
    expect_identical(
      as.character(among$standing), as.character(own$standing),
      label = sprintf("seed %d", seed)
    )
  }
})
