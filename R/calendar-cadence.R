# The cadence of each series: the regular step at which something is expected to
# be recorded. It is found from the records or named by the user, and gives the
# number of slots that a period should have.

# In the order of `enum class Steps` in src/kernels/cadence.h.
cadence_steps <- c("none", "instant", "local", "calendar")

# A row for each series: `steps` (code), `length` in seconds, of calendar steps
# in months, `anchor` where slot 0 starts on the clock that `steps` names (of
# calendar steps the month), `weekdays` on which there are slots (a bit each),
# `offset` from seconds that pass to the clock by which their days are counted,
# the rules of keep_dates() that it has `kept` to, and the same in `words`.
new_cadences <- function(
  steps, length = 0, anchor = 0, weekdays = every_weekday, offset = 0, words,
  kept = NULL
) {
  vctrs::data_frame(
    steps = match(steps, cadence_steps) - 1L, length = length, anchor = anchor,
    weekdays = as.integer(weekdays),
    offset = offset, words = words, kept = list(kept)
  )
}

every_weekday <- 127L

is_irregular <- function(cadences) cadences$steps == 0L

# The mean seconds from slot to slot, to compare with the length of a period.
cadence_seconds <- function(cadences) {
  cadences$length * c(0, 1, 1, unit_seconds[["month"]])[cadences$steps + 1]
}

# What the instants tell, in one pass: list(each, all, filled), where `each` has
# a row for each series and `all` one for all records together, with the first
# and last of them and their common step; `filled(cadences, surveys)` counts how
# many slots of its cadence each series fills on each weekday. `parts` are the
# records (see src/parts.h).
survey_times <- function(parts, scale, series_count, table) {
  found <- survey_cpp(parts, scale, table$from, table$offset, series_count)
  found$filled <- function(cadences, surveys) {
    filled_slots_cpp(parts, scale, table$from, table$offset, cadences, surveys)
  }
  found
}

# Records in memory are one part.
one_part <- function(when, series, value = NULL) {
  list(c(
    list(when = when, series = series), if (!is.null(value)) list(value = value)
  ))
}

# The seconds of one in the numbers that hold the times.
unit_of_times <- function(when) if (inherits(when, "Date")) 86400 else 1

# A series has the cadence that at least half of the slots between its first and
# its last record bear out. Where there is none, or too few records to tell it
# from chance, it comes irregularly: what its neighbours do says nothing of it.
# `kept` are the rules of keep_dates(), `table` that of the zone.
find_cadences <- function(survey, kept, table) {
  survey$table <- table
  likely <- likely_cadences(survey$each, by_clock = FALSE, kept)
  found <- borne_out(likely, survey)
  # Over a change of the clock, steps on the clock and steps of the time that
  # passes are not the same.
  if (any(survey$each$step != survey$each$passed)) {
    likely <- likely_cadences(survey$each, by_clock = TRUE, kept)
    other <- borne_out(likely, survey)
    better <- other$share > found$share |
      other$share == found$share & other$cadences$length > found$cadences$length
    found$cadences[better, ] <- other$cadences[better, ]
    found$filled[better] <- other$filled[better]
  }
  few <- found$filled < ifelse(found$cadences$steps == 3L, 3, 4)
  # One series alone is all there is to go by.
  cadences <- if (nrow(survey$each) == 1) {
    found$cadences
  } else {
    irregular_where(found$cadences, few)
  }
  cadence_words(cadences)
}

# The same where only the records of `proof` prove that something is expected;
# of a series that has none of these, all do.
proven_cadences <- function(survey, proof, kept, table) {
  cadences <- find_cadences(survey, kept, table)
  told <- which(proof$each$records > 0)
  if (length(told) > 0) {
    proof$each[-told, ] <- survey$each[-told, ]
    vctrs::vec_slice(cadences, told) <- vctrs::vec_slice(
      find_cadences(proof, kept, table), told
    )
  }
  cadences
}

