# Verbs that take records, or make them.

declare_rename_measures <- function() {
  new_verb(
    "rename_measures", "records or periods", "the same",
    "Give measures other names.",
    ... = verb_argument(
      type_renamed(), "Give the measure OLD the name NEW; may repeat.",
      repeats = TRUE
    )
  )
}

declare_add_measures <- function() {
  new_verb(
    "add_measures", "records", "records", "Make measures of measures.",
    ... = verb_argument(type_formulas(), paste(
      "Add a measure that is made of others, such as \"total = market +",
      "tide\", by + - * / and brackets; may repeat.",
      "Its kind follows from theirs; where it does not, say it:",
      "\"NAME:KIND = FORMULA\"."
    ), repeats = TRUE),
    measures = verb_argument(
      type_measures(),
      "The kinds of the new measures where the formula leaves them open."
    )
  )
}

declare_add_attributes <- function() {
  new_verb(
    "add_attributes", "records", "records", "Join a small table.",
    table = verb_argument(
      type_path(),
      paste(
        "A small table of attributes, such as the country of each island,",
        "to join."
      )
    ),
    key = verb_argument(
      type_names("COLUMNS"),
      "The key of the attributes. Default: the columns that both have."
    ),
    measures = verb_argument(
      type_measures(),
      paste(
        "A column of the attributes that becomes a measure, such as",
        "residents:level; may repeat."
      ),
      repeats = TRUE
    )
  )
}

declare_keep_dates <- function() {
  new_verb(
    "keep_dates", "records", "records", "Keep the records of some dates.",
    from = verb_argument(
      type_text("DATE"),
      "Keep records from DATE on, a date or time of ISO 8601."
    ),
    to = verb_argument(
      type_text("DATE"),
      "Keep records up to DATE; a day, month or year is kept as a whole."
    ),
    weekdays = verb_argument(
      type_names("DAYS"),
      "Keep records of these weekdays, such as Saturday,Sunday."
    ),
    hours = verb_argument(
      type_hours(),
      paste(
        "Keep records of these hours of the day, such as 6:9, which ends",
        "at 09:59."
      )
    ),
    workdays = verb_argument(type_yes_no(), paste(
      "Keep working days (yes) or weekends and holidays (no) alone;",
      "--holidays names the holidays."
    )),
    holidays = verb_argument(
      type_file("read_holidays"),
      "An iCalendar file of holidays."
    )
  )
}
