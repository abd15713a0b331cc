# The cadence of each series: the regular step at which something is expected to be recorded. It is found from the
# records or named by the user, and gives the number of slots that a period should have.

# In the order of `enum class Steps` in src/kernels/cadence.h.
cadence_steps <- c("none", "instant", "local", "calendar")

# A row for each series: `steps` (code), `length` in seconds, of calendar steps in months, `anchor` where slot 0 starts
# on the clock that `steps` names (of calendar steps the month), `weekdays` on which there are slots (a bit each), and
# the same in `words`.
new_cadences <- function(steps, length = 0, anchor = 0, weekdays = every_weekday, words) {
  vctrs::data_frame(
    steps = match(steps, cadence_steps) - 1L, length = length, anchor = anchor, weekdays = as.integer(weekdays),
    words = words
  )
}

every_weekday <- 127L

is_irregular <- function(cadences) cadences$steps == 0L

# What the instants tell, in one pass: list(each, all), where `each` has a row for each series and `all` one for all
# records together, with the first and last of them and their common step. `parts` are the records (see src/parts.h).
survey_times <- function(parts, scale, series_count, table) {
  c(list(parts = parts, scale = scale), survey_cpp(parts, scale, table$from, table$offset, series_count))
}

# Records in memory are one part.
one_part <- function(when, series, value = NULL) {
  list(c(list(when = when, series = series), if (!is.null(value)) list(value = value)))
}

# The seconds of one in the numbers that hold the times.
unit_of_times <- function(when) if (inherits(when, "Date")) 86400 else 1

# A series has the cadence that at least half of the slots between its first and its last record bear out. Where there
# is none, or too few records to tell it from chance, it has that of all records together.
find_cadences <- function(survey, table) {
  together <- function() borne_out(survey$all, TRUE, survey, table)$cadences
  count <- nrow(survey$each)
  if (count == 1) {
    return(together())
  }
  own <- borne_out(survey$each, FALSE, survey, table)
  cadences <- own$cadences
  unknown <- is_irregular(cadences) | own$filled < ifelse(cadences$steps == 3L, 3, 4)
  if (any(unknown)) {
    cadences[unknown, ] <- together()[rep(1, sum(unknown)), ]
  }
  cadences
}

# list(cadences, filled): the likely cadences where the records fill at least half of their slots, and how many they
# fill. `surveys` has a row for each series, or one for all records `together`.
borne_out <- function(surveys, together, survey, table) {
  cadences <- likely_cadences(surveys)
  slots <- slots_of_ends(cadences, surveys, table)
  # Fewer records than half of the slots cannot fill half of them; so much is known without a look at each.
  cadences <- irregular_where(cadences, surveys$records < pmax(2, rowSums(slots) / 2))
  recorded <- if (all(is_irregular(cadences))) matrix(0, nrow(surveys), 7) else
    filled_slots_cpp(survey$parts, survey$scale, table$from, table$offset, together, cadences, surveys)
  # Weekdays on which fewer than half of the days have a record are no slots (a market closed on Sundays), once there
  # have been three of them: with fewer it may be chance.
  daily <- cadences$steps > 0L & cadences$length == 86400
  kept <- !daily | recorded >= slots / 2 | slots < 3
  cadences$weekdays[daily] <- as.integer((kept %*% 2^(0:6))[daily])
  enough <- rowSums(recorded * kept) >= rowSums(slots * kept) / 2 & rowSums(kept) > 0
  cadences <- irregular_where(cadences, !enough)
  list(cadences = cadence_words(cadences), filled = rowSums(recorded))
}

irregular_where <- function(cadences, which) {
  cadences$steps[which] <- 0L
  cadences
}

# What the common step says, whether the records fill its slots or not.
likely_cadences <- function(surveys) {
  monthly <- (surveys$month_starts | surveys$month_ends) & surveys$months > 0
  stepped <- !monthly & surveys$step > 0 & surveys$whole_seconds
  steps <- ifelse(monthly, "calendar", ifelse(stepped, clock_of_step(surveys$step), "none"))
  new_cadences(steps, length = ifelse(monthly, surveys$months, ifelse(stepped, surveys$step, 0)),
               anchor = ifelse(monthly, surveys$first_month %% pmax(surveys$months, 1),
                               step_anchor(surveys, surveys$step)), words = "")
}

# A step of up to an hour divides every daylight-saving shift of a whole hour, so it is counted in seconds that pass; a
# longer one is kept by the local clock.
clock_of_step <- function(step) ifelse(step > 3600, "local", "instant")

# Series that differ only in their first record have the same anchor.
step_anchor <- function(surveys, step) {
  first <- ifelse(clock_of_step(step) == "local", surveys$anchor, surveys$lowest)
  ifelse(step > 0, first %% step, 0)
}

# The local days of the first and the last record of all.
end_days <- function(survey, table) {
  floor(instant_to_local(c(survey$all$lowest, survey$all$highest), table) / 86400)
}

# The cadence that a user names, for each series.
parse_cadence <- function(cadence, survey, call = caller_env()) {
  count <- nrow(survey$each)
  if (identical(cadence, "irregular")) {
    return(new_cadences(rep("none", count), words = "irregular"))
  }
  length <- parse_length(cadence)
  if (is.null(length)) {
    abort_backfill(
      "argument",
      sprintf("`cadence` is %s, which is not a length of time.", value_in_words(cadence)),
      i = "It must be such as \"hour\", \"15 minutes\", \"day\", \"week\" or \"month\", or \"irregular\".",
      call = call
    )
  }
  words <- length_in_words(length)
  if (length$unit %in% names(unit_months)) {
    months <- length$count * unit_months[[length$unit]]
    # Months that start with the first record's own.
    return(new_cadences(rep("calendar", count), length = months, anchor = survey$each$first_month %% months,
                        words = words))
  }
  step <- length_seconds(length)
  # Slots start on the hour or at midnight, whatever the first record; of weeks, and the like, on its day.
  anchor <- step_anchor(survey$each, step)
  new_cadences(rep(clock_of_step(step), count), length = step, anchor = anchor - anchor %% min(step, 86400),
               words = words)
}
