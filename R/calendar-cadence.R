# The cadence of each series: the regular step at which something is expected to be recorded. It is found from the
# records or named by the user, and gives the number of slots that a period should have.

# In the order of `enum class Steps` in src/kernels/cadence.h.
cadence_steps <- c("none", "instant", "local", "calendar")

# A row for each series: `steps` (code), `length` in seconds, `anchor` where slot 0 starts on the clock that `steps`
# names, `unit` (code) for calendar steps, `weekdays` on which there are slots (a bit each), and the same in `words`.
new_cadences <- function(steps, length = 0, anchor = 0, unit = "day", weekdays = every_weekday, words) {
  vctrs::data_frame(
    steps = match(steps, cadence_steps) - 1L, length = length, anchor = anchor, unit = unit_code(unit),
    weekdays = as.integer(weekdays), words = words
  )
}

every_weekday <- 127L

is_irregular <- function(cadences) cadences$steps == 0L

# What the instants tell, in one pass: list(each, all), where `each` has a row for each series and `all` one for all
# records together, with the first and last of them and their common step.
survey_times <- function(when, index, table) {
  scale <- if (inherits(when, "Date")) 86400 else 1
  found <- survey_cpp(when, scale, table$from, table$offset, index$index, nrow(index$names))
  c(list(when = when, scale = scale, series = index$index), found)
}

# A series has the cadence that at least half of the slots between its first and its last record bear out. Where there
# is none, or too few records to tell it from chance, it has that of all records together.
find_cadences <- function(survey, table) {
  together <- function() borne_out(survey$all, NULL, survey, table)$cadences
  count <- nrow(survey$each)
  if (count == 1) {
    return(together())
  }
  own <- borne_out(survey$each, survey$series, survey, table)
  cadences <- own$cadences
  unknown <- is_irregular(cadences) | own$filled < ifelse(cadences$steps == 3L, 3, 4)
  if (any(unknown)) {
    cadences[unknown, ] <- together()[rep(1, sum(unknown)), ]
  }
  cadences
}

# list(cadences, filled): the likely cadences where the records fill at least half of their slots, and how many they
# fill. `surveys` has a row for each series that `series` (NULL for one of all records) counts.
borne_out <- function(surveys, series, survey, table) {
  cadences <- likely_cadences(surveys)
  slots <- slots_of_ends(cadences, surveys, table)
  # Fewer records than half of the slots cannot fill half of them; so much is known without a look at each.
  cadences <- irregular_where(cadences, surveys$records < pmax(2, rowSums(slots) / 2))
  recorded <- if (all(is_irregular(cadences))) matrix(0, nrow(surveys), 7) else
    filled_slots_cpp(survey$when, survey$scale, table$from, table$offset, series, cadences, surveys$lowest,
                     surveys$highest)
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
  unit <- ifelse(surveys$months %% 12 == 0, "year", ifelse(surveys$months %% 3 == 0, "quarter", "month"))
  steps <- ifelse(monthly, "calendar", ifelse(stepped, clock_of_step(surveys$step), "none"))
  new_cadences(steps, length = ifelse(stepped, surveys$step, 0), anchor = step_anchor(surveys, surveys$step),
               unit = ifelse(monthly, unit, "day"), words = "")
}

# A step of up to an hour divides every daylight-saving shift of a whole hour, so it is counted in seconds that pass; a
# longer one is kept by the local clock.
clock_of_step <- function(step) ifelse(step > 3600, "local", "instant")

# Series that differ only in their first record have the same anchor.
step_anchor <- function(surveys, step) {
  first <- ifelse(clock_of_step(step) == "local", surveys$anchor, surveys$lowest)
  ifelse(step > 0, first %% step, 0)
}

# How many slots lie from the first to the last record, by weekday for daily cadences (Monday first), in the first
# column for others.
slots_of_ends <- function(cadences, surveys, table) {
  local <- function(instant) instant_to_local(instant, table)
  first <- floor(local(surveys$lowest) / 86400)
  last <- floor(local(surveys$highest) / 86400)
  slots <- matrix(0, nrow(cadences), 7)
  daily <- cadences$steps > 0L & cadences$length == 86400
  slots[daily, ] <- count_weekdays(first[daily], last[daily] + 1)
  stepped <- cadences$steps %in% 1:2 & !daily
  slots[stepped, 1] <- floor((surveys$highest - surveys$lowest)[stepped] / cadences$length[stepped]) + 1
  for (unit in c("month", "quarter", "year")) {
    of_unit <- cadences$steps == 3L & cadences$unit == unit_code(unit)
    slots[of_unit, 1] <- period_number(last[of_unit], unit) - period_number(first[of_unit], unit) + 1
  }
  slots
}

