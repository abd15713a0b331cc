# How many slots of a cadence lie in a span of time.

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

# How often each weekday falls into the days from `from` to before `to`: a row per span, a column per weekday, Monday
# first.
count_weekdays <- function(from, to) {
  first <- 0:6 - 3 # 1970-01-01 was a Thursday, so day -3 was a Monday
  ceiling(outer(to, first, "-") / 7) - ceiling(outer(from, first, "-") / 7)
}
