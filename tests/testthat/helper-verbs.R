# Every exported verb, called once on tables whose series and measures may bear
# any name: what the tests of a whole class walk over.

# Months of two sites by two measures, with a season, a hole and an outlier:
# `series` names the columns that tell the sites apart, all alike.
plain_records <- function(series = "site", measures = c("first_m", "second_m"),
                          sites = c("Kell", "Brod"), months = 48) {
  n <- length(sites) * months
  month <- rep(
    seq(as.Date("2028-01-01"), by = "month", length.out = months),
    length(sites)
  )
  site <- rep(sites, each = months)
  i <- seq_len(n)
  wave <- 1 + 0.3 * sin(2 * pi * i / 12) + 0.004 * i
  noise <- 1 + 0.05 * sin(i * 12.9898) * cos(i * 78.233)
  columns <- list(month = month)
  columns[series] <- list(site)
  for (k in seq_along(measures)) {
    columns[[measures[[k]]]] <- round(
      1000 * k * wave * noise + 40 * k * cos(i / 3), 2
    )
  }
  columns[[measures[[1]]]][c(20, n - 3)] <- c(NA, 9000)
  tibble::new_tibble(columns, nrow = n)
}

read_plain <- function(data, series = "site",
                       measures = c("first_m", "second_m"), ...) {
  kinds <- rep(c("flow", "level"), length.out = length(measures))
  as_records(
    data, "month", stats::setNames(kinds, measures), series = series, ...
  )
}

