# A trace is true where its arithmetic, and nothing else, gives the figure.

traced_table <- function(seed) {
  withr::local_seed(seed)
  month <- seq(as.Date("2028-01-01"), by = "month", length.out = 48)
  records <- tibble::tibble(
    month = rep(month, 2), port = rep(c("a", "b"), each = 48),
    price = round(exp(stats::rnorm(96, 3, 0.2)), 2),
    kilos = round(stats::rexp(96, 0.01)) + 1
  )
  records <- records[-sample(96, 3), ]
  as_records(records, "month", c(price = "level", kilos = "flow"),
             series = "port")
}

days_of_ports <- function() {
  as_records(tibble::tibble(
    day = as.Date("2031-01-01") + 0:99, port = "a", kilos = 1:100 + 0.5
  ), "day", c(kilos = "flow"), series = "port")
}

test_that("every column that a verb adds is worked out from its trace alone", {
  records <- traced_table(1)
  x <- roll_up(records, "month")
  index <- seasonal_index(x, form = "additive")
  ratio <- seasonal_index(x)
  workdays <- calendar("month", workdays = 1:5)
  makers <- list(
    add_growth(x, over = c("1 year", "2")),
    add_growth(x, "quarter", as = "ratio"),
    add_growth(x, 1, as = "difference"), add_growth(x, 3, as = "log"),
    add_growth(x, "1 year", as = "annualised", max_age = 2),
    add_growth(x, "1 month", forward = TRUE),
    add_returns(x), add_returns(x, as = "log"),
    add_returns(x, total = "growth_of_1"), add_returns(x, total = "drawdown"),
    add_lagged(x, "1 year"), add_lagged(x, -2),
    add_running_total(x), add_running_total(x, reset = "quarter"),
    add_running(x), add_running(x, "lowest", reset = "year"),
    add_running(x, "mean"),
    add_rebased(x), add_rebased(x, 1, at = "2029-06"),
    add_share(x), add_per_day(x),
    add_per_day(x, workdays = workdays),
    add_bands(x, c(10, 20, 100), of = "value"),
    add_bands(x, c(0.2, 0.5), scale = "quantile", closed = "right",
              of = "value"),
    add_moving(x, 5), add_moving(x, 4, align = "centred"),
    add_moving(x, 5, "median"), add_moving(x, 12, "90%", present = 0.7),
    add_moving(x, 6, "sd"), add_moving(x, 3, "lowest", align = "leading"),
    add_moving(x, 3, "highest"),
    add_moving(roll_up(days_of_ports(), "day"), "1 month"),
    add_moving(x, 12, "sum"), add_moving(x, weights = "spencer 15"),
    add_moving(x, weights = c(1, 2, 3)),
    add_smoothed(x, half_life = 3), add_smoothed(x, alpha = 0.3),
    deseasonalise(x, index), deseasonalise(x, ratio),
    reseasonalise(deseasonalise(x, ratio), ratio),
    reseasonalise(deseasonalise(x, index), index),
    add_calendar_adjusted(x, calendar_effects(x, confidence = 0.01)),
    add_calendar_adjusted(x, calendar_effects(
      x, days = "working", form = "additive", confidence = 0.01
    )),
    add_remainder(x), add_remainder(x, index),
    add_anomaly(x, "month"), add_anomaly(x, "month", running = TRUE),
    add_anomaly(x, "month", standardised = TRUE),
    add_anomaly(x, "month", smooth = 3,
                reference = c("2028-01-01", "2030-12-31")),
    add_growth(add_moving(x, 3), 1, of = "moving_mean"),
    add_moving(add_growth(x, 1), 3, of = "growth_1_month"),
    project(x, 9), project(x, 9, base = "line", form = "additive")
  )
  made <- unique(unlist(lapply(makers, function(one) {
    vapply(attr(one, "backfill")$added, `[[`, "", "verb")
  })))
  sources <- vapply(list.files(checkout("R"), full.names = TRUE), function(
    file
  ) {
    paste(readLines(file), collapse = "\n")
  }, "")
  noted <- unlist(regmatches(
    sources, gregexpr(
      "(?<=new_note[(])\\s*\"[a-z ]+(?=\")", sources, perl = TRUE
    )
  ))
  verbs <- sub("^\\s*\"", "", noted)
  expect_setequal(c(made, "value"), union(verbs, c(
    "deseasonalised", "reseasonalised"
  )))
  for (one in makers) {
    columns <- names(attr(one, "backfill")$added)
    for (column in columns) {
      figures <- as.numeric(one[[column]])
      withr::local_seed(7)
      known <- which(!is.na(figures))
      expect_gt(length(known), 0)
      lines <- if (length(unique(one$measure)) > 1) {
        paste(one$port, one$measure, sep = " / ")
      } else {
        one$port
      }
      for (row in known[sample(length(known), 3)]) {
        found <- trace_value(one, one$period[[row]], lines[[row]], column)
        label <- paste(column, lines[[row]], one$period[[row]])
        expect_identical(found$figure[[1]], figures[[row]], label = label)
        deep <- which(!is.na(found$worked))
        for (step in deep) {
          expect_equal(
            own_answer(found$worked[[step]]), found$figure[[step]],
            label = paste(label, found$worked[[step]])
          )
        }
        expect_true(1L %in% deep, label = label)
        # What it was made of stands below it, as it stands in the table.
        below <- found[found$depth == 1 & found$column %in% names(one), ]
        at <- match(
          paste(below$port, below$measure, below$period),
          paste(one$port, one$measure, one$period)
        )
        expect_true(nrow(below) > 0 && !anyNA(at), label = label)
      }
    }
  }
})

