# The seam of sources: shards, as of a cluster, that never give their rows.
# Each rolls up what it holds, and their states are merged.

shards <- function(data, measures, pieces, zone = "UTC", series = "series") {
  structure(list(), class = "test_shards", backfill = list(
    when = "when", series = series, measures = measures, zone = zone,
    held = lapply(pieces, function(rows) data[rows, ]),
    names = unique(data[order(data$series), series, drop = FALSE])
  ))
}

of_shards <- function(x, use) {
  lapply(attr(x, "backfill")$held, function(rows) {
    series <- match(rows$series, attr(x, "backfill")$names$series)
    use(rows, series)
  })
}

# What two shards know of each cell, and of the groups of series.
merge_cells <- function(a, b) {
  n <- a$records + b$records
  mean <- function(one) ifelse(one$records > 0, one$sum / one$records, 0)
  squares <- function(one) {
    ifelse(one$records > 1, (one$records - 1) * one$sd^2, 0)
  }
  either <- function(of, name) {
    found <- of(a[[name]], b[[name]], na.rm = TRUE)
    replace(found, is.infinite(found), NA)
  }
  out <- list(
    sum = a$sum + b$sum, records = n, slots = a$slots + b$slots,
    merged = if (!is.null(a$merged)) merge_cells(a$merged, b$merged)
  )
  if (!is.null(a$first)) {
    apart <- (mean(a) - mean(b))^2 * a$records * b$records / pmax(n, 1)
    out$sd <- ifelse(
      n > 1, sqrt((squares(a) + squares(b) + apart) / (n - 1)), NA_real_
    )
    out$lowest <- either(pmin, "lowest")
    out$highest <- either(pmax, "highest")
    # The shards follow on each other in time.
    out$first <- ifelse(is.na(a$first), b$first, a$first)
    out$last <- ifelse(is.na(b$last), a$last, b$last)
  }
  out
}

shard_methods <- list(
  check_source = function(x, call) x,
  source_outline = function(x, by, call) {
    role <- attr(x, "backfill")
    ends <- unlist(of_shards(x, function(rows, series) {
      as.numeric(range(rows$when))
    }))
    list(
      by = if (is.null(by)) role$series else by,
      names = tibble::as_tibble(role$names), ends = range(ends),
      dates = inherits(role$held[[1]]$when, "Date"), sources = "shards"
    )
  },
  source_survey = function(x, outline, table, steps) {
    times <- of_shards(x, function(rows, series) {
      list(when = rows$when, series = series)
    })
    unit <- if (outline$dates) 86400 else 1
    backfill:::survey_times(times, unit, nrow(outline$names), table)
  },
  source_cells = function(x, name, frame, use) {
    cells <- of_shards(x, function(rows, series) {
      part <- list(when = rows$when, series = series, value = rows[[name]])
      backfill:::roll_cells(list(part), frame, use)
    })
    list(cells = Reduce(merge_cells, cells), quantiles = function(
      cells, share, frame
    ) {
      values <- of_shards(x, function(rows, series) {
        list(when = rows$when, series = series, value = rows[[name]])
      })
      backfill:::cell_quantiles(values, cells, share, frame)
    })
  },
  source_rises = function(x, name, frame, use, how) {
    made <- of_shards(x, function(rows, series) {
      part <- list(when = rows$when, series = series, value = rows[[name]])
      backfill:::counter_cells(list(part), frame, how, use)
    })
    list(
      cells = Reduce(merge_cells, lapply(made, `[[`, "cells")),
      marks = list(
        partial = Reduce(`|`, lapply(made, function(one) one$marks$partial)),
        imputed = Reduce(`+`, lapply(made, function(one) one$marks$imputed))
      ),
      falls = do.call(rbind, lapply(made, `[[`, "falls"))
    )
  },
  source_days_off = function(x, names, frame) 0 * seq_along(names)
)
for (generic in names(shard_methods)) {
  registerS3method(
    generic, "test_shards", shard_methods[[generic]],
    envir = asNamespace("backfill")
  )
}

same_table <- function(found, expected, label) {
  found <- as.data.frame(found)
  expected <- as.data.frame(expected)
  for (name in c("standing", "n", "period", "measure")) {
    expect_identical(found[[name]], expected[[name]], label = label)
  }
  for (name in c("value", "coverage")) {
    expect_equal(
      found[[name]], expected[[name]], tolerance = 1e-9, label = label
    )
  }
}

test_that("shards that never give their rows are rolled up as records are", {
  for (seed in 1:10) {
    table <- oracle_table(seed)
    data <- table$data[order(table$data$when), ]
    # A slot that is recorded twice lies in one shard.
    data <- data[!duplicated(data[c("when", "series")]), ]
    third <- cut(seq_len(nrow(data)), 3, labels = FALSE)
    kind <- if (seed %% 2 == 0) "flow" else "level"
    records <- as_records(
      data, "when", c(value = kind), series = "series", zone = table$zone
    )
    apart <- shards(
      data, list(value = measure(kind)), split(seq_len(nrow(data)), third),
      table$zone
    )
    uses <- c("mean", "sd", "first", "last", "lowest", "median", "count")
    for (use in uses[(seed + 0:2) %% 7 + 1]) {
      for (by in list(NULL, character())) {
        label <- paste(seed, table$every, use, length(by))
        same_table(
          suppressWarnings(roll_up(
            apart, table$every, by = by, use = use, cadence = "irregular"
          )),
          suppressWarnings(roll_up(
            records, table$every, by = by, use = use, cadence = "irregular"
          )),
          label
        )
      }
    }
    same_table(
      roll_up(apart, table$every), roll_up(records, table$every),
      paste(seed, "by its kind")
    )
  }
})

test_that("counters and ratios come from shards too, falls and all", {
  withr::local_seed(401)
  day <- as.Date("2031-01-01") + 0:80
  data <- do.call(rbind, lapply(c("a", "b", "c"), function(meter) {
    read <- cumsum(sample(0:9, 81, TRUE))
    read[50:81] <- read[50:81] - read[50]
    data.frame(when = day, series = meter, read, hours = sample(1:8, 81, TRUE))
  }))
  data <- data[-c(20, 21, 100), ]
  measures <- list(
    read = measure("counter"), hours = measure("flow"),
    use = measure("ratio", of = "read", per = "hours")
  )
  records <- as_records(data, "when", measures, series = "series")
  apart <- shards(
    data, measures, split(seq_len(nrow(data)), data$series)
  )
  for (absent in list(NULL, c(read = "spread"))) {
    found <- roll_up(apart, "month", absent = absent)
    expected <- roll_up(records, "month", absent = absent)
    same_table(found, expected, paste(absent))
    falls <- function(x) attr(x, "backfill")$falls
    expect_identical(falls(found)$series, falls(expected)$series)
    expect_equal(falls(found)$to, falls(expected)$to)
  }
  # What follows knows nothing of where the records were.
  grown <- lapply(list(apart, records), function(x) {
    tibble::tibble(!!!add_growth(roll_up(roll_up(x, "week"), "5 weeks")))
  })
  expect_true("growth_1_period_of_5_weeks" %in% names(grown[[1]]))
  expect_equal(grown[[1]], grown[[2]])
})