# Each result by its name; one that fails is its condition. `r` are records, of
# whose measures `first` and `second` are two.
every_result <- function(r, m = roll_up(r, "month"), first, second) {
  line <- function(of, at = 1) {
    lines <- backfill:::line_names(m)[m$measure == of]
    unique(lines)[[at]]
  }
  grown <- function() add_growth(m, "1 year")
  some <- function() m[m$measure == first, ]
  level <- function() m[m$measure == second, ]
  index <- function() seasonal_index(m)
  flags <- function() {
    flag_periods(m, "a cycle before", c(percent = 20))
  }
  calls <- list(
    account = function() account(r),
    rows_set_aside = function() rows_set_aside(r),
    keep_dates = function() roll_up(keep_dates(r, from = "2029"), "quarter"),
    add_measures = function() {
      formula <- rlang::parse_expr(sprintf("`%s` / 2", first))
      roll_up(rlang::inject(add_measures(r, made_up = !!formula)), "quarter")
    },
    add_attributes = function() {
      table <- unique(as.data.frame(r)[backfill:::facts(r)$series[[1]]])
      table$basin <- c("north", "south")[seq_len(nrow(table))]
      roll_up(
        add_attributes(r, table, backfill:::facts(r)$series[[1]]), "month",
        by = "basin"
      )
    },
    rename_measures = function() {
      rename_measures(m, other_m = first)
    },
    join_records = function() {
      other <- as.data.frame(r)[c("month", backfill:::facts(r)$series)]
      other$beside <- seq_len(nrow(other))
      join_records(r, as_records(
        other, "month", c(beside = "flow"), series = backfill:::facts(r)$series
      ))
    },
    roll_up = function() roll_up(r, "quarter"),
    roll_up_by = function() roll_up(r, "month", by = character()),
    roll_up_further = function() roll_up(m, "year"),
    gaps = function() gaps(m),
    impute_gaps = function() impute_gaps(m, "linear"),
    widen = function() widen(some()),
    widen_series = function() widen(some(), side = "series"),
    add_growth = grown,
    add_returns = function() add_returns(level()),
    add_running_total = function() add_running_total(some()),
    add_running = function() add_running(m),
    add_rebased = function() add_rebased(m, at = "2028-01"),
    add_share = function() add_share(some()),
    add_lagged = function() add_lagged(m, 1),
    add_per_day = function() add_per_day(m),
    add_bands = function() add_bands(m, c(1000, 2000), of = "value"),
    count_bands = function() {
      count_bands(add_bands(
        m, c(1000, 2000), of = "value"
      ))
    },
    basket = function() {
      lines <- unique(backfill:::line_names(level()))
      basket(level(), stats::setNames(rep(0.5, 2), lines))
    },
    add_moving = function() add_moving(m, 3),
    add_smoothed = function() add_smoothed(m, 0.3),
    series_summary = function() series_summary(m),
    series_summary_by = function() series_summary(m, by = "quarter"),
    outliers = function() summary(series_summary(m)),
    group_differences = function() group_differences(m, "quarter"),
    group_verdicts = function() summary(group_differences(m, "quarter")),
    level_shifts = function() level_shifts(m),
    shift_summary = function() summary(level_shifts(m)),
    latest = function() latest(m),
    check_identity = function() {
      check_identity(m, sprintf("`%s` = 2 * `%s`", second, first))
    },
    rank_changes = function() rank_changes(m),
    rank_series = function() rank_series(m),
    cycle_profile = function() cycle_profile(m, "month"),
    cycle_profile_records = function() cycle_profile(r, "month"),
    cycle_grid = function() cycle_grid(m, "month", "year"),
    seasonal_index = index,
    season_tests = function() summary(index()),
    deseasonalise = function() deseasonalise(m, index()),
    reseasonalise = function() {
      reseasonalise(deseasonalise(m, index()), index(), of = "adjusted")
    },
    trend_line = function() trend_line(m, of = "value"),
    project = function() project(m, 6),
    series_differences = function() {
      series_differences(m, against = line(first))
    },
    season_revisions = function() season_revisions(m),
    calendar_effects = function() calendar_effects(m),
    add_calendar_adjusted = function() {
      add_calendar_adjusted(m, calendar_effects(m, days = "working"))
    },
    season_spells = function() season_spells(some()),
    spell_summary = function() summary(season_spells(some())),
    autocorrelation = function() autocorrelation(m),
    memory = function() summary(autocorrelation(m)),
    cross_correlation = function() {
      cross_correlation(m, line(first), line(second))
    },
    suggest_cycle = function() suggest_cycle(m),
    add_remainder = function() add_remainder(m),
    flag_periods = flags,
    flag_summary = function() summary(flags()),
    flag_episodes = function() summary(flags(), "episodes"),
    turning_points = function() turning_points(m, 5),
    rises = function() summary(turning_points(m, 5)),
    add_anomaly = function() add_anomaly(m, "month"),
    align_as_of = function() align_as_of(m, on = "month", delay = 10),
    correlations = function() correlations(m),
    correlations_each = function() correlations(m, each = "year", pairs = 5),
    rank_links = function() rank_links(m, line(first), ahead = 1:2),
    explain_target = function() explain_target(m, line(first)),
    trace_value = function() {
      trace_value(grown(), "2029-06", line(first), records = r)
    },
    trace_flags = function() trace_value(flags(), "2029-06", line(first)),
    trace_index = function() {
      trace_value(
        index(), row = 3, column = "index", made_of = m
      )
    },
    put_together = function() {
      other <- level()
      for (name in backfill:::facts(m)$series) {
        other[[name]] <- paste("other", other[[name]])
      }
      put_together(some(), other)
    },
    read_back = function() {
      file <- withr::local_tempfile(fileext = ".csv")
      write_periods(m, file)
      read_periods(file)
    },
    wide_growth = function() widen(grown(), of = "growth_1_year")
  )
  lapply(calls, function(one) {
    withr::local_seed(1)
    tryCatch(
      suppressWarnings(one()), error = function(cnd) cnd
    )
  })
}

# What a figure of each result shows, or its condition.
every_figure <- function(results) {
  lapply(results, function(x) {
    tryCatch(
      suppressWarnings({
        plot <- ggplot2::autoplot(x)
        ggplot2::ggplot_build(plot)
        plot
      }),
      error = function(cnd) cnd
    )
  })
}
