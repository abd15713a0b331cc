# Verbs of the season.

declare_seasonal_index <- function() {
  new_verb(
    "seasonal_index", "periods", "a result",
    "How a season that comes back runs against the average.",
    cycle = cycle_length(), form = season_form(), method = season_method(),
    combine = season_combine(),
    normalise = verb_argument(
      type_yes_no(),
      "Whether the indices are made to average to 1, or 0. Default: yes."
    ),
    of = of_column()
  )
}

declare_deseasonalise <- function() {
  new_verb(
    "deseasonalise", "periods", "periods",
    "Give the periods with their values without the season.",
    index = season_file(), of = of_column(), name = new_name()
  )
}

declare_reseasonalise <- function() {
  new_verb(
    "reseasonalise", "periods", "periods",
    "Put the season of --index back into records that have none.",
    index = season_file(), of = of_column(), name = new_name()
  )
}

declare_trend_line <- function() {
  new_verb(
    "trend_line", "periods", "a result",
    "Give the straight line through each series without its season.",
    of = of_column(),
    confidence = share_held()
  )
}

declare_project <- function() {
  new_verb(
    "project", "periods", "periods", "What comes next.",
    periods = verb_argument(
      type_length(),
      paste(
        "Give the periods with a projection over LENGTH, such as 12 or",
        "\"1 year\"."
      )
    ),
    base = verb_argument(
      type_choice(c(names(bases), "auto"), "WHAT"), paste(
        "What a projection carries on: level, line, growth, recent",
        "(exponential smoothing), or auto (the default), the one that missed",
        "least."
      )
    ),
    confidence = share_held(),
    cycle = cycle_length(), form = season_form(), method = season_method(),
    combine = season_combine(), of = of_column()
  )
}

declare_season_revisions <- function() {
  new_verb(
    "season_revisions", "periods", "a result",
    "Give how much adjusted figures were revised when later ones were known.",
    cycle = cycle_length(), form = season_form(), method = season_method(),
    combine = season_combine(), of = of_column()
  )
}

declare_calendar_effects <- function() {
  new_verb(
    "calendar_effects", "periods", "a result",
    "Give what weekdays, leap days and moving festivals do to each period.",
    days = verb_argument(
      type_choice(c("each", "working", "none"), "DAYS"), paste(
        "Weekdays each by itself (each, the default), working days against the",
        "others (working), or none."
      )
    ),
    festivals = verb_argument(
      type_file("read_holidays"),
      "An iCalendar file of a festival that moves from year to year."
    ),
    before = days_beside("before"), after = days_beside("after"),
    form = verb_argument(type_choice(season_forms, "FORM"), paste(
      "multiplicative (the default), in percent, or additive."
    )),
    confidence = share_held(), of = of_column()
  )
}

days_beside <- function(side) {
  verb_argument(
    type_whole(0, 60, "how many days"),
    sprintf("How many days %s a festival count as well.", side)
  )
}

declare_add_calendar_adjusted <- function() {
  new_verb(
    "add_calendar_adjusted", "periods", "periods",
    "Give the periods without the effects of the calendar that were found.",
    effects = verb_argument(type_earlier(), "Effects from calendar_effects()."),
    of = of_column(), name = new_name()
  )
}

declare_season_spells <- function() {
  new_verb(
    "season_spells", "periods", "a result",
    "When the season of each year starts and ends.",
    seasons = verb_argument(
      type_whole(1, 6, "how many seasons a year has"), paste(
        "Give when the season starts and ends in each year, of COUNT seasons a",
        "year."
      )
    ),
    reach = verb_argument(type_length(), paste(
      "How far a season of --spells may lie from that of the average year. By",
      "default a sixth of the year."
    )),
    seed = seed_of_chance(), of = of_column()
  )
}

declare_cycle_profile <- function() {
  new_verb(
    "cycle_profile", "records or periods", "a result",
    "What a measure is at each position of a cycle.",
    position = verb_argument(type_text("POSITION"), paste(
      "Give the profile over POSITION: hour, weekday, \"day of month\",",
      "\"day of year\", week, month, third or",
      "quarter; of the records themselves unless --every is given."
    )),
    apart = verb_argument(type_text("POSITION"), paste(
      "A profile for each POSITION of another kind, weekend, or the",
      "values of a column."
    )),
    stat = season_statistic(),
    holds = verb_argument(
      type_share(),
      "The share of the figures within a profile's band. Default: 0.8."
    ),
    of = of_column()
  )
}

declare_cycle_grid <- function() {
  new_verb(
    "cycle_grid", "records or periods", "a result",
    "A grid of two positions.",
    rows = verb_argument(type_pair(
      "ROWS,COLUMNS", c("rows", "columns"), "weekday,hour"
    ), paste(
      "Give a grid of two positions, such as weekday,hour; or date,hour;",
      "or year,month."
    )),
    columns = verb_argument(type_text("POSITION"), "What lies across."),
    stat = season_statistic(), of = of_column()
  )
}

cycle_length <- function() {
  verb_argument(type_length(), paste(
    "After how long the season comes back: a number of periods, or such as",
    "\"1 year\". By default a year of months,",
    "quarters and weeks, a week of days and hours."
  ))
}

season_form <- function() {
  verb_argument(
    type_choice(c(season_forms, "auto"), "FORM"), paste(
      "multiplicative (the default), additive, or auto, the one that fits",
      "better over all series."
    )
  )
}

season_method <- function() {
  verb_argument(type_choice(season_methods, "METHOD"), paste(
    "What values are compared with: \"centred average\" over a cycle (the",
    "default) or \"overall average\"."
  ))
}

season_combine <- function() {
  verb_argument(type_choice(combines, "HOW"), paste(
    "How ratios of a position combine: \"mean without outliers\" (the",
    "default), mean, median, \"trimmed mean\", or \"moving mean\", which",
    "follows a season that moves."
  ))
}

season_file <- function() {
  verb_argument(type_file("read_index"), paste(
    "With --adjust or --put-back: an index that --save wrote, instead of",
    "that of the periods themselves."
  ))
}

season_statistic <- function() {
  verb_argument(
    type_text("STATISTIC"),
    paste(
      "Of a profile or grid: mean (the default), median, sum or a",
      "quantile such as 90%."
    )
  )
}

share_held <- function() {
  verb_argument(
    type_share(),
    "The share of cases that an interval is to hold, by default 0.95."
  )
}
