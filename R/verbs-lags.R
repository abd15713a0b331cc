# Verbs that ask the past: autocorrelation, flags, anomalies and turning points.

declare_autocorrelation <- function() {
  new_verb(
    "autocorrelation", "periods", "a result",
    "How a series is correlated with its own past.",
    lags = verb_argument(
      type_length(),
      "How many lags, or a length of time. By default two cycles."
    ),
    partial_coefficients = verb_argument(
      type_yes_no(),
      "Whether partial autocorrelations are given too. Default: yes."
    ),
    confidence = verb_argument(
      type_share(),
      "The share of lags within the band by chance. Default: 0.95."
    ),
    limits = verb_argument(
      type_choice(c("white noise", "large lag"), "BAND"),
      "What chance gives: \"white noise\" (the default) or \"large lag\"."
    ),
    of = of_column()
  )
}

declare_cross_correlation <- function() {
  new_verb(
    "cross_correlation", "periods", "a result", "Which of two series leads.",
    first = verb_argument(type_pair(
      "FIRST,SECOND", c("first", "second"), "Lantern,Hearth"
    ), paste(
      "Correlate two series, or measures, with each other: which leads,",
      "by how much."
    )),
    second = verb_argument(type_text("SECOND"), "The other of them."),
    lags = verb_argument(type_length(), "How many lags."),
    on = verb_argument(
      type_choice(c("differences", "values"), "WHAT"),
      "What is correlated of two series: differences or values."
    ),
    confidence = verb_argument(
      type_share(), "The share of lags within the band by chance."
    ), of = of_column()
  )
}

declare_suggest_cycle <- function() {
  new_verb(
    "suggest_cycle", "periods", "a result",
    "Give the cycles that series come back after.", of = of_column()
  )
}

declare_add_remainder <- function() {
  new_verb(
    "add_remainder", "periods", "periods",
    "Correlate what is left without season and trend.", index = season_file(),
    of = of_column(), name = new_name()
  )
}

declare_flag_periods <- function() {
  new_verb(
    "flag_periods", "periods", "a result",
    "Periods that depart from a baseline of prior periods.",
    against = verb_argument(type_text("BASELINE"), paste(
      "What periods are compared with: \"previous period\", \"a cycle",
      "before\", \"last periods\", season, \"year to date\" or the name of a",
      "column of figures. Default: the season where one is known by then, else",
      "the last periods."
    )),
    beyond = verb_argument(
      type_named_numbers("LIMIT:NUMBER", "percent:10 or sd:3"),
      paste(
        "The limit: percent:10, amount:50, sd:3 (standard deviations of",
        "past deviations; the default), mad:3.5",
        "(robust ones) or quantile:0.95. May repeat; beyond any is flagged."
      ),
      repeats = TRUE
    ),
    direction = verb_argument(
      type_choice(c("both", "up", "down"), "DIRECTION"),
      "both (the default), up or down."
    ),
    floor = verb_argument(
      type_number("AMOUNT"),
      "The least deviation for which a percentage counts. Default: 0."
    ),
    need = verb_argument(
      type_number("COUNT"), "How many of them must be there. By default half."
    ),
    last = verb_argument(
      type_number("COUNT"), "How many periods, or cycles, make the baseline."
    ),
    stat = verb_argument(
      type_choice(c("mean", "median", "smoothed"), "STATISTIC"),
      "mean (the default), median or smoothed."
    ),
    cycle = verb_argument(
      type_length(),
      "The cycle, such as \"1 year\". By default that of the periods."
    ),
    form = verb_argument(
      type_choice(season_forms, "FORM"),
      "Of a season: multiplicative (the default) or additive."
    ),
    beyond_all = verb_argument(
      type_flag(), "Flag only what is beyond all limits."
    ),
    exclude_flagged = verb_argument(
      type_flag(), "Keep flagged periods out of later baselines."
    ),
    spread_of = verb_argument(type_length(), paste(
      "Take standard deviations of the values of the last LENGTH, such as",
      "\"12 months\", instead of past deviations."
    )), of = of_column()
  )
}

declare_add_anomaly <- function() {
  new_verb(
    "add_anomaly", "periods", "periods",
    "Departures from the average of the position.",
    position = verb_argument(type_text("POSITION"), paste(
      "Give the periods with their anomalies, the departures from the",
      "average of POSITION, such as month or",
      "\"day of year\", instead of flags."
    )),
    standardised = verb_argument(
      type_flag(), "Anomalies in standard deviations of the position."
    ),
    smooth = verb_argument(type_number("POSITIONS"), paste(
      "Over how many positions, an odd number, the averages of anomalies",
      "are smoothed. Default: 1."
    )),
    running = verb_argument(
      type_flag(), "Add the sum of the anomalies so far."
    ),
    reference = verb_argument(
      new_type(
        "FROM,TO",
        function(text, argument) two_names(text, argument, "2028,2030")
      ),
      paste(
        "The first and last date of the averages that anomalies are measured",
        "from. By default all."
      )
    ),
    of = of_column(), name = new_name()
  )
}

declare_turning_points <- function() {
  new_verb(
    "turning_points", "periods", "a result", "Highs and lows.",
    span = verb_argument(type_length(), paste(
      "Give the turning points, the highs and lows among LENGTH on either",
      "side, instead of flags."
    )),
    of = of_column()
  )
}
