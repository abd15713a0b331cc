# Working days as periods: a day off belongs to the next working day. What is
# recorded on it adds to that day where it is an amount (a flow, what a counter
# rose by, a return); a reading, such as a price, says nothing of another day
# and is left out.

joins_next_day <- function(measure) !measure$kind %in% c("level", "ratio")

on_open_day <- function(when, calendar) {
  day <- local_days(when, calendar)
  first <- min(day)
  open <- diff(open_before_cpp(seq(first, max(day) + 1), calendar)) > 0
  open[day - first + 1]
}

local_days <- function(when, calendar) {
  if (inherits(when, "Date")) floor(as.numeric(when)) else
    floor(instant_to_local(as.numeric(when), calendar$table) / 86400)
}

# For each measure how many records lie on days off, and whether they `join` the
# next working day; NULL where there are none.
days_off_of <- function(x, frame) {
  measures <- plain_measures(facts(x)$measures)
  count <- source_days_off(x, names(measures), frame)
  counted_days_off(measures, count, "record")
}

# `parts` has those of each measure.
count_days_off <- function(parts, frame) {
  vapply(parts, function(of_measure) {
    sum(vapply(of_measure, function(part) {
      part <- fetched(part)
      sum(!on_open_day(part$when, frame$calendar) & !is.na(part$value))
    }, 0))
  }, 0)
}

counted_days_off <- function(measures, count, noun) {
  if (sum(count) == 0) {
    return(NULL)
  }
  new_rows(
    measure = names(measures), count = as.integer(count), noun = noun,
    join = unname(vapply(measures, joins_next_day, NA))
  )[count > 0, ]
}

# Whether each row is of a day off, or a part of one, that belongs to a working
# day of the longer calendar.
is_day_off <- function(x, frame) {
  short <- facts(x)$calendar
  if (
    frame$calendar$unit != "working day" || short$unit == "working day" ||
      period_seconds(short) > 86400
  ) {
    return(rep(FALSE, nrow(x)))
  }
  !on_open_day(x$period, frame$calendar)
}

days_off_of_periods <- function(x, frame) {
  off <- is_day_off(x, frame) & !is.na(x$value)
  measures <- plain_measures(facts(x)$measures)
  count <- vapply(
    names(measures), function(name) sum(off & x$measure == name), 0
  )
  counted_days_off(measures, count, period_noun(facts(x)$calendar))
}