cadence_words <- function(cadences) {
  distinct <- vctrs::vec_unique(cadences[c("steps", "length", "unit", "weekdays")])
  words <- vapply(seq_len(nrow(distinct)), function(i) {
    one <- distinct[i, ]
    switch(one$steps + 1, "irregular", step_in_words(one$length), step_in_words(one$length),
           period_units[[one$unit + 1]])
  }, "")
  part <- distinct$steps > 0L & distinct$weekdays != every_weekday
  words[part] <- sprintf("day (%s)", vapply(distinct$weekdays[part], weekdays_in_words, ""))
  cadences$words <- words[vctrs::vec_match(cadences[names(distinct)], distinct)]
  cadences
}

# The cadences of all series in words: "day", or "week (fuel price) and month (bookings)".
describe_cadences <- function(cadences, names) {
  words <- unique(cadences$words)
  if (length(words) == 1) {
    return(words)
  }
  whose <- vapply(words, function(one) few_series(names, cadences$words == one), "")
  regular <- words != "irregular"
  paste(c(
    in_words(sprintf("%s (%s)", words, whose)[regular]),
    if (!all(regular)) sprintf("irregular: %s", whose[!regular])
  ), collapse = "; ")
}

# By their names, or how many they are.
few_series <- function(names, which) {
  if (sum(which) > 3) {
    return(sprintf("%d series", sum(which)))
  }
  in_words(do.call(paste, c(unname(lapply(vctrs::vec_slice(names, which), as.character)), sep = " / ")))
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
  if (length$unit %in% c("month", "quarter", "year")) {
    if (length$count > 1) {
      abort_backfill("argument", sprintf("`cadence` is %s.", value_in_words(cadence)),
                     i = "Of months, quarters and years it can be one.", call = call)
    }
    return(new_cadences(rep("calendar", count), unit = length$unit, words = words))
  }
  step <- length_seconds(length)
  # Slots start on the hour or at midnight, whatever the first record; of weeks, and the like, on its day.
  anchor <- step_anchor(survey$each, step)
  new_cadences(rep(clock_of_step(step), count), length = step, anchor = anchor - anchor %% min(step, 86400),
               words = words)
}

# The mean seconds from slot to slot, to compare with the length of a period.
cadence_seconds <- function(cadences) {
  ifelse(cadences$steps == 3L, unit_seconds[period_units[cadences$unit + 1]],
         ifelse(cadences$steps == 0L, 0, cadences$length))
}

# How many slots each period should have: a row for each, a column for each series; NA where it is irregular.
expected_slots <- function(number, unit, cadences, table) {
  days <- as.numeric(period_start(c(number, number[length(number)] + 1), unit))
  distinct <- vctrs::vec_unique(cadences)
  slots <- expected_slots_cpp(days * 86400, midnight(days, table), distinct)
  slots[, vctrs::vec_match(cadences, distinct), drop = FALSE]
}

# The instant at which a local day starts; where the clock skips midnight, the first instant after it.
midnight <- function(day, table) {
  second <- day * 86400
  segment <- findInterval(second, table$from + table$offset)
  found <- clock_to_instant_cpp(second, integer(), table$from, table$offset)
  found$instant[found$never] <- table$from[segment[found$never] + 1]
  found$instant
}

# "Monday to Saturday" where they follow each other, else each by its name.
weekdays_in_words <- function(weekdays) {
  kept <- bitwAnd(weekdays, 2^(0:6)) > 0
  names <- weekday_names[kept]
  if (length(names) > 2 && all(diff(which(kept)) == 1)) {
    return(paste(names[[1]], "to", names[[length(names)]]))
  }
  in_words(names)
}

weekday_names <- c("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")

# How often each weekday falls into the days from `from` to before `to`: a row per span, a column per weekday, Monday
# first.
count_weekdays <- function(from, to) {
  first <- 0:6 - 3 # 1970-01-01 was a Thursday, so day -3 was a Monday
  ceiling(outer(to, first, "-") / 7) - ceiling(outer(from, first, "-") / 7)
}

step_in_words <- function(step) {
  unit <- if (step %% 604800 == 0) "week" else if (step %% 86400 == 0) "day" else if (step %% 3600 == 0) "hour" else
    if (step %% 60 == 0) "minute" else "second"
  length_in_words(list(count = step / unit_seconds[[unit]], unit = unit))
}
