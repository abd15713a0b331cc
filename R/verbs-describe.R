# Verbs that describe series, compare groups of periods and date shifts.

declare_series_summary <- function() {
  new_verb(
    "series_summary", "periods", "a result",
    "What the figures of each series, or group of periods, are like.",
    by = groups_of_periods(),
    probs = verb_argument(type_numbers("SHARES"), paste(
      "Further quantiles of a description, such as \"0.05, 0.95\"."
    )),
    of = of_column()
  )
}

declare_latest <- function() {
  new_verb(
    "latest", "periods", "a result",
    "Give the latest whole value of each series, with its changes.",
    on = verb_argument(type_text("DATE"), paste(
      "Of --latest: the values that were whole on DATE. By default the end of",
      "the records."
    )),
    n = verb_argument(type_whole(1, 1e6, "how many series to give"), paste(
      "Of --latest: the COUNT series with the highest values alone."
    )),
    of = of_column()
  )
}

declare_group_differences <- function() {
  new_verb(
    "group_differences", "periods", "a result",
    "Give whether --groups differ by more than chance.",
    by = groups_of_periods(),
    stat = verb_argument(
      type_choice(c("mean", "median"), "STATISTIC"),
      "What is compared: mean (the default) or median."
    ),
    block = verb_argument(type_length(), paste(
      "Length of the blocks that stay together where chance is drawn. By",
      "default by the periods and their memory."
    )),
    confidence = confidence_of_verdict(),
    draws = verb_argument(
      type_whole(99, 1e6, "how many random orders to draw"),
      "How many random orders are drawn. Default: 999."
    ),
    seed = seed_of_chance(), of = of_column()
  )
}

declare_series_differences <- function() {
  new_verb(
    "series_differences", "periods", "a result",
    "Give whether series differ, period by period, by more than chance.",
    against = verb_argument(
      type_text("NAME"), "Compare all others with the series NAME alone."
    ),
    confidence = confidence_of_verdict(), of = of_column()
  )
}

declare_level_shifts <- function() {
  new_verb(
    "level_shifts", "periods", "a result",
    "Give where the level of each series shifted.",
    most = verb_argument(
      type_whole(1, 20, "how many shifts to look for"),
      "How many shifts are looked for. Default: 1."
    ),
    least = verb_argument(type_length(), paste(
      "How many periods there must be before, between and after shifts. By",
      "default an eighth of them."
    )),
    season = verb_argument(type_yes_no(), paste(
      "Whether a season is allowed for. By default where three cycles are",
      "there."
    )),
    line = verb_argument(
      type_flag(), "Allow for a straight line beside the shifts."
    ),
    confidence = confidence_of_verdict(), seed = seed_of_chance(),
    of = of_column()
  )
}

declare_check_identity <- function() {
  new_verb(
    "check_identity", "periods", "a result",
    "Whether an equation between measures holds in every period.",
    identity = verb_argument(type_text("EQUATION"), paste(
      "Give where an equation of measures holds and where it is broken, such",
      "as \"all = market + tide\"."
    )),
    tolerance = verb_argument(
      type_number("AMOUNT"),
      "By how much the sides of an equation may differ. Default: 0."
    )
  )
}

groups_of_periods <- function() {
  verb_argument(type_text("GROUPS"), paste(
    "A description, or with --differ a comparison, of each group: a position",
    "such as weekend, weekday or month, or a column."
  ))
}

confidence_of_verdict <- function() {
  verb_argument(type_share(), paste(
    "How sure verdicts and intervals of --differ and --shifts are to be.",
    "Default: 0.95."
  ))
}

seed_of_chance <- function() {
  verb_argument(
    type_seed(), "The seed of what is drawn at random. Default: 1."
  )
}
