# Which periods the records reach, and over how much of each.

# The columns of the table, from the period of the first to that of the last
# record. Where the local clock is put back within longer periods, the last
# instant need not lie in the last period.
table_columns <- function(lowest, highest, calendar) {
  changes <- calendar$table$from[
    calendar$table$from > lowest & calendar$table$from <= highest
  ]
  number <- number_of_instants_cpp(
    c(lowest, highest, changes, changes - 1e-6), calendar
  )
  days <- floor(
    instant_to_local(
      c(lowest, highest, changes, changes - 1e-6), calendar$table
    ) / 86400
  )
  list(
    first = min(number), count = diff(range(number)) + 1, first_day = min(days),
    last_day = max(days)
  )
}

# For each period (a row) and distinct cadence (a column) the share of it that
# the records reach over, which is 1 within the table; `from` and `to` say for
# each cadence from where to where the records reach. Where something comes by a
# cadence, its slots alone matter; where it comes irregularly, all time does.
reached_share <- function(number, calendar, survey, cadences) {
  distinct <- vctrs::vec_unique(cadences)
  bounds <- boundaries(c(number, number[length(number)] + 1), calendar)
  ends <- lapply(
    seq_len(nrow(distinct)),
    function(i) ends_reached(survey, calendar, distinct[i, ])
  )
  share <- vapply(seq_along(ends), function(i) {
    share_within(bounds, ends[[i]], calendar, distinct[i, ])
  }, numeric(length(number)))
  list(
    share = matrix(share, length(number)),
    span = ends_reached(survey, calendar, new_cadences("none", words = ""))
  )
}

# From where to where the records reach. Days count as a whole; so do slots of a
# cadence.
ends_reached <- function(survey, calendar, cadence) {
  ends <- c(survey$all$lowest, survey$all$highest)
  day <- floor(instant_to_local(ends, calendar$table) / 86400)
  monthly <- (survey$all$month_starts || survey$all$month_ends) &&
    survey$all$months > 0
  if (cadence$steps == 3L || is_irregular(cadence) && monthly) {
    # A month's record stands for all of it.
    months <- calendar_of_dates("month")
    length <- if (is_irregular(cadence)) survey$all$months else cadence$length
    month <- number_of_days_cpp(day, months) + c(0, length)
    day <- period_start_cpp(month, months) - c(0, 1)
  }
  c(
    if (by_clock(calendar)) ends[[1]] else midnight(day[[1]], calendar$table),
    if (by_clock(calendar)) {
      ends[[2]] + 1e-3
    } else {
      midnight(day[[2]] + 1, calendar$table)
    }
  )
}

# The share of each period that lies between two instants, which is 1 where
# nothing was expected outside of them.
share_within <- function(bounds, ends, calendar, cadence) {
  start <- bounds$instant[-length(bounds$instant)]
  end <- bounds$instant[-1]
  share <- pmax(pmin(end, ends[[2]]) - pmax(start, ends[[1]]), 0) /
    (end - start)
  short <- which(share < 1)
  whole <- vapply(short, function(i) {
    !lacks_slots(start[[i]], min(ends[[1]], end[[i]]), calendar, cadence) &&
      !lacks_slots(max(ends[[2]], start[[i]]), end[[i]], calendar, cadence)
  }, NA)
  share[short[whole]] <- 1
  share
}

# Whether something was expected between two instants, by a cadence that is
# regular; without one, whether there is an open day between them.
lacks_slots <- function(from, to, calendar, cadence) {
  if (from >= to) {
    return(FALSE)
  }
  local <- instant_to_local(c(from, to), calendar$table)
  open <- diff(open_before_cpp(
    c(floor(local[[1]] / 86400), ceiling(local[[2]] / 86400)), calendar
  ))
  open > 0 && (
    is_irregular(cadence) || expected_slots_cpp(local, c(from, to), cadence) > 0
  )
}
