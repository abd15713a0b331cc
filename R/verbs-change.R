# Verbs that calculate changes, and moving windows.

declare_add_growth <- function() {
  new_verb(
    "add_growth", "periods", "periods", "Growth over earlier periods.",
    over = verb_argument(type_length(), paste(
      "Growth over LENGTH: a number of periods, or such as \"1 year\".",
      "Give it once for each. Default: 1 and, where the table reaches so far,",
      "\"1 year\", unless another calculation is asked for."
    ), repeats = TRUE),
    as = verb_argument(type_choice(names(growth_forms), "FORM"), paste(
      "percent (the default), ratio, difference, log, annualised (percent",
      "a year) or points (percentage points,",
      "for measures in percent)."
    )),
    forward = verb_argument(
      type_flag(),
      paste(
        "Growth still to come, from each period on: a target, which",
        "explains nothing."
      )
    ),
    max_age = verb_argument(type_length(), paste(
      "Where a base has no whole value, take the latest that lies no more than",
      "LENGTH before it. Default: 0."
    )),
    of = of_column(), name = new_name()
  )
}

declare_add_returns <- function() {
  new_verb(
    "add_returns", "periods", "periods", "Returns of a level.",
    as = verb_argument(
      type_choice(c("simple", "log"), "TYPE"),
      "Add the returns of a level: simple or log."
    ),
    total = verb_argument(type_choice(
      c("none", "growth_of_1", "drawdown"), "WHAT"
    ), paste(
      "What returns come to so far, instead of those of each period:",
      "growth_of_1 or drawdown. Default: none."
    )),
    longest = verb_argument(type_length(), paste(
      "How far back the value before may lie. Default: as many days may be",
      "missing as are closed every week."
    )),
    of = of_column(), name = new_name()
  )
}

declare_add_lagged <- function() {
  new_verb(
    "add_lagged", "periods", "periods", "Earlier values beside each value.",
    lag = verb_argument(type_length(), paste(
      "Add the value from LENGTH before, such as 1 or \"1 year\"; with a",
      "minus sign from after. May repeat."
    ), repeats = TRUE),
    of = of_column(), name = new_name()
  )
}

declare_add_running_total <- function() {
  new_verb(
    "add_running_total", "periods", "periods", "The total of a flow so far.",
    reset = verb_argument(type_text("LENGTH"), paste(
      "Add the total of a flow so far, from the start of each LENGTH,",
      "such as year, or never."
    )),
    of = of_column(), name = new_name()
  )
}

declare_add_running <- function() {
  new_verb(
    "add_running", "periods", "periods",
    "The highest, lowest or mean so far.",
    stat = verb_argument(
      type_choice(statistics_of("running"), "STATISTIC"), paste(
        "Add the highest, lowest or mean of each series so far."
      )
    ),
    reset = verb_argument(type_text("LENGTH"), paste(
      "From the start of each LENGTH on, such as year, instead of from the",
      "first period."
    )),
    of = of_column(), name = new_name()
  )
}

declare_add_rebased <- function() {
  new_verb(
    "add_rebased", "periods", "periods", "Series that start from one value.",
    start_value = verb_argument(
      type_number(),
      paste(
        "Add each series rebased, so that it is NUMBER, such as 100, in",
        "one period."
      )
    ),
    at = verb_argument(type_text("DATE"), paste(
      "That period, by a date in it. By default the first in which all",
      "series have a whole value."
    )),
    of = of_column(), name = new_name()
  )
}

declare_add_share <- function() {
  new_verb(
    "add_share", "periods", "periods", "Shares of the total of all series.",
    within = verb_argument(type_names("COLUMNS"), paste(
      "Add the share of each series in the total of those alike in",
      "COLUMNS; none for the total of all."
    )),
    of = of_column(), name = new_name()
  )
}

declare_basket <- function() {
  new_verb(
    "basket", "periods", "periods", "One index of several series.",
    weights = verb_argument(new_type("WEIGHTS", function(text, argument) {
      if (text == "equal") {
        NULL
      } else {
        type_named_numbers("", "cod=0.6, ling=0.4", "=")$parse(text, argument)
      }
    }), paste(
      "Make one basket of several levels, equal or weighted such as",
      "\"cod=0.6, ling=0.4\"."
    )),
    rebalance = verb_argument(
      type_choice(c("each period", "never"), "WHEN"),
      paste(
        "When the weights are set again: \"each period\" (the default) or",
        "never."
      )
    ),
    of = of_column()
  )
}

