# The cadence that a user names, for each series.

parse_cadence <- function(cadence, survey, kept) {
  count <- nrow(survey$each)
  if (identical(cadence, "irregular")) {
    return(new_cadences(rep("none", count), words = "irregular", kept = kept))
  }
  length <- parse_length(cadence)
  if (is.null(length)) {
    abort_backfill(
      "argument",
      "`cadence` is {value_in_words(cadence)}, which is not a length of time.",
      i = "It must be such as \"hour\", \"15 minutes\", \"day\", \"week\" or",
      "\"month\", or \"irregular\"."
    )
  }
  words <- length_in_words(length)
  if (length$unit %in% names(unit_months)) {
    months <- length$count * unit_months[[length$unit]]
    # Months that start with the first record's own.
    return(new_cadences(
      rep("calendar", count), length = months,
      anchor = survey$each$first_month %% months, words = words, kept = kept
    ))
  }
  step <- length_seconds(length)
  # Slots start on the hour or at midnight, whatever the first record; of weeks,
  # and the like, on its day.
  anchor <- step_anchor(survey$each, step)
  cadence_words(new_cadences(
    rep(clock_of_step(step), count), length = step,
    anchor = anchor - anchor %% min(step, 86400), words = words, kept = kept
  ))
}

# Where the slots of a step that is named start.
step_anchor <- function(surveys, step) {
  first <- ifelse(
    clock_of_step(step) == "local", surveys$anchor, surveys$lowest
  )
  ifelse(step > 0, first %% step, 0)
}