# list(cadences, filled, share): the cadences where the records fill at least
# half of their slots, how many they fill, and which share that is (0 where it
# is less than half).
borne_out <- function(cadences, survey) {
  surveys <- survey$each
  slots <- slots_of_ends(cadences, surveys, survey$table)
  daily <- cadences$steps %in% 1:2 & cadences$length == 86400
  # Fewer records than half of the slots cannot fill half of them, unless there
  # are none on some weekdays.
  cadences <- irregular_where(
    cadences, surveys$records < ifelse(daily, 2, pmax(2, rowSums(slots) / 2))
  )
  recorded <- if (all(is_irregular(cadences))) {
    matrix(0, nrow(surveys), 7)
  } else {
    survey$filled(cadences, surveys)
  }
  # Weekdays on which fewer than half of the days have a record are no slots (a
  # market closed on Sundays), once there have been three of them: with fewer it
  # may be chance. Nearly all records must lie on the others.
  kept <- !daily | recorded >= slots / 2 | slots < 3
  scattered <- rowSums(recorded * !kept) > 0.1 * rowSums(recorded)
  cadences$weekdays[daily] <- as.integer((kept %*% 2^(0:6))[daily])
  share <- rowSums(recorded * kept) / rowSums(slots * kept)
  share[is.na(share) | share < 0.5 | is_irregular(cadences) | scattered] <- 0
  list(
    cadences = irregular_where(cadences, share == 0),
    filled = rowSums(recorded), share = share
  )
}

irregular_where <- function(cadences, which) {
  cadences$steps[which] <- 0L
  cadences
}

# How many slots lie from the first to the last record, by weekday for daily
# cadences (Monday first), in the first column for others.
slots_of_ends <- function(cadences, surveys, table) {
  day <- function(instant, local_day) {
    passed <- floor((instant + cadences$offset) / 86400)
    ifelse(cadences$steps == 1L, passed, local_day)
  }
  first <- day(surveys$lowest, surveys$first_day)
  last <- day(surveys$highest, surveys$last_day)
  slots <- matrix(0, nrow(cadences), 7)
  daily <- cadences$steps > 0L & cadences$length == 86400
  rules <- cadences$kept[[1]]
  if (any(daily)) slots[daily, ] <- if (length(rules) > 0) {
    kept_weekdays(rules, first[daily], last[daily])
  } else {
    count_weekdays(first[daily], last[daily] + 1)
  }
  stepped <- cadences$steps %in% 1:2 & !daily
  slots[stepped, 1] <- floor(
    (surveys$highest - surveys$lowest)[stepped] / cadences$length[stepped]
  ) + 1
  if (length(rules) > 0) {
    short <- stepped & cadences$length < 86400
    slots[short, 1] <- kept_between(cadences[short, ], surveys[short, ], table)
  }
  monthly <- cadences$steps == 3L
  months <- (surveys$last_month - surveys$first_month)[monthly]
  slots[monthly, 1] <- months %/% cadences$length[monthly] + 1
  slots
}

# How often each weekday falls into the days from `from` to before `to`: a row
# per span, a column per weekday, Monday first.
count_weekdays <- function(from, to) {
  first <- 0:6 - 3 # 1970-01-01 was a Thursday, so day -3 was a Monday
  ceiling(outer(to, first, "-") / 7) - ceiling(outer(from, first, "-") / 7)
}

# What the common step says, whether the records fill its slots or not. Where
# steps on the clock and of the time that passes are the same, those of up to an
# hour are counted in seconds that pass, as these divide every shift of the
# clock by a whole hour, and longer ones by the clock.
likely_cadences <- function(surveys, by_clock, kept) {
  monthly <- (surveys$month_starts | surveys$month_ends) & surveys$months > 0
  local <- ifelse(
    surveys$step == surveys$passed, clock_of_step(surveys$step) == "local",
    by_clock
  )
  step <- ifelse(local, surveys$step, surveys$passed)
  stepped <- !monthly & step > 0 & surveys$whole_seconds
  # Series that differ only in their first record have the same anchor.
  anchor <- ifelse(local, surveys$anchor, surveys$lowest) %%
    ifelse(step > 0, step, 1)
  new_cadences(
    ifelse(
      monthly, "calendar",
      ifelse(stepped, ifelse(local, "local", "instant"), "none")
    ),
    length = ifelse(monthly, surveys$months, ifelse(stepped, step, 0)),
    anchor = ifelse(
      monthly, surveys$first_month %% pmax(surveys$months, 1), anchor
    ),
    offset = ifelse(
      !monthly & !local & step == 86400,
      round(surveys$anchor - surveys$lowest), 0
    ),
    words = "", kept = kept
  )
}

clock_of_step <- function(step) ifelse(step > 3600, "local", "instant")
