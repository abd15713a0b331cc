# Figures of results, worked out from their traces alone.

month_table <- function(seed, season = 0.4) {
  withr::local_seed(seed)
  month <- seq(as.Date("2026-01-01"), by = "month", length.out = 72)
  wave <- 1 + season * sin(2 * pi * seq_len(72) / 12)
  records <- tibble::tibble(
    month = rep(month, 3), port = rep(c("a", "b", "c"), each = 72),
    kilos = round(rep(wave, 3) * stats::rlnorm(216, 5, 0.2) +
                    rep(c(0, 150), c(40, 32))) + 1
  )
  records <- records[-c(20, 90, 160), ]
  roll_up(
    as_records(records, "month", c(kilos = "flow"), series = "port"), "month"
  )
}

# Every column of some rows; `none` are those of which there is no arithmetic.
trace_every_column <- function(result, made_of, none = character()) {
  figures <- names(result)[vapply(as.list(result), function(one) {
    (is.numeric(one) || is.logical(one)) && !is.object(one)
  }, NA)]
  figures <- setdiff(figures, c(
    "rank", "lag", "horizon", "ahead", "season", "year", "spell"
  ))
  withr::local_seed(3)
  asked <- expand.grid(
    row = sample(nrow(result), min(if (thorough()) 6 else 2, nrow(result))),
    column = figures,
    stringsAsFactors = FALSE
  )
  what <- class(result)[[1]]
  found <- Map(function(row, column) {
    trace_value(result, row = row, column = column, made_of = made_of)
  }, asked$row, asked$column)
  first <- function(name) unlist(lapply(found, function(one) one[[name]][[1]]))
  stated <- unlist(Map(function(row, column) {
    as.numeric(result[[column]][[row]])
  }, asked$row, asked$column))
  expect_identical(first("figure"), stated, label = what)
  steps <- do.call(rbind, lapply(found, function(one) {
    as_plain(one)[c(
      "depth", "port", "measure", "period", "column", "figure", "worked"
    )]
  }))
  known <- !is.na(steps$worked)
  expect_equal(
    vapply(steps$worked[known], function(text) as.numeric(own_answer(text)), 0,
           USE.NAMES = FALSE),
    steps$figure[known], label = what
  )
  worked <- unique(asked$column[!is.na(first("worked"))])
  expect_identical(
    sort(setdiff(figures, worked)), sort(none), label = what
  )
  # What went into it stands in the table as the trace has it.
  plain <- steps[steps$column == "value" & steps$depth > 0, ]
  keys <- c("port", "measure", "period")
  at <- vctrs::vec_match(plain[keys], as_plain(made_of)[keys])
  expect_true(nrow(plain) > 0 && !anyNA(at), label = what)
  expect_identical(plain$figure, made_of$value[at], label = what)
}

as_plain <- function(x) {
  tibble::new_tibble(lapply(as.list(x), identity), nrow = nrow(x))
}

# `plain` has no season, by which a link of two series is not judged.
results_of <- function(x, plain) {
  growth <- add_growth(x, 1)
  bands <- add_bands(x, c(100, 200), of = "value")
  list(
    list(series_summary(x), x),
    list(series_summary(x, by = "quarter", probs = c(0.05, 0.975)), x,
         c("partial", "missing", "normality_p")),
    list(series_summary(growth, of = "growth_1_month"), growth),
    list(group_differences(x, "quarter"), x, c("lower", "upper", "p")),
    list(group_differences(x, x$period < as.Date("2029-01-01"), "median"), x,
         c("lower", "upper", "p")),
    list(latest(x), x, "age"),
    list(rank_changes(x), x), list(rank_changes(x, order = "flattest"), x),
    list(rank_changes(growth, of = "growth_1_month", within = "year"), growth,
         "percent"),
    list(rank_series(x), x), list(rank_series(x, n = 2), x),
    list(level_shifts(x), x, c("lower", "upper", "p", "taken")),
    list(level_shifts(x, most = 2, season = FALSE), x,
         c("lower", "upper", "p", "taken")),
    list(level_shifts(x, line = TRUE), x, c("lower", "upper", "p", "taken")),
    list(seasonal_index(x), x),
    list(seasonal_index(x, combine = "median", normalise = FALSE), x),
    list(seasonal_index(
      x, form = "additive", method = "overall average", combine = "trimmed mean"
    ), x),
    list(seasonal_index(x, cycle = 5), x),
    list(seasonal_index(x, cycle = 5, combine = "moving mean"), x),
    list(cycle_profile(x, "month"), x),
    list(cycle_profile(x, "month", apart = "port", stat = "90%"), x),
    list(cycle_grid(x, "year", "quarter", stat = "sum"), x),
    list(trend_line(x, of = "value"), x), list(autocorrelation(x), x,
                                               "partial_coefficient"),
    list(autocorrelation(x, limits = "large lag", partial_coefficients = FALSE),
         x),
    list(cross_correlation(x, "a", "b"), x, c("lower", "upper")),
    list(cross_correlation(x, "a", "b", on = "values"), x,
         c("lower", "upper")),
    list(correlations(plain), plain, "n_effective"),
    list(correlations(plain, "spearman", each = "year", pairs = 5), plain,
         "n_effective"),
    list(correlations(plain, "kendall", on = "values"), plain,
         "n_effective"),
    list(correlations(plain, "covariance", window = 24), plain,
         c("n_effective", "lower", "upper", "p")),
    list(rank_links(plain, "a", ahead = 0:2, horizons = c(1, 3)), plain, c(
      "n_effective", "q", "same_sign", "rank_first", "rank_later",
      "same_over_horizons"
    )),
    list(turning_points(x, 4), x),
    list(series_differences(x), x,
         c("lower", "upper", "p", "n_effective")),
    list(season_revisions(x), x),
    list(calendar_effects(x), x, c(
      "estimate", "lower", "upper", "p", "joint_p"
    )),
    list(season_spells(x), x, c("periods", "late", "rise", "share")),
    list(count_bands(bands), bands),
    list(widen(x), x), list(widen(x, side = "series"), x),
    list(check_identity(x, "kilos = 2 * kilos - 30", tolerance = 5), x)
  )
}