test_that("sums of thousands of figures are worked out, too", {
  hours <- as_records(
    tibble::tibble(
      when = as.POSIXct("2031-01-01", tz = "UTC") + 3600 * (0:9999),
      x = (1:10000) %% 24 + 1
    ), "when", c(x = "flow")
  )
  hourly <- roll_up(hours, "hour")
  long <- list(
    add_running_total(hourly, reset = "never"), add_moving(hourly, 9000),
    add_remainder(hourly, seasonal_index(hourly, cycle = "day"))
  )
  for (one in long) {
    found <- trace_value(one, "2032-01-20")
    expect_equal(own_answer(found$worked[[1]]), found$figure[[1]])
  }
})

test_that("values are worked out from the records behind them", {
  records <- traced_table(2)
  days <- as_records(
    tibble::tibble(
      when = as.POSIXct("2031-03-01", tz = "UTC") + 3600 * (0:1499),
      x = sin(0:1499) * 100
    ), "when", c(x = "level"), zone = "WET"
  )
  uses <- c(
    "sum", "mean", "median", "sd", "first", "last", "lowest", "highest", "90%"
  )
  for (use in uses) {
    daily <- suppressWarnings(roll_up(days, "day", use = use))
    for (day in c("2031-03-20", "2031-03-31")) {
      found <- trace_value(daily, day, records = days)
      expect_equal(own_answer(found$worked), found$figure)
      own <- summary(found)
      expect_identical(nrow(own), found$n)
      expect_identical(
        unique(format(own$when, "%Y-%m-%d", tz = "WET")), day
      )
      expect_identical(
        c(found$first_record, found$last_record), range(own$when)
      )
    }
  }
  # A ratio is worked out from its parts.
  each <- as_records(
    tibble::tibble(
      day = as.Date("2031-01-01") + 0:89, price = 1:90 + 0.5, kilos = 91:180
    ), "day", list(
      price = "flow", kilos = "flow",
      rate = measure("ratio", of = "price", per = "kilos")
    )
  )
  found <- trace_value(
    roll_up(each, "month"), "2031-02", "rate", records = each
  )
  expect_identical(found$measure, c("rate", "price", "kilos"))
  for (step in 1:3) {
    expect_equal(own_answer(found$worked[[step]]), found$figure[[step]])
  }
  # A counter is worked out from the reading before as well.
  tanks <- read_records(
    demo_file("water-tanks.csv"), series = c("village", "tank"),
    layout = "dates across", measures = c(reading = "counter")
  )
  found <- trace_value(
    roll_up(tanks, "month"), "2030-05", "Mole / 1", records = tanks
  )
  expect_equal(own_answer(found$worked), found$figure)
  own <- summary(found)
  readings <- tanks$reading[tanks$village == "Mole" & tanks$tank == "1"]
  expect_identical(
    found$worked, sprintf(
      "%d - %d", own$reading[[nrow(own)]],
      readings[[match(own$reading[[1]], readings) - 1]]
    )
  )
  growth <- as_records(
    data.frame(day = as.Date("2031-01-01") + 0:89, x = sin(1:90) / 50), "day",
    c(x = "return")
  )
  found <- trace_value(roll_up(growth, "month"), "2031-02", records = growth)
  expect_equal(own_answer(found$worked), found$figure)
  found <- trace_value(
    roll_up(tanks, "month"), "2030-05", "Mole / 1", records = tanks
  )
  expect_identical(
    unique(paste(summary(found)$village, summary(found)$tank)), "Mole 1"
  )
  working <- calendar("working day", workdays = 1:5)
  found <- trace_value(roll_up(days, working), "2031-03-24", records = days)
  expect_equal(found$figure, mean(days$x[
    format(days$when, "%Y-%m-%d", tz = "WET") == "2031-03-24"
  ]))
  quarterly <- add_growth(roll_up(records, "quarter"), 1)
  found <- trace_value(quarterly, "2029-Q3", "b / kilos", records = records)
  expect_identical(found$depth, c(0L, 1L, 1L))
  own <- summary(found)
  for (step in 2:3) {
    expect_equal(sum(own$kilos[own$step == step]), found$figure[[step]])
  }
  expect_error(
    trace_value(
      quarterly, "2029-Q3", "b / kilos", records = records[-60:-96, ]
    ),
    class = "backfill_error_trace"
  )
})

