# All that results and errors say, on tables of seven kinds, in
# _snaps/sentences.md: the one place to read it.

# Two mills and two measures by day, a hole and cut ends among them.
mill_days <- function() {
  day <- seq(as.Date("2028-01-01"), as.Date("2031-12-31"), 1)
  season <- cos(2 * pi * (as.numeric(day) - 15) / 365.25)
  data <- do.call(rbind, lapply(c("Ard", "Bel"), function(mill) {
    size <- if (mill == "Ard") 600 else 410
    data.frame(
      day, mill,
      grist = round(
        size + 90 * season + as.numeric(format(day, "%d")) %% 7 * 4 +
          as.numeric(day - day[[1]]) / 20
      ),
      damp = round(14 + 2 * season + as.numeric(day) %% 5 / 4, 1)
    )
  }))
  # A storm shuts one of them, and makes the other busy.
  shut <- data$day %in% (as.Date("2030-11-03") + 0:19)
  data$grist[shut & data$mill == "Bel"] <- 90
  data[!(data$mill == "Ard" & data$day %in% (as.Date("2029-06-05") + 0:3)), ]
}

said_tables <- function() {
  days <- mill_days()
  both <- c(grist = "flow", damp = "level")
  rolled <- function(data, measures = both, every = "month") {
    roll_up(as_records(data, "day", measures, series = "mill"), every)
  }
  two <- rolled(days)
  mills <- do.call(rbind, lapply(1:30, function(i) {
    one <- days[days$mill == "Bel", c("day", "mill", "grist")]
    one$mill <- sprintf("mill %02d", i)
    one$grist <- one$grist + i * seq_len(nrow(one)) %% 11
    one
  }))
  one <- days[days$mill == "Bel", c("day", "grist")]
  list(
    "one series" = roll_up(as_records(one, "day", c(grist = "flow")), "month"),
    "two series, two measures" = two,
    "thirty series" = rolled(mills, c(grist = "flow")),
    "no rows" = two[0, ], "one row" = two[1, ],
    "all partial" = rolled(days[as.numeric(days$day) %% 9 > 2, ]),
    "by day" = rolled(
      days[days$day >= as.Date("2030-01-01"), ], c(grist = "flow"), "day"
    )
  )
}

# What is asked of each table.
said_verbs <- list(
  roll_up = identity,
  roll_up_again = \(m) roll_up(m, "quarter"),
  add_growth = \(m) add_growth(m, over = c("1 month", "1 year")),
  add_lagged = \(m) add_lagged(m, "1 month"),
  add_moving = \(m) add_moving(m, window = 12),
  add_moving_sum = \(m) add_moving(m, window = 4, stat = "sum", present = 0.5),
  add_smoothed = \(m) add_smoothed(m, half_life = 3),
  add_running_total = \(m) add_running_total(m),
  add_running = \(m) add_running(m, "highest"),
  add_rebased = \(m) add_rebased(m, at = "2029-01"),
  add_share = \(m) add_share(m), add_per_day = \(m) add_per_day(m),
  add_returns = \(m) add_returns(m),
  add_bands = \(m) add_bands(add_growth(m), c(-10, 0, 10)),
  add_anomaly = \(m) add_anomaly(m, "month"),
  add_remainder = \(m) add_remainder(m),
  impute_gaps = \(m) impute_gaps(m, "linear"), gaps = \(m) gaps(m),
  widen = \(m) widen(m, "series"), latest = \(m) latest(m),
  rank_series = \(m) rank_series(m), rank_changes = \(m) rank_changes(m),
  seasonal_index = \(m) seasonal_index(m),
  moving_index = \(m) seasonal_index(m, combine = "moving mean"),
  moving_sheet = \(m) {
    summary(seasonal_index(m, combine = "moving mean"), type = "worksheet")
  },
  season_tests = \(m) summary(seasonal_index(m)),
  deseasonalise = \(m) deseasonalise(m, seasonal_index(m)),
  cycle_profile = \(m) cycle_profile(m, "month"),
  cycle_grid = \(m) cycle_grid(m, "year", "month"),
  series_differences = \(m) series_differences(m),
  season_revisions = \(m) season_revisions(m),
  calendar_effects = \(m) calendar_effects(m),
  add_calendar_adjusted = \(m) add_calendar_adjusted(m),
  season_spells = \(m) season_spells(m),
  trend_line = \(m) trend_line(m, of = "value"),
  project = \(m) project(m, 6),
  autocorrelation = \(m) autocorrelation(m),
  suggest_cycle = \(m) suggest_cycle(m),
  flag_periods = \(m) flag_periods(m),
  flag_percent = \(m) flag_periods(m, "a cycle before", c(percent = 20)),
  episodes = \(m) summary(flag_periods(m)),
  turning_points = \(m) turning_points(m, span = 3),
  series_summary = \(m) series_summary(m),
  group_differences = \(m) group_differences(m, "month"),
  level_shifts = \(m) level_shifts(m),
  correlations = \(m) correlations(m),
  trace_value = \(m) trace_value(
    add_growth(m), "2031-03",
    series = if ("damp" %in% m$measure) "Bel / grist" else m[["mill"]][1]
  )
)

# Sentences as they are printed; an error with its bullets. A warning of R is
# one that we have not thought of.
said_of <- function(verb, table) {
  tryCatch(
    backfill:::describe(verb(table)), backfill_error = function(e) {
      c("Error:", strsplit(rlang::cnd_message(e), "\n")[[1]])
    }
  )
}

test_that("what is said stands in one file, to be read", {
  withr::local_options(width = 80, cli.unicode = FALSE)
  tables <- said_tables()
  for (kind in names(tables)) {
    said <- lapply(names(said_verbs), function(name) {
      table <- tables[[kind]]
      said <- withr::with_options(
        list(warn = 2), said_of(said_verbs[[name]], table)
      )
      c("", paste0("## ", name), paste("-", said))
    })
    expect_snapshot(
      writeLines(c(paste("#", kind), unlist(said))), cran = TRUE
    )
  }
})
