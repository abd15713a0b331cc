# Whether a roll-up can be done: what it is by, whether its periods are long
# enough, and whether the table would be too large.

check_by <- function(by, columns, series) {
  if (is.null(by)) {
    return(series)
  }
  # A series that was renamed is known by its former name too.
  former <- !by %in% columns & renamed_series(by) %in% columns
  by[former] <- renamed_series(by[former])
  if (!is.character(by) || anyNA(by) || length(setdiff(by, columns)) > 0) {
    there <- if (length(series) > 0) in_words(quoted(series))
    abort_backfill(
      "column",
      if (is.character(by)) {
        "`by` is {in_words(quoted(by))}."
      } else {
        "`by` is {value_in_words(by)}."
      },
      i = "It must name columns that tell series apart:",
      "{there %||% 'there are none, leave it out'}."
    )
  }
  taken <- setdiff(intersect(by, result_columns), series)
  if (length(taken) > 0) {
    abort_backfill(
      "column",
      "`by` names {quoted(taken[[1]])}, and results have a column of that",
      "name.",
      ">" = "Rename it first."
    )
  }
  unique(by)
}

check_not_empty <- function(x) {
  if (nrow(x) == 0) {
    abort_backfill("input", "The table has no rows.")
  }
}

# A period must be as long as the cadence at least.
check_finer <- function(cadences, calendar, names) {
  coarse <- cadence_seconds(cadences) > period_seconds(calendar)
  if (any(coarse)) {
    coarsest <- cadences$words[[which.max(cadence_seconds(cadences))]]
    cadence <- describe_cadences(
      cadences[coarse, ], vctrs::vec_slice(names, coarse), named = !all(coarse)
    )
    least <- if (grepl("^[0-9]", coarsest)) coarsest else with_article(coarsest)
    abort_backfill(
      "every",
      "The records are one per {cadence}, which cannot be rolled up to a",
      "shorter period ({sub('^period of ', '', period_noun(calendar))}).",
      ">" = "Choose a period of {least} or",
      "longer{if (!all(coarse)) ', leave these series out'}, or say `cadence`",
      "where that is not their cadence."
    )
  }
}

# Whole weeks begin within civil months, which records by the month do not tell.
check_not_cut_through <- function(cadences, calendar) {
  by_month <- cadences$steps == match("calendar", cadence_steps) - 1L
  if (base_of(calendar) == "week month" && any(by_month)) {
    abort_backfill(
      "every",
      "The records are one per {cadences$words[by_month][[1]]}, which",
      "{period_noun(calendar, 2)} cut through.",
      ">" = "Roll up daily or weekly records, or leave `whole_weeks` out."
    )
  }
}

# One mistyped year can stretch the table over centuries; better to say so than
# to run out of memory.
check_size <- function(columns, series_count, measures) {
  rows <- columns$count * series_count * measures
  if (rows > most_rows) {
    days <- day_label(.Date(c(columns$first_day, columns$last_day)))
    of <- if (measures > 1) paste(" of", measures, "measures")
    abort_backfill(
      "input", "The table would have {count_of(rows, 'row')}:",
      "{count_of(series_count, 'series', 'series')}{of} from {days[[1]]} to",
      "{days[[2]]}.",
      ">" = "{wrong_date_hint}"
    )
  }
}

most_rows <- 1e8

wrong_date_hint <-
  "See whether one of these dates is wrong, or choose longer periods."

# Before anything is laid out that takes memory for each period: a mistyped date
# may lie thousands of years off.
check_span <- function(frame, calendar, measures) {
  rows <- diff(frame$ends) * frame$scale / period_seconds(calendar) *
    nrow(frame$names) * measures
  if (rows < 1e6) {
    return()
  }
  alone <- if (!is.null(frame$when)) lonely_end(frame$when)
  if (!is.null(alone) || rows > 10 * most_rows) {
    ends <- day_label(.Date(floor(
      (alone$others %||% frame$ends) * frame$scale / 86400
    )))
    why <- if (!is.null(alone)) {
      dated <- moments_in_words(frame$when[alone$row])
      glue(
        "as row {thousands(alone$row)} of the records is dated {dated};",
        "the others are "
      )
    }
    abort_backfill(
      "input", "The table would have about {count_of(signif(rows, 2), 'row')},",
      "{why}from {ends[[1]]} to {ends[[2]]}.",
      ">" = "{wrong_date_hint}"
    )
  }
}

# The first or the last time, where without it the records would span less than
# a tenth: list(row, others).
lonely_end <- function(when) {
  number <- as.numeric(when)
  ends <- range(number)
  for (end in ends) {
    others <- number[number != end]
    if (length(others) > 10 && diff(range(others)) * 10 < diff(ends)) {
      return(list(row = match(end, number), others = range(others)))
    }
  }
  NULL
}
