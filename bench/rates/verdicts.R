# What each verb says of simulated series, in the order that they are shown.

verdicts <- list(
  verdict(
    "seasonal_index()", "positions differ", 0.05, c(shapes, slopes), seasons,
    c(24, 30, 36, 60, 120), function(x) index_facts(x)$season_p < 0.05
  ),
  verdict(
    "seasonal_index()", "the season moves", 0.05,
    c(shapes, seasons, "season and slope"), character(),
    c(24, 26, 30, 36, 60, 120, 125),
    function(x) index_facts(x)$drift_p < 0.05
  ),
  verdict(
    "seasonal_index()", "the moving mean moves", 0.05,
    c(shapes, seasons, "season and slope", levels_of[3:5]),
    "level, season that moves", c(36, 60, 120, 240), function(x) {
      index <- quiet(seasonal_index(x, form = "auto", combine = "moving mean"))
      summary(index)$kept < 1
    }
  ),
  verdict(
    "seasonal_index()", "the season moves, and no other form fits", 0.05,
    c("additive season under a trend", "level, season of 40%"), character(),
    c(60, 120), function(x) {
      facts <- index_facts(x, "multiplicative")
      facts$drift_p < 0.05 & !(facts$drift_p_other >= 0.05) %in% TRUE
    }
  ),
  verdict(
    "seasonal_index()", "ratios stand apart", 0.05,
    c("noise", "memory 0.6", "season of 3 sd", "spread by position"),
    "one outlier", c(36, 60, 84, 120), function(x) {
      index <- quiet(seasonal_index(x, form = "additive"))
      as.vector(tapply(index$disagree != "", index$id, any))
    }
  ),
  verdict(
    "seasonal_index()", "ratios stand apart, moving mean", 0.05,
    c("noise", "memory 0.6", "season of 3 sd", "spread by position",
      "level, season that moves"),
    "one outlier", c(36, 60, 84, 120), function(x) {
      index <- quiet(
        seasonal_index(x, form = "auto", combine = "moving mean")
      )
      as.vector(tapply(index$disagree != "", index$id, any))
    }
  ),
  verdict(
    "autocorrelation()", "structure", 0.05,
    c(
      setdiff(shapes, c(
        "memory 0.3", "memory 0.6", "memory 0.9", "random walk"
      )), "spread that clusters"
    ),
    c("memory 0.3", "memory 0.6", seasons), c(36, 60, 120),
    function(x) grepl("^structure", summary(autocorrelation(x))$verdict)
  ),
  verdict(
    "autocorrelation()", "seasonal", 0.05,
    c(shapes, slopes, "wave of 11 months", "wave of 13 months",
      "spread that clusters"), seasons, c(36, 60, 120),
    function(x) summary(autocorrelation(x))$verdict == "structure, seasonal"
  ),
  verdict(
    "trend_line()", "a trend", 0.05,
    c(shapes, "memory 0.8", "slow memory 0.95 and noise",
      "random walk and noise"), c(slopes, "a rise that bends"),
    c(24, 36, 60, 120, 240),
    function(x) quiet(trend_line(x, of = "value"))$p < 0.05
  ),
  verdict(
    "series_differences()", "differ", 0.05,
    c(shapes, "slow memory 0.95 and noise", "season of 1 sd"), character(),
    c(24, 36, 60, 120), function(x) pairs_of(x, gap_found)
  ),
  verdict(
    "series_differences()", "differ, by 1 sd", 0.05, character(),
    c("noise", "memory 0.6", "20% missing"), c(24, 36, 60, 120),
    function(x) {
      pairs_of(x, function(x, first, second) gap_found(x, first, second, 1))
    }
  ),
  verdict(
    "calendar_effects()", "weekdays", 0.05,
    c(shapes, "memory -0.5", "season of 3 sd", "season and slope"),
    character(), c(36, 60, 120), weekdays_found, noise = NULL, days = NULL
  ),
  verdict(
    "calendar_effects()", "working days", 0.05,
    c("noise", "memory 0.6", "memory -0.5", "random walk", "one outlier"),
    character(), c(36, 60, 120),
    function(x) weekdays_found(x, days = "working"), noise = NULL, days = NULL
  ),
  verdict(
    "calendar_effects()", "weekdays, as an index names them", 0.01,
    c("noise", "memory 0.6", "memory -0.5", "random walk", "sparse counts",
      "season of 3 sd"),
    character(), c(36, 60, 120),
    function(x) weekdays_found(x, limit = 0.01), noise = NULL, days = NULL
  ),
  verdict(
    "calendar_effects()", "a leap day", 0.05,
    c("noise", "memory 0.6", "memory -0.5", "random walk", "one outlier",
      "lognormal 0.5"),
    character(), c(60, 120), function(x) {
      effect_found(x, "leap day", leap_month)
    }, noise = NULL, days = NULL
  ),
  verdict(
    "calendar_effects()", "a leap day of 2 sd", 0.05, character(),
    c("noise", "memory 0.6"), c(60, 120), function(x) {
      effect_found(x, "leap day", leap_month, 2)
    }, noise = NULL, days = NULL
  ),
  verdict(
    "calendar_effects()", "a festival", 0.05,
    c("noise", "memory 0.6", "memory -0.5", "random walk", "one outlier",
      "lognormal 0.5"),
    character(), c(60, 120), function(x) {
      effect_found(x, "festival", festival_month, festivals = festivals)
    }, noise = NULL, days = NULL
  ),
  verdict(
    "calendar_effects()", "a festival of 2 sd", 0.05, character(),
    c("noise", "memory 0.6"), c(60, 120), function(x) {
      effect_found(x, "festival", festival_month, 2, festivals = festivals)
    }, noise = NULL, days = NULL
  ),
  verdict(
    "calendar_effects()", "weekdays, a Saturday adds 1 sd", 0.05, character(),
    c("noise", "memory 0.6", "random walk", "one outlier"), c(36, 60, 120),
    function(x) weekdays_found(x, 1), noise = NULL, days = NULL
  ),
  verdict(
    "level_shifts()", "a shift", 0.05,
    c(shapes, "memory 0.8", "slow memory 0.95 and noise",
      "random walk and noise", "season of 3 sd"),
    c("shift of 1 sd", "shift of 2 sd", "shift of 1 sd beside a season"),
    c(60, 120), function(x) {
      found <- summary(quiet(level_shifts(x)))
      found$verdict == "shifts"
    }, lines = 200
  ),
  # On a slope a level changes as well, but not at once.
  verdict(
    "level_shifts()", "a shift at once", 0.05, c(slopes, "random walk"),
    c("shift of 1 sd", "shift of 2 sd"), c(60, 120), function(x) {
      found <- quiet(level_shifts(x))
      unique(x$id) %in% found$id[found$taken == 1]
    }, lines = 200
  ),
  verdict(
    "level_shifts()", "the interval of the size misses it", 0.05,
    "shift of 2 sd", character(), c(60, 120), function(x) {
      found <- quiet(level_shifts(x))
      found$lower > 2 | found$upper < 2
    }, lines = 200
  ),
  verdict(
    "level_shifts()", "the interval of the period misses it", 0.05,
    "shift of 2 sd", character(), c(60, 120), function(x) {
      found <- quiet(level_shifts(x))
      true <- sort(unique(x$period))[length(unique(x$period)) / 2 + 1]
      found$from > true | found$to < true
    }, lines = 200
  ),
  verdict(
    "trend_line()", "the interval of the slope misses it", 0.05,
    "slope of 3 sd", character(), c(24, 36, 60, 120, 240), function(x) {
      slope <- 3 / (length(unique(x$period)) - 1)
      found <- quiet(trend_line(x, of = "value"))
      found$lower > slope | found$upper < slope
    }
  ),
  verdict(
    "group_differences()", "the interval of a difference misses it", 0.05,
    c("shift of 1 sd", "shift of 1 sd beside a season"), character(),
    c(60, 120), function(x) {
      n <- length(unique(x$period))
      late <- as.integer(factor(x$period)) > n / 2
      found <- quiet(group_differences(x, by = late))
      own <- found[found$group == "TRUE", ]
      own$lower > 1 | own$upper < 1
    }, lines = 100
  ),
  verdict(
    "cross_correlation()", "one leads", 0.05,
    c("noise", "memory 0.6", "random walk", "season of 3 sd"), character(),
    c(36, 60, 120), function(x) {
      pairs_of(x, function(x, a, b) {
        said <- sentences_of(quiet(cross_correlation(x, a, b)))
        if (grepl("Both have a season", said)) NA else
          grepl("so far out by chance with", said)
      })
    }
  ),
  verdict(
    "correlations()", "related", 0.05,
    c("noise", "memory 0.6", "random walk", "season of 3 sd"), character(),
    c(36, 60, 120), function(x) quiet(correlations(x, on = "values"))$p < 0.05,
    lines = 60
  ),
  verdict(
    "rank_links()", "a link at q < 0.1 in a table", 0.1,
    c("noise", "memory 0.6", "season of 3 sd"), character(), c(60, 120),
    function(x) {
      targets <- unique(x$id)[seq(1, length(unique(x$id)), by = 12)]
      vapply(targets, function(target) {
        near <- unique(x$id)[match(target, unique(x$id)) + 0:11]
        any(quiet(
          rank_links(x[x$id %in% near, ], target, horizons = 0)
        )$q < 0.1)
      }, NA)
    }, lines = 240, few = 24
  ),
  verdict(
    "flag_periods()", "flagged, by default", 0.01, levels_of, character(),
    c(48, 120), flags_of, lines = 200
  ),
  verdict(
    "flag_periods()", "flagged, a cycle before", 0.01, levels_of, character(),
    c(48, 120), function(x) flags_of(x, "a cycle before"), lines = 200
  ),
  verdict(
    "flag_periods()", "flagged, against the season", 0.01, levels_of,
    character(), c(60, 120), function(x) {
      flags_of(x, "season", form = "additive")
    }, lines = 200
  ),
  verdict(
    "group_differences()", "differ", 0.05,
    c("noise", "memory 0.6", "promotions in high season, no effect"),
    character(), c(60, 120), function(x) of_groups(x, promoted), lines = 100
  ),
  verdict(
    "group_differences()", "differ, second half", 0.05,
    c("noise", "memory 0.6", "memory 0.8", "season of 3 sd"),
    c("shift of 1 sd", "shift of 1 sd beside a season"), c(60, 120),
    function(x) of_groups(x, function(n) seq_len(n) > n / 2), lines = 100
  ),
  outside("line"), outside("growth"), outside("level"), outside("recent"),
  outside("auto"), outside("level", "moving mean"),
  outside("auto", "moving mean"),
  verdict(
    "suggest_cycle()", "a cycle", 0.05,
    c("noise", "memory -0.5", "memory 0.6", "random walk", "lognormal 1.5"),
    c(seasons, "level, season of 10%"), c(60, 120), function(x) {
      unique(x$id) %in% quiet(suggest_cycle(x))$id
    }
  ),
  verdict(
    "series_summary()", "not normal", 0.05, c("noise", "memory 0.6"),
    c("t with 3 degrees", "lognormal 0.5", "lognormal 1.5"),
    c(24, 36, 60, 120), function(x) series_summary(x)$normality_p < 0.05
  ),
  verdict(
    "seasonal_index()", "the course of the day differs by weekday", 0.05,
    c("hours, noise", "hours, day and week", "hours, day and memory 0.6"),
    "hours, weekend of its own", 24 * 7 * c(4, 8), function(x) {
      summary(quiet(seasonal_index(
        x, cycle = "1 week", form = "additive"
      )))$shape_p < 0.05
    }, lines = 200
  ),
  verdict(
    "explain_target()", "better than both rivals", 0.05,
    c("noise", "random walk", "memory 0.6"), character(), c(60, 120),
    function(x) {
      names <- unique(x$id)
      six <- split(names, ceiling(seq_along(names) / 6))
      vapply(six, function(names) {
        found <- quiet(explain_target(x[x$id %in% names, ], names[[1]]))
        summary(found)$p[[1]] < 0.05
      }, NA, USE.NAMES = FALSE)
    }, lines = 600, few = 24, noise = NULL, days = NULL
  ),
  verdict(
    "season_spells()", "a season", 0.05,
    c("noise", "memory 0.6", "memory 0.9", "random walk", slopes), seasons,
    c(60, 120), function(x) summary(quiet(season_spells(x)))$p < 0.05,
    lines = 100, days = NULL
  ),
  verdict(
    "seasonal_index()", "a season stands out among sixty", 0.1, "noise",
    character(), c(60, 120), function(x) {
      stand_out(x, function(x) seasonal_index(x, form = "additive"))
    }, lines = 3600, few = 120
  ),
  verdict(
    "autocorrelation()", "structure stands out among sixty", 0.1, "noise",
    character(), c(60, 120), function(x) stand_out(x, autocorrelation),
    lines = 3600, few = 120
  ),
  verdict(
    "trend_line()", "a trend stands out among sixty", 0.1, "noise",
    character(), c(60, 120), function(x) {
      stand_out(x, function(x) trend_line(x, of = "value"))
    }, lines = 3600, few = 120
  )
)
