# The cadence of records: the regular step at which something is expected to be recorded. It is found from the records
# or named by the user, and gives the number of slots that a period should have.

# In the order of `enum class Steps` in src/kernels/cadence.h.
cadence_steps <- c("none", "instant", "local", "calendar")

# `length` is in seconds, `anchor` where slot 0 starts on the clock that `steps` names; `unit` is for calendar steps.
new_cadence <- function(steps, length = 0, anchor = 0, unit = "day", weekdays = rep(TRUE, 7), words) {
  list(
    steps = match(steps, cadence_steps) - 1L, length = length, anchor = anchor, unit = unit_code(unit),
    weekdays = sum(2^(0:6)[weekdays]), words = words
  )
}

irregular <- function() new_cadence("none", words = "irregular")

# What the records' instants tell, in one pass: the first and last of them, their common step.
survey_times <- function(when, table) {
  scale <- if (inherits(when, "Date")) 86400 else 1
  c(list(when = when, scale = scale), survey_cpp(when, scale, table$from, table$offset))
}

# A step of up to an hour divides every daylight-saving shift of a whole hour, so it is counted in seconds that pass; a
# longer one is kept by the local clock.
stepped_cadence <- function(step, survey, weekdays = rep(TRUE, 7), words = NULL) {
  by_clock <- step > 3600
  new_cadence(
    if (by_clock) "local" else "instant",
    length = step, anchor = if (by_clock) survey$anchor else survey$lowest, weekdays = weekdays,
    words = words %||% step_in_words(step)
  )
}

# The cadence that at least half of the slots between the first and the last record bear out.
find_cadence <- function(survey, table) {
  if (length(survey$when) < 2) {
    return(irregular())
  }
  if ((survey$month_starts || survey$month_ends) && survey$months > 0) {
    return(monthly_cadence(survey, table))
  }
  if (survey$step == 0 || !survey$whole_seconds) {
    return(irregular())
  }
  if (survey$step == 86400) {
    return(daily_cadence(survey, table))
  }
  # Fewer records than half of the slots cannot fill half of them; so much is known without a look at each.
  slots <- floor((survey$highest - survey$lowest) / survey$step) + 1
  cadence <- stepped_cadence(survey$step, survey)
  enough <- length(survey$when) >= slots / 2 && sum(recorded_slots(cadence, survey, table)) >= slots / 2
  if (enough) cadence else irregular()
}

monthly_cadence <- function(survey, table) {
  unit <- if (survey$months %% 12 == 0) "year" else if (survey$months %% 3 == 0) "quarter" else "month"
  cadence <- new_cadence("calendar", unit = unit, words = unit)
  slots <- diff(period_number(end_days(survey, table), unit)) + 1
  if (sum(recorded_slots(cadence, survey, table)) >= slots / 2) cadence else irregular()
}

# Weekdays on which fewer than half of the days have a record are no slots (a market closed on Sundays), once there have
# been three of them: with fewer it may be chance.
daily_cadence <- function(survey, table) {
  cadence <- stepped_cadence(survey$step, survey)
  days <- end_days(survey, table)
  slots <- count_weekdays(days[[1]], days[[2]] + 1)[1, ]
  recorded <- recorded_slots(cadence, survey, table)
  kept <- recorded >= slots / 2 | slots < 3
  if (!any(kept) || sum(recorded[kept]) < sum(slots[kept]) / 2) {
    return(irregular())
  }
  words <- if (all(kept)) "day" else sprintf("day (%s)", weekdays_in_words(kept))
  stepped_cadence(survey$step, survey, kept, words)
}

# How many slots have a record, by weekday, Monday first.
recorded_slots <- function(cadence, survey, table) {
  filled_slots_cpp(survey$when, survey$scale, table$from, table$offset, cadence, survey$lowest, survey$highest)
}

# The local days of the first and the last record.
end_days <- function(survey, table) {
  floor(instant_to_local(c(survey$lowest, survey$highest), table) / 86400)
}

# The cadence that a user names.
parse_cadence <- function(cadence, survey, call = caller_env()) {
  if (identical(cadence, "irregular")) {
    return(irregular())
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
    return(new_cadence("calendar", unit = length$unit, words = words))
  }
  step <- length_seconds(length)
  cadence <- stepped_cadence(step, survey, words = words)
  cadence$anchor <- cadence$anchor - cadence$anchor %% min(step, 86400)
  cadence
}

# The mean seconds from slot to slot, to compare with the length of a period.
cadence_seconds <- function(cadence) {
  switch(cadence_steps[cadence$steps + 1],
    none = 0, calendar = unit_seconds[[period_units[cadence$unit + 1]]], cadence$length
  )
}

# How many slots each period should have; NA where the cadence is irregular.
expected_slots <- function(number, unit, cadence, table) {
  starts <- as.numeric(period_start(number, unit))
  ends <- as.numeric(period_start(number + 1, unit))
  stepped <- function(from, to) {
    ceiling((to - cadence$anchor) / cadence$length) - ceiling((from - cadence$anchor) / cadence$length)
  }
  switch(cadence_steps[cadence$steps + 1],
    none = rep(NA_real_, length(number)),
    calendar = {
      step <- period_units[cadence$unit + 1]
      period_number(ends, step) - period_number(starts, step)
    },
    instant = stepped(midnight(starts, table), midnight(ends, table)),
    local = if (cadence$weekdays == 127) {
      stepped(starts * 86400, ends * 86400)
    } else {
      expected <- bitwAnd(cadence$weekdays, 2^(0:6)) > 0
      rowSums(count_weekdays(starts, ends)[, expected, drop = FALSE])
    }
  )
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
weekdays_in_words <- function(kept) {
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