test_that("figures of results are worked out from their traces", {
  made <- suppressWarnings(results_of(month_table(4), month_table(4, 0)))
  for (one in made) {
    expect_gt(nrow(one[[1]]), 0)
    none <- if (length(one) > 2) one[[3]] else character()
    trace_every_column(one[[1]], one[[2]], none)
  }
  # No result that has a way is passed over.
  has_way <- sub("^working_of[.]", "", grep(
    "^working_of[.]backfill", ls(asNamespace("backfill")), value = TRUE
  ))
  expect_setequal(
    unique(vapply(made, function(one) class(one[[1]])[[1]], "")), has_way
  )
})

test_that("what has no figure has a trace without arithmetic, and a series is no figure", {
  yearly <- roll_up(month_table(6), "year")
  recent <- latest(yearly)
  for (column in c("year_before", "year_change", "year_percent")) {
    found <- trace_value(recent, row = 1, column = column, made_of = yearly)
    expect_identical(found$figure[[1]], NA_real_)
    expect_identical(found$worked[[1]], NA_character_)
  }
  piers <- roll_up(as_records(
    data.frame(day = as.Date("2031-01-01") + 0:9, pier = 1:2, kilos = 1:10),
    "day", c(kilos = "flow"), series = "pier"
  ), "2 days")
  expect_error(
    trace_value(latest(piers), row = 1, column = "pier", made_of = piers),
    class = "backfill_error_column"
  )
  expect_identical(
    trace_value(latest(piers), row = 2, column = "value", made_of = piers)$pier,
    c("2", "2")
  )
})

test_that("what is projected is dashed where a trace is drawn", {
  made <- project(month_table(6), 3)
  drawn <- function(...) {
    unname(unlist(ggplot2::layer_data(
      autoplot(trace_value(made, ..., "a", "value")), 1
    )["linetype"]))
  }
  dashed <- drawn("2032-02") == "dashed"
  expect_identical(sum(dashed), 3L)
  expect_true(all(utils::tail(dashed, 3)))
  flags <- flag_periods(month_table(6), last = 12, beyond = c(sd = 1))
  expect_silent(ggplot2::ggplot_build(
    autoplot(trace_value(flags, "2030-05", "b"))
  ))
})

test_that("an identity that a file brings along is not run", {
  x <- month_table(6)
  made <- check_identity(x, "kilos = kilos")
  told <- withr::local_tempfile()
  attr(made, "backfill")$identity <- sprintf(
    "kilos = (file.create('%s'))", told
  )
  for (column in c("left", "right", "held")) {
    expect_error(
      trace_value(made, row = 1, column = column, made_of = x),
      class = "backfill_error_formula"
    )
  }
  expect_false(file.exists(told))
})

test_that("of a profile of records the records are given", {
  crossings <- read_records(
    demo_file("crossings.csv"), when = "time", measures = c(market = "flow"),
    zone = "WET"
  )
  made <- cycle_profile(crossings, "hour", apart = "weekday")
  row <- which(made$n > 20)[[1]]
  found <- trace_value(made, row = row, column = "value", made_of = crossings)
  own <- summary(found)
  expect_identical(nrow(own), made$n[[row]])
  expect_equal(mean(own$market), made$value[[row]])
  expect_identical(
    unique(format(own$time, "%H:00", tz = "WET")),
    as.character(made$position[[row]])
  )
  expect_identical(
    unique(weekdays(own$time)), as.character(made$weekday[[row]])
  )
  expect_identical(
    c(found$first_record, found$last_record), range(own$time)
  )
  expect_error(autoplot(found), class = "backfill_error_input")
  grid <- cycle_grid(crossings, "weekday", "hour")
  expect_equal(own_answer(trace_value(
    grid, row = 30, column = "value", made_of = crossings
  )$worked), grid$value[[30]])
})

