# Which periods the records reach, and over how much of each.

# The columns of the table, from the period of the first to that of the last
# record. Where the local clock is put back within longer periods, the last
# instant need not lie in the last period.
table_columns <- function(lowest, highest, calendar) {
  changes <- calendar$table$from[
    calendar$table$from > lowest & calendar$table$from <= highest
  ]
  at <- c(lowest, highest, changes, changes - 1e-6)
  number <- number_of_instants_cpp(at, calendar)
  days <- floor(instant_to_local(at, calendar$table) / 86400)
  list(
    first = min(number), count = diff(range(number)) + 1, first_day = min(days),
    last_day = max(days)
  )
}

# For each period (a row), of the `bounds` given, and distinct cadence (a
# column) the share of it that the records reach over, which is 1 within the
# table; and the `span` over which they reach. Where something comes by a
# cadence, its slots alone matter; where it comes irregularly, all time does.
# `survey` is of all records together.
reached_share <- function(bounds, calendar, survey, cadences) {
  distinct <- vctrs::vec_unique(cadences)
  count <- length(bounds$instant) - 1
  monthly <- survey$months * (survey$month_starts | survey$month_ends)
  span <- ends_reached(survey, calendar, monthly)
  months <- c(monthly, 0, 0, NA)[distinct$steps + 1]
  months[is.na(months)] <- distinct$length[is.na(months)]
  share <- vapply(seq_len(nrow(distinct)), function(i) {
    ends <- if (months[[i]] == monthly) {
      span
    } else {
      ends_reached(survey, calendar, months[[i]])
    }
    share_within(bounds, ends, calendar, distinct[i, ])
  }, numeric(count))
  list(share = matrix(share, count), span = span)
}

# From where to where the records reach, of which each stands for so many
# `months`, where it is of months. Days count as a whole; so do slots of a
# cadence.
ends_reached <- function(survey, calendar, months) {
  if (by_clock(calendar)) {
    return(c(survey$lowest, survey$highest + 1e-3))
  }
  days <- c(survey$first_day, survey$last_day + 1)
  if (months > 0) {
    days <- period_start_cpp(
      c(survey$first_month, survey$last_month + months),
      calendar_of_dates("month")
    )
  }
  midnights_cpp(days, calendar$table)
}

# The instants from and to which dates were asked for, see keep_dates(): NULL
# where they were not.
asked_span <- function(x, dates) {
  asked <- facts(x)$asked
  instant <- function(bound) {
    if (bound$instant || dates) {
      return(bound$second)
    }
    table <- zone_table(facts(x)$zone, bound$second - 2e5, bound$second + 2e5)
    midnights_cpp(bound$second / 86400, table)
  }
  c(
    if (!is.null(asked$from)) instant(asked$from),
    # The last moment that still counts.
    if (!is.null(asked$to)) instant(asked$to) - if (dates) 86400 else 1e-3
  )
}

# The survey of all records, as if there had been some at these instants too.
survey_over <- function(all, instants, table) {
  ends <- range(all$lowest, all$highest, instants)
  days <- floor(instant_to_local(ends, table) / 86400)
  months <- number_of_days_cpp(days, calendar_of_dates("month"))
  all$lowest <- ends[[1]]
  all$highest <- ends[[2]]
  all$first_day <- days[[1]]
  all$last_day <- days[[2]]
  all$first_month <- months[[1]]
  all$last_month <- months[[2]]
  all
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

hourly <- list(steps = 1L, length = 3600)

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
  open > 0 && if (length(cadence$kept[[1]]) > 0) {
    # Where nothing comes by a cadence, whatever hour is kept counts.
    if (cadence$steps %in% c(0L, 3L)) cadence[c("steps", "length")] <- hourly
    any(slots_kept(c(from, to), calendar, cadence) > 0)
  } else {
    is_irregular(cadence) || expected_slots_cpp(local, c(from, to), cadence) > 0
  }
}
