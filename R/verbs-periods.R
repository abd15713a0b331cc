# Verbs that make regular periods, and show or fill them.

declare_calendar <- function() {
  new_verb(
    "calendar", "nothing", "a calendar",
    "The rule that cuts time into periods.",
    every = verb_argument(type_text("LENGTH"), paste(
      "Length of the periods: hour, day, week, month (the default; of yearly",
      "or quarterly records what they come by), quarter, year, a number of",
      "these such as \"10 days\", third (of a month) or \"working day\"."
    )),
    zone = verb_argument(
      type_text("ZONE"), "Zone by whose clock periods start."
    ),
    week_start = verb_argument(
      type_text("DAY"), "First day of the week. Default: Monday."
    ),
    year_start = verb_argument(
      type_whole(1, 12, "the month in which the year starts", "MONTH"),
      "Month in which a fiscal year starts. Default: 1."
    ),
    anchor = verb_argument(type_text("DATE"), paste(
      "A day on which a period of several days, weeks, months or years",
      "starts."
    )),
    whole_weeks = verb_argument(
      type_choice(names(week_patterns), "WEEKS"), paste(
        "Months, quarters and years of whole weeks: 4-4-5, 4-5-4 or 5-4-4 by",
        "quarter, or \"by month\"."
      )
    ),
    first_week = verb_argument(
      type_choice(names(week_reaches), "WHICH"), paste(
        "Which week starts such a year or month, by its first day: nearest",
        "(the default) to the 1st of the month, before (on it or the last",
        "before), or after (on it or the first after)."
      )
    ),
    workdays = verb_argument(type_text("DAY"), paste(
      "A weekday on which something is expected; may repeat. Default:",
      "every day, or Monday to Friday with",
      "--holidays."
    ), repeats = TRUE),
    holidays = verb_argument(
      type_file("read_holidays"),
      "An iCalendar file of days on which nothing is expected."
    )
  )
}

declare_roll_up <- function() {
  new_verb(
    "roll_up", "records or periods", "periods",
    "Regular periods of dated records.",
    every = verb_argument(type_every(), "Length of the periods."),
    by = verb_argument(type_names("COLUMN"), paste(
      "Combine the series within each value of COLUMN; none combines them",
      "all. May repeat."
    ), repeats = TRUE),
    use = verb_argument(type_text("[NAME:]STATISTIC"), paste(
      "The statistic of the measure NAME, or of all: sum, mean, first,",
      "last, lowest, highest, median, sd, count,",
      "slots or a quantile such as 90%. Several of one measure make a",
      "measure each. By default its kind decides."
    ), repeats = TRUE),
    absent = verb_argument(type_text("[NAME:]MEANING"), paste(
      "What the lack of records means: zero for a flow, spread for a",
      "counter, whose rise over missing readings is",
      "then spread over them."
    ), repeats = TRUE),
    partial = verb_argument(
      type_choice(c("keep", "drop", "scale"), "WHAT"), paste(
        "First and last periods that are partial: keep (the default), drop",
        "or scale."
      )
    ),
    thin = verb_argument(type_choice(c("keep", "scale"), "WHAT"), paste(
      "The sum of a period that is complete though records are missing: keep",
      "(the default), or scale it by its coverage, standing as imputed."
    )),
    cadence = verb_argument(type_text("LENGTH"), paste(
      "How often something is recorded, such as hour or day, or",
      "irregular. Found from the records by default;",
      "it decides which periods are partial."
    )),
    enough = verb_argument(type_share(below = FALSE), paste(
      "The coverage from which a period counts as complete. Default: 0.9; for",
      "a level 0.75, for a counter 1."
    )),
    pool = verb_argument(type_text("NAME:HOW"), paste(
      "With --by, how a level NAME of several series is combined: mean,",
      "sum, or the measure that weighs them."
    ), repeats = TRUE),
    falls = verb_argument(type_text("[NAME:]MEANING"), paste(
      "What a fall of a counter is taken as: unknown (the default), count (a",
      "correction when it was made), spread (back over what it rose by before)",
      "or restart (from 0)."
    ), repeats = TRUE),
    rollover = verb_argument(new_type("[NAME:]READING"), paste(
      "The reading at which a counter starts from 0 again, such as 100000 for",
      "five digits."
    ), repeats = TRUE)
  )
}

declare_impute_gaps <- function() {
  new_verb(
    "impute_gaps", "periods", "periods", "Fill empty periods.",
    method = verb_argument(
      type_choice(c("carry", "linear", "seasonal", "zero"), "METHOD"),
      "Fill empty periods: carry, linear, seasonal or zero."
    ),
    longest = verb_argument(
      type_length(), "The longest run of periods to fill."
    ),
    cycle = verb_argument(
      type_length(),
      "The cycle of a seasonal filling. By default that of the periods."
    ),
    leading = verb_argument(
      type_flag(), "Fill empty periods before the first value too."
    )
  )
}

declare_add_per_day <- function() {
  new_verb(
    "add_per_day", "periods", "periods", paste(
      "Add flows per day, or per working day with --workdays or --holidays."
    ),
    # In R a calendar counts its own.
    workdays = verb_argument(type_flag(NULL), "Count working days."),
    of = of_column(), name = new_name()
  )
}

declare_gaps <- function() {
  new_verb(
    "gaps", "periods", "a table",
    "Give the runs of missing periods instead of the periods."
  )
}

declare_widen <- function() {
  new_verb(
    "widen", "periods", "a table", "Put periods or series side by side.",
    side = verb_argument(
      type_choice(c("periods", "series"), "SIDE"),
      "Give a wide table, with a column for each of the periods or series."
    ),
    of = of_column(),
    partial = verb_argument(
      type_flag(), "Show the values of partial periods in a wide table too."
    )
  )
}

declare_rank_series <- function() {
  new_verb(
    "rank_series", "periods", "a table", "The leaders on a date.",
    at = verb_argument(
      type_text("DATE"),
      paste(
        "Give the series in order of their values in the period of DATE,",
        "or latest."
      )
    ),
    n = verb_argument(
      type_whole(1, 1e6, "how many to list"),
      "How many series to give. Default: 10."
    ), of = of_column()
  )
}

of_column <- function() {
  verb_argument(
    type_text("COLUMN"), "The column to calculate it of."
  )
}

new_name <- function() {
  verb_argument(
    type_text("NAME"), "Name of the new column."
  )
}
