# The days and hours that keep_dates() kept: on others nothing is expected. Such
# a rule has some of `weekdays`, `hours`, `workdays` and `holidays` as
# keep_dates() has them, or a calendar that knows no 29 February (`no_leap`); a
# cadence keeps to a list of rules.

# Which moments by the clock, in seconds, all rules keep.
kept_by <- function(rules, local) {
  day <- floor(local / 86400)
  hour <- floor((local - day * 86400) / 3600)
  kept <- rep(TRUE, length(local))
  for (rule in rules) {
    kept <- kept & on_days(rule, day) &
      (is.null(rule$hours) | hour %in% rule$hours)
  }
  kept
}

on_days <- function(rule, day) {
  weekday <- (day + 3) %% 7 + 1
  kept <- is.null(rule$weekdays) | weekday %in% rule$weekdays
  if (isTRUE(rule$no_leap)) {
    kept <- kept & format(.Date(day), "%m-%d") != "02-29"
  }
  if (is.null(rule$workdays)) {
    return(kept)
  }
  working <- weekday < 6 & !day %in% rule$holidays
  kept & working == rule$workdays
}

# Slots that are longer than an hour are expected where any hour of theirs is
# kept.
rules_of_slots <- function(rules, seconds) {
  longer <- seq_len(max(1, ceiling(seconds / 3600))) - 1
  lapply(rules, function(rule) {
    if (!is.null(rule$hours)) {
      rule$hours <- unique(c(outer(rule$hours, longer, "-")) %% 24)
    }
    rule
  })
}

# How many slots of a cadence that keeps to rules start between moments, which
# are instants in order, on days on which the `calendar` is open.
slots_kept <- function(instant, calendar, cadence) {
  if (length(instant) < 2) {
    return(numeric())
  }
  table <- calendar$table
  rules <- rules_of_slots(cadence$kept[[1]], cadence$length)
  by_hour <- any(lengths(lapply(rules, `[[`, "hours")) > 0)
  cuts <- sort(unique(c(
    instant, clock_marks(range(instant), table, if (by_hour) 3600 else 86400)
  )))
  local <- instant_to_local(cuts, table)
  from <- local[-length(local)]
  slots <- expected_slots_cpp(local, cuts, cadence)[, 1]
  slots[!kept_by(rules, from) | !open_by_clock(from, calendar)] <- 0
  as.vector(rowsum(
    slots, findInterval(cuts[-length(cuts)], instant), reorder = TRUE
  ))
}

# The instants between two others at which the clock shows a multiple of `step`
# seconds, or is changed.
clock_marks <- function(ends, table, step) {
  until <- c(table$from[-1], Inf)
  there <- which(until > ends[[1]] & table$from < ends[[2]])
  unlist(lapply(there, function(k) {
    from <- max(ends[[1]], table$from[[k]])
    to <- min(ends[[2]], until[[k]])
    first <- ceiling((from + table$offset[[k]]) / step) * step -
      table$offset[[k]]
    c(from, if (first <= to) seq(first, to, step))
  }))
}

open_by_clock <- function(local, calendar) {
  if (!isTRUE(calendar$workdays)) {
    return(TRUE)
  }
  day <- floor(local / 86400)
  first <- min(day)
  open <- diff(open_before_cpp(seq(first, max(day) + 1), calendar)) > 0
  open[day - first + 1]
}

# How many slots lie from the first to the last record of each series.
kept_between <- function(cadences, surveys, table) {
  distinct <- vctrs::vec_unique(cadences)
  which <- vctrs::vec_match(cadences, distinct)
  out <- numeric(nrow(cadences))
  for (i in seq_len(nrow(distinct))) {
    own <- which == i
    ends <- cbind(surveys$lowest[own], surveys$highest[own] + 1)
    at <- sort(unique(c(ends)))
    before <- c(0, cumsum(slots_kept(at, list(table = table), distinct[i, ])))
    slots <- matrix(before[match(ends, at)], ncol = 2)
    out[own] <- slots[, 2] - slots[, 1]
  }
  out
}

# How many slots are missing between pairs of neighbours, of which `missing` has
# the numbers without regard to rules; `cadences` has that of each pair. `after`
# and `before` are instants.
missing_kept <- function(missing, after, before, cadences, table) {
  distinct <- vctrs::vec_unique(cadences)
  of <- vctrs::vec_match(cadences, distinct)
  for (i in which(lengths(distinct$kept) > 0)) {
    own <- which(of == i)
    # What starts behind the one and before the other.
    ends <- cbind(after[own] + min(1, distinct$length[[i]] / 2), before[own])
    at <- sort(unique(c(ends)))
    up_to <- c(0, cumsum(slots_kept(at, list(table = table), distinct[i, ])))
    missing[own] <- up_to[match(ends[, 2], at)] - up_to[match(ends[, 1], at)]
  }
  missing
}

# Of daily cadences that keep to rules, how many days of each weekday (a column)
# lie from the first to the last day of each series.
kept_weekdays <- function(rules, first, last) {
  days <- seq(min(first), max(last))
  kept <- kept_by(rules_of_slots(rules, 86400), days * 86400)
  counts <- lapply(1:7, function(weekday) {
    before <- c(0, cumsum(kept & (days + 3) %% 7 + 1 == weekday))
    before[last - days[[1]] + 2] - before[first - days[[1]] + 1]
  })
  do.call(cbind, counts)
}

# "07:00 to 09:59, Monday to Friday".
kept_in_words <- function(rules) {
  in_words(unlist(lapply(rules, rule_in_words)), last = ", ")
}

rule_in_words <- function(rule) {
  c(
    if (isTRUE(rule$no_leap)) "without 29 February",
    if (!is.null(rule$hours)) hours_in_words(sort(unique(rule$hours))),
    if (!is.null(rule$weekdays)) {
      weekdays_in_words(sum(2^(rule$weekdays - 1)))
    },
    if (!is.null(rule$workdays)) {
      if (rule$workdays) "working days" else "weekends and holidays"
    }
  )
}

hours_in_words <- function(hours) {
  run <- cumsum(c(TRUE, diff(hours) != 1))
  in_words(vapply(split(hours, run), function(one) {
    sprintf("%02d:00 to %02d:59", min(one), max(one))
  }, ""))
}
