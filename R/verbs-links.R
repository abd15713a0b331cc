# Verbs that relate series to each other.

declare_correlations <- function() {
  new_verb(
    "correlations", "periods", "a result",
    "How much each two series move together.",
    method = verb_argument(type_choice(correlation_methods, "METHOD"), paste(
      "pearson (the default), spearman, kendall or covariance."
    )),
    on = verb_argument(
      type_choice(c("changes", "values"), "WHAT"),
      "What is correlated: changes from the period before, or values."
    ),
    pairs = fewest_pairs(3),
    confidence = verb_argument(
      type_share(),
      "The share of cases that an interval holds. Default: 0.95."
    ),
    each = verb_argument(
      type_text("LENGTH"),
      "Correlate within each year, quarter or other longer period."
    ),
    window = verb_argument(
      type_length(), "Correlate over a moving window of LENGTH."
    ),
    by = verb_argument(type_text("COLUMN"), paste(
      "Correlate within each value of a series column, the series that are",
      "left."
    )),
    of = of_column()
  )
}

declare_as_known_on <- function() {
  new_verb(
    "as_known_on", "records", "records", "The records as they stood on a day.",
    date = verb_argument(type_text("DATE"), paste(
      "Keep what was published up to DATE, in the version of then; --known",
      "names the column with the day of publication."
    ))
  )
}

declare_align_as_of <- function() {
  new_verb(
    "align_as_of", "records or periods, or several", "a result",
    "Series of unlike frequency as they were known.",
    on = verb_argument(type_text("LENGTH"), paste(
      "Give each series as it was known at the end of each month, or other",
      "LENGTH, or on the days of the series of that name."
    )),
    delay = verb_argument(
      type_delay(),
      paste(
        "How many days after the end of its period a figure is known: DAYS for",
        "all series, or SERIES:DAYS, once for each. Not needed with --known."
      ),
      repeats = TRUE
    ),
    max_age = verb_argument(
      type_number("DAYS"),
      "The most days since the end of its period that a value is carried."
    ),
    growth = verb_argument(type_text("LENGTH"), paste(
      "Carry each series' growth over LENGTH, along its own periods, instead",
      "of its values."
    )),
    of = of_column()
  )
}

declare_put_together <- function() {
  new_verb(
    "put_together", "several periods", "periods",
    "Several tables of one calendar as one."
  )
}

declare_join_records <- function() {
  new_verb(
    "join_records", "several records", "records",
    "The measures of several tables side by side, by series and time."
  )
}

declare_rank_links <- function() {
  new_verb(
    "rank_links", "periods", "a result",
    "What moves with a series, or before it.",
    target = target_of_links(), ahead = ahead_of_links(),
    horizons = horizons_of_links(),
    second = verb_argument(
      type_text("NAME"),
      "A second target, to see whether the links hold for it."
    ),
    pairs = fewest_pairs(4),
    of = of_column()
  )
}

declare_explain_target <- function() {
  new_verb(
    "explain_target", "periods", "a result",
    paste(
      "Fit a tree to the earlier changes of the other series, and judge it on",
      "the later ones; --target names the series."
    ),
    target = target_of_links(), ahead = ahead_of_links(),
    horizons = horizons_of_links(),
    held = verb_argument(
      type_share(),
      "The share of periods, the last ones, to judge a tree on. Default: 0.3."
    ),
    depth = verb_argument(
      type_whole(1, 10, "how many splits one after the other"),
      "How many splits deep a tree may be. Default: 3."
    ),
    least = verb_argument(
      type_whole(2, 1e6, "the least number of periods in a leaf"),
      "The least number of periods in a leaf of a tree. Default: 5."
    ),
    of = of_column()
  )
}

target_of_links <- function() {
  verb_argument(type_text("NAME"), paste(
    "Rank every other series by how its changes go with those of NAME, now and",
    "ahead; with --tree, explain NAME by them."
  ))
}

ahead_of_links <- function() {
  verb_argument(type_numbers("PERIODS"), paste(
    "How many periods ahead, such as \"0, 1, 2\"; of a tree one number.",
    "By default 0 to 4, and 1 of a tree."
  ))
}

horizons_of_links <- function() {
  verb_argument(type_numbers("PERIODS"), paste(
    "Over how many periods changes are taken, such as \"1, 4\"; 0 for the",
    "figures themselves. By default 1, or 0 of what are changes already."
  ))
}

fewest_pairs <- function(least) {
  verb_argument(
    type_whole(least, 1e6, "the least number of periods in common"),
    "The least number of periods in common. Default: 10."
  )
}

# "10", or "ice sold:3" for one series.
type_delay <- function() {
  new_type("[SERIES:]DAYS", function(text, argument) {
    name <- sub(":?[^:]*$", "", text)
    days <- suppressWarnings(as.numeric(sub("^.*:", "", text)))
    if (anyNA(days)) {
      stop_text(
        text, argument, "It must be days, such as 10 or \"ice sold:3\"."
      )
    }
    if (all(name == "")) days else stats::setNames(days, name)
  })
}