test_that("a trace survives a file, says what stood in the way, and refuses what is no longer true", {
  x <- add_growth(roll_up(traced_table(3), "month"), "1 year")
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(x, file)
  rows <- which(!is.na(x$growth_1_year) & x$measure == "kilos")
  row <- rows[[5]]
  line <- paste(x$port[[row]], "kilos", sep = " / ")
  found <- trace_value(x, x$period[[row]], line)
  expect_identical(
    columns(trace_value(read_periods(file), x$period[[row]], line)),
    columns(found)
  )
  expect_output(print(found), "Worked out: 100 [*] \\(")
  gap <- which(is.na(x$value) & x$measure == "kilos")[[1]]
  expect_output(
    print(trace_value(x, x$period[[gap]],
                      paste(x$port[[gap]], "kilos", sep = " / "))),
    "not given.*\\(empty\\)"
  )
  changed <- x
  changed$value[row] <- 1
  attr(changed, "backfill")$layout <- NULL
  expect_error(
    trace_value(changed, x$period[[row]], line),
    "what the table has now", class = "backfill_error_trace"
  )
  for (wrong in list(
    list("2031-01", "no such"), list("2031-01", NULL), list("1999", line),
    list("2031-01", line, "standing")
  )) {
    expect_error(
      do.call(trace_value, c(list(x), wrong)), class = "backfill_error"
    )
  }
  prices <- roll_up(traced_table(6), "month")
  prices <- basket(prices[prices$measure == "price", ])
  expect_match(trace_value(prices, "2029-05")$formula, "members of the basket")
  scaled <- roll_up(as_records(
    data.frame(day = as.Date("2031-01-11") + 0:80, kilos = 1), "day",
    c(kilos = "flow")
  ), "month", partial = "scale")
  expect_match(trace_value(scaled, "2031-01")$formula, "scaled to the full")
  expect_no_match(trace_value(scaled, "2031-02")$formula, "scaled")
  # A calendar and an index are kept with the table, too.
  many <- add_remainder(add_running_total(
    roll_up(traced_table(7), "month"), reset = calendar("year", year_start = 4)
  ))
  write_periods(many, file)
  for (column in c("running_total", "remainder")) {
    own <- which(!is.na(many[[column]]) & many$measure == "kilos")[[20]]
    asked <- list(
      many$period[[own]], paste(many$port[[own]], "kilos", sep = " / "), column
    )
    expect_identical(
      columns(do.call(trace_value, c(list(read_periods(file)), asked))),
      columns(do.call(trace_value, c(list(many), asked)))
    )
  }
  filled <- impute_gaps(roll_up(traced_table(3), "month"), "linear")
  gap <- which(filled$standing == "imputed")[[1]]
  found <- trace_value(filled, filled$period[[gap]], paste(
    filled$port[[gap]], filled$measure[[gap]], sep = " / "
  ))
  expect_match(found$formula, "filled in \\(linear\\)")
})