test_that("a result is traced down to its records, and against its own table alone", {
  nights <- read_records(
    demo_file("inns.csv"), when = "month", series = "inn",
    measures = c(guest_nights = "flow")
  )
  monthly <- roll_up(nights, "month")
  yearly <- add_growth(monthly, "1 year")
  made <- rank_changes(yearly, of = "growth_1_year")
  found <- trace_value(
    made, row = 1, column = "change", made_of = yearly, records = nights
  )
  expect_identical(found$depth, c(0L, 1L, 2L, 2L, 1L, 2L, 2L))
  expect_identical(nrow(summary(found)), 4L)
  expect_match(
    paste(capture.output(print(found)), collapse = " "),
    "change of [A-Z][a-z]+, 20.*Worked out: .* - .*4 records are behind"
  )
  for (wrong in list(
    list(made, row = 1, column = "change", made_of = monthly[1:60, ]),
    list(made, row = 1, column = "change"),
    list(made, row = 1, column = "change", made_of = 1),
    list(made, row = 0, column = "change", made_of = yearly),
    list(made, row = 1, column = "to", made_of = yearly),
    list(made, row = 1, made_of = yearly),
    list(made, "2031-01", column = "change", made_of = yearly),
    list(yearly, "2031-01", "Hearth", row = 1),
    list(made[0, ], row = 1, column = "change", made_of = yearly),
    list(flag_periods(monthly), "2031-01", "Hearth", records = nights),
    list(cycle_profile(nights, "month"), row = 1, column = "value",
         made_of = nights, records = nights),
    list(summary(seasonal_index(monthly)), row = 1, column = "share",
         made_of = monthly)
  )) {
    expect_error(do.call(trace_value, wrong), class = "backfill_error")
  }
  other <- monthly
  other$value <- other$value + 1
  expect_error(
    trace_value(
      latest(monthly), row = 1, column = "value", made_of = other
    ), class = "backfill_error_trace"
  )
})

test_that("a result is traced in a shell and in the folder of a run", {
  dir <- withr::local_tempdir()
  withr::local_envvar(R_USER_CACHE_DIR = withr::local_tempdir())
  file.copy(demo_file("inns.csv"), dir)
  writeLines(c(
    "backfill: 1", "records:", "  nights:", "    file: inns.csv",
    "    when: month", "    series: inn",
    "    measures: {guest_nights: flow}", "steps:",
    "  - roll_up: {every: month}", "    from: nights", "    name: monthly",
    "  - seasonal_index: {}", "    from: monthly", "    name: index",
    "  - cycle_profile: {position: month}", "    from: nights",
    "    name: profile",
    "  - trace_value: {row: 7, column: index, made_of: monthly}",
    "    from: index", "    name: traced"
  ), file.path(dir, "study.yaml"))
  out <- file.path(dir, "run")
  done <- run_study(file.path(dir, "study.yaml"), out = out)
  index <- study_result(done, "index")
  expect_identical(study_result(done, "traced")$figure[[1]], index$index[[7]])
  ask <- c("--row", "7", "--column", "index", "--format", "csv")
  inside <- backfill_cli("trace", file.path(out, "index.csv"), ask)
  expect_identical(inside$status, 0L)
  table <- utils::read.csv(text = inside$out)
  expect_equal(table$figure[[1]], index$index[[7]])
  expect_true("first_record" %in% names(table))
  profile <- backfill_cli(
    "trace", file.path(out, "profile.csv"), "--row", "3", "--column", "value"
  )
  expect_match(profile$out, "mean of 3 records", all = FALSE)
  away <- file.path(dir, "index.csv")
  write_periods(index, away)
  expect_match(
    backfill_cli("trace", away, ask)$err, "`--made-of` is not given",
    all = FALSE
  )
  told <- backfill_cli(
    "trace", away, ask, "--made-of", file.path(out, "monthly.csv")
  )
  expect_equal(
    utils::read.csv(text = told$out)$figure[[1]], index$index[[7]]
  )
  for (wrong in list(
    c("--row", "7"), c("--column", "index"), c("--period", "2031-01"),
    c("--row", "x", "--column", "index")
  )) {
    expect_identical(
      backfill_cli("trace", file.path(out, "index.csv"), wrong)$status, 2L
    )
  }
})