declare_add_bands <- function() {
  new_verb(
    "add_bands", "periods", "periods", "Sort figures into bands.",
    breaks = verb_argument(type_numbers("BREAKS"), paste(
      "Sort the first column that is added into bands that meet at",
      "BREAKS, such as \"-5, 0, 5\"."
    )),
    labels = verb_argument(
      type_names("NAMES"),
      paste(
        "Names of the bands from the lowest to the highest, one more than",
        "breaks."
      )
    ),
    of = of_column(),
    scale = verb_argument(
      type_choice(c("value", "quantile", "sd"), "WHAT"), paste(
        "What the breaks of bands are: value (the default), quantile",
        "(shares from 0 to 1) or sd (standard deviations)."
      )
    ),
    closed = verb_argument(
      type_choice(c("left", "right"), "END"),
      "Which end belongs to a band: left (the default), the lower, or right."
    ),
    name = new_name()
  )
}

declare_count_bands <- function() {
  new_verb(
    "count_bands", "periods", "a table",
    "Give the number of periods in each band instead of the periods.",
    band = verb_argument(type_text("COLUMN"), "The column of the bands.")
  )
}

declare_rank_changes <- function() {
  new_verb(
    "rank_changes", "periods", "a table", "The largest movements.",
    n = verb_argument(
      type_whole(1, 1e6, "how many to list"),
      paste(
        "Give the COUNT first movements from one period to the next",
        "instead of all."
      )
    ),
    order = verb_argument(type_choice(rank_orders, "ORDER"), paste(
      "Which movements come first: largest (the default), smallest,",
      "rises, falls, or flattest stretches."
    )),
    as = verb_argument(type_text("FORM"), "percent or difference."),
    stretch = verb_argument(
      type_whole(2, 1e6, "how many periods a stretch has", "PERIODS"),
      "How many periods a flattest stretch has. Default: 3."
    ),
    per_series = verb_argument(
      type_flag(), "Rank the movements of each series apart."
    ),
    within = verb_argument(type_length(), paste(
      "Rank the movements within each longer period apart, such as within each",
      "year."
    )),
    of = of_column()
  )
}

declare_add_moving <- function() {
  new_verb(
    "add_moving", "periods", "periods",
    "Moving averages and other figures of moving windows.",
    window = verb_argument(type_length(), paste(
      "Width of the window: a number of periods, or such as \"1 year\".",
      "Give it once for each. By default one cycle,",
      "such as 12 months."
    ), repeats = TRUE),
    stat = verb_argument(type_text("STATISTIC"), paste(
      "mean (the default), sum, median, sd, lowest, highest or a",
      "quantile such as 90%. Give it once for each."
    ), repeats = TRUE),
    align = verb_argument(
      type_choice(c("trailing", "centred", "leading"), "ALIGN"),
      "Where the window lies: trailing (the default), centred or leading."
    ),
    weights = verb_argument(new_type("WEIGHTS", function(text, argument) {
      if (text %in% weight_names) {
        text
      } else {
        type_numbers("")$parse(text, argument)
      }
    }), paste0(
      paste(
        "Weights of the mean, one for each period such as \"1, 2, 1\", or",
        "by name: "
      ),
      in_words(weight_names, last = " or "), "."
    )),
    present = verb_argument(type_share(below = FALSE), paste(
      "The share of a window's periods that must be whole. Default: 1,",
      "all of them."
    )),
    of = of_column(), name = new_name()
  )
}

declare_add_smoothed <- function() {
  new_verb(
    "add_smoothed", "periods", "periods", "Exponential smoothing.",
    half_life = verb_argument(type_length(), paste(
      "Add exponential smoothing in which a period counts half after LENGTH."
    )),
    alpha = verb_argument(
      type_number("WEIGHT"),
      "The same by the weight of the latest period, above 0 and up to 1."
    ),
    of = of_column(), name = new_name()
  )
}