test_that("the command line traces a table that it wrote, down to the lines of the file", {
  dir <- withr::local_tempdir()
  nights <- c(
    demo_file("inns.csv"), "--when", "month", "--series", "inn", "--measure",
    "guest_nights:flow"
  )
  table <- file.path(dir, "growth.csv")
  backfill_cli(
    "growth", nights, "--every", "quarter", "--over", "1 year", "--out", table
  )
  ask <- c("trace", table, "--period", "2031-Q2", "--of-series", "Anchor")
  found <- backfill_cli(ask)
  expect_identical(found$status, 0L)
  expect_match(found$err, "Worked out: 100", all = FALSE)
  expect_match(found$out, "^ +value +Anchor", all = FALSE)
  rows <- backfill_cli(
    ask, "--records", nights, "--line-number", "line", "--rows", "--format",
    "csv"
  )
  lines <- utils::read.csv(text = rows$out)
  file <- utils::read.csv(demo_file("inns.csv"))
  expect_identical(nrow(lines), 6L)
  expect_identical(
    as.character(lines$guest_nights), file$guest_nights[lines$line - 1]
  )
  for (wrong in list(
    c("trace", table), c(ask, "--rows"), c(ask, "--when", "month"),
    c("trace", demo_file("inns.csv"), "--period", "2031-04"),
    c("trace", table, "--period", "2031-Q2", "--of-series", "none"),
    c("trace", table, table, "--period", "2031-Q2")
  )) {
    expect_identical(backfill_cli(wrong)$status, 2L)
  }
})

expect_flag_traced <- function(flags, row, how) {
  found <- trace_value(flags, flags$period[[row]], flags$port[[row]])
  label <- paste(deparse(how)[[1]], flags$port[[row]], flags$period[[row]])
  expect_identical(found$figure[[1]], as.numeric(flags$flag[[row]]))
  deep <- which(!is.na(found$worked))
  for (step in deep) {
    expect_equal(
      as.numeric(own_answer(found$worked[[step]])), found$figure[[step]],
      label = paste(label, found$column[[step]])
    )
  }
  ends <- c("upper", "lower")[
    is.finite(c(flags$upper[[row]], flags$lower[[row]]))
  ]
  expect_true(
    all(c("flag", "baseline", ends) %in% found$column[deep]), label = label
  )
  prior <- found[found$depth == 2, ]
  expect_true(all(prior$period < flags$period[[row]]), label = label)
  if (!any(c("smoothed", "year to date") %in% unlist(how))) {
    expect_identical(
      nrow(prior), as.integer(flags$n_prior[[row]]), label = label
    )
  }
}

test_that("a flag is worked out from its baseline and its limits", {
  withr::local_seed(9)
  x <- roll_up(traced_table(5), "month")
  x <- x[x$measure == "kilos", ]
  asked <- list(
    list(beyond = c(sd = 1), exclude_flagged = TRUE),
    list("previous period", c(percent = 20), floor = 30),
    list("a cycle before", c(amount = 40), last = 2, direction = "up"),
    list(beyond = c(mad = 1.5), stat = "median", direction = "up"),
    list(beyond = c(sd = 1, percent = 30)),
    list(beyond = c(sd = 1, percent = 30), beyond_all = TRUE),
    list(beyond = c(quantile = 0.8), stat = "smoothed", last = 6),
    list("season", c(sd = 1)), list("season", c(mad = 1), form = "additive"),
    list("season", c(sd = 1), exclude_flagged = TRUE),
    list("season", c(quantile = 0.8)),
    list(beyond = c(sd = 1), spread_of = "12 months"),
    list("year to date", c(percent = 20))
  )
  for (how in asked) {
    flags <- suppressWarnings(do.call(flag_periods, c(list(x), how)))
    known <- which(!is.na(flags$flag))
    expect_gt(sum(flags$flag[known]), 0)
    for (row in known[sample(length(known), 3)]) {
      expect_flag_traced(flags, row, how)
    }
  }
})

test_that("a table of a run is traced to the records that the run kept, whatever became of the file", {
  dir <- withr::local_tempdir()
  withr::local_envvar(R_USER_CACHE_DIR = withr::local_tempdir())
  file.copy(demo_file("crossings.csv"), dir)
  writeLines(c(
    "backfill: 1", "records:", "  crossings:", "    file: crossings.csv",
    "    when: time", "    zone: WET",
    "    measures: {tide: {kind: flow, unit: boardings}, market: flow}",
    "steps:",
    "  - roll_up: {every: day}", "    from: crossings", "    name: daily",
    "  - add_moving: {window: 7}", "    name: smooth",
    "  - trace_value: {period: 2031-07-01, series: tide, records: crossings}",
    "    from: smooth", "    name: traced"
  ), file.path(dir, "study.yaml"))
  out <- file.path(dir, "run")
  done <- run_study(file.path(dir, "study.yaml"), out = out)
  file.remove(file.path(dir, "crossings.csv"))
  smooth <- read_periods(file.path(out, "smooth.csv"))
  kept <- run_records(out)
  read <- study_result(done, "crossings")
  expect_identical(kept$time, read$time)
  expect_identical(kept$tide, read$tide)
  found <- trace_value(smooth, "2031-07-01", "tide", records = kept)
  expect_identical(columns(found), columns(study_result(done, "traced")))
  ask <- c("--period", "2031-07-01", "--of-series", "tide")
  ran <- backfill_cli(
    "trace", file.path(out, "smooth.csv"), ask, "--rows", "--format", "csv"
  )
  # Where the steps narrowed the records, that is told.
  narrowed <- roll_up(keep_dates(read, weekdays = 1:5), "month")
  write_periods(narrowed, file.path(out, "narrowed.csv"))
  told <- backfill_cli("trace", file.path(out, "narrowed.csv"), ask)
  expect_identical(told$status, 0L)
  expect_match(told$err, "whose steps may have", all = FALSE)
  own <- summary(found)
  rows <- utils::read.csv(text = ran$out)
  expect_identical(nrow(rows), nrow(own))
  expect_equal(rows$tide, own$tide)
  expect_error(run_records(dir), class = "backfill_error_file")
  expect_error(run_records(out, "none"), class = "backfill_error_argument")
})

test_that("times of the clock are asked for in words and told to the fraction", {
  start <- as.POSIXct("2031-07-09 07:00", "Etc/GMT-1")
  r <- records_of(start + seq(0, 9.75, 0.25), v = 1:40, zone = "Etc/GMT-1")
  m <- roll_up(r, "second")
  for (period in list(
    "2031-07-09 07:00:02", "2031-07-09T06:00:02Z", start + 2
  )) {
    found <- trace_value(m, period, records = r)
    expect_identical(found$figure, 9 + 10 + 11 + 12)
  }
  expect_output(print(found), "07:00:02.75", fixed = TRUE)
  expect_output(print(summary(found)), "07:00:02.25", fixed = TRUE)
  expect_identical(as.numeric(summary(found)$when) %% 1, 0:3 / 4)
})

test_that("a value changed by hand is not said to be what its records give", {
  r <- records_of(as.Date("2031-01-01") + 0:89, v = 1:90)
  for (use in c("sum", "highest", "lowest")) {
    m <- roll_up(r, "month", use = use)
    expect_s3_class(trace_value(m, "2031-02", records = r), "backfill_trace")
    m$value[[2]] <- m$value[[2]] + 1
    expect_error(
      trace_value(m, "2031-02", records = r), "its records give",
      class = "backfill_error_trace"
    )
  }
})
