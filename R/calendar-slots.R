# How many slots of a cadence lie in a span of time.

# The mean seconds from slot to slot, to compare with the length of a period.
cadence_seconds <- function(cadences) {
  cadences$length * c(0, 1, 1, unit_seconds[["month"]])[cadences$steps + 1]
}

# How many slots each period should have: a row for each, a column for each of
# the distinct cadences; NA where it is irregular. Numbers follow each other.
expected_slots <- function(number, calendar, cadences) {
  distinct <- vctrs::vec_unique(cadences)
  bounds <- boundaries(c(number, number[length(number)] + 1), calendar)
  slots <- expected_slots_cpp(bounds$local, bounds$instant, distinct)
  daily <- distinct$steps %in% 1:2 & distinct$length <= 86400
  if (calendar$workdays && any(daily)) {
    slots[, daily] <- expected_open_slots(bounds, calendar, distinct[daily, ])
  }
  slots + slots_put_back(number, calendar, distinct) - slots_skipped(
    number, calendar, distinct
  )
}

# Where a clock is put forward by a day, as where the date line was moved, the
# slots of that day never were.
slots_skipped <- function(number, calendar, cadences) {
  out <- matrix(0, length(number), nrow(cadences))
  table <- calendar$table
  for (k in which(diff(table$offset) >= 86400)) {
    days <- (table$from[[k + 1]] + table$offset[k + 0:1]) / 86400
    # Days that are skipped whole.
    for (
      day in seq_len(max(0, floor(days[[2]]) - ceiling(days[[1]]))) +
        ceiling(days[[1]]) - 1
    ) {
      period <- if (by_clock(calendar)) number_of_instants_cpp(
        table$from[[k + 1]] - 1e-6, calendar
      ) else
        number_of_days_cpp(day, calendar)
      row <- match(period, number)
      slots <- expected_slots_cpp((day + 0:1) * 86400, c(0, 0), cadences)[1, ]
      local <- which(cadences$steps == 2L & cadences$length <= 86400)
      if (!is.na(row) && diff(open_before_cpp(day + 0:1, calendar)) > 0) {
        out[row, local] <- out[row, local] + slots[local]
      }
    }
  }
  out
}

# Where a clock is put back over the start of a period, as from 00:01 to 23:01,
# the end of the period before comes twice, the second time after the next one
# has started. Its slots are those of the period that the clock shows: what to
# add to each.
slots_put_back <- function(number, calendar, cadences) {
  out <- matrix(0, length(number), nrow(cadences))
  table <- calendar$table
  back <- which(diff(table$offset) < 0)
  at <- table$from[back + 1]
  shown <- number_of_instants_cpp(rbind(at - 1e-6, at), calendar)
  dim(shown) <- c(2, length(at))
  for (k in which(shown[1, ] > shown[2, ])) {
    start <- boundaries(shown[1, k], calendar)$local
    again <- at[[k]] + start - (at[[k]] + table$offset[[back[[k]] + 1]])
    # Slots by the clock are filled twice over, but are there once.
    slots <- expected_slots_cpp(c(0, 0), c(at[[k]], again), cadences)[1, ] *
      (cadences$steps == 1L)
    slots[is.na(slots)] <- 0
    rows <- match(shown[, k], number)
    for (side in which(!is.na(rows))) {
      out[rows[[side]], ] <- out[rows[[side]], ] + c(-1, 1)[[side]] * slots
    }
  }
  out
}

# On open days only.
expected_open_slots <- function(bounds, calendar, cadences) {
  days <- seq(
    floor(min(bounds$local) / 86400), ceiling(max(bounds$local) / 86400)
  )
  open <- diff(open_before_cpp(days, calendar))
  starts <- midnight(days, calendar$table)
  if (!by_clock(calendar)) {
    slots <- expected_slots_cpp(days * 86400, starts, cadences) * open
    period <- findInterval(days[-length(days)] * 86400, bounds$local)
    within <- period >= 1 & period < length(bounds$local)
    return(unname(rowsum(
      slots[within, , drop = FALSE], period[within], reorder = TRUE
    )))
  }
  # Periods of the clock may lie in two days, of which one is open.
  cuts <- sort(unique(c(bounds$instant, starts)))
  cuts <- cuts[
    cuts >= bounds$instant[[1]] &
      cuts <= bounds$instant[[length(bounds$instant)]]
  ]
  local <- instant_to_local(cuts, calendar$table)
  from <- cuts[-length(cuts)]
  slots <- expected_slots_cpp(local, cuts, cadences) * open[
    findInterval(from, starts)
  ]
  unname(rowsum(slots, findInterval(from, bounds$instant), reorder = TRUE))
}

# The moments at which periods start, as local seconds and as instants.
boundaries <- function(number, calendar) {
  start <- as.numeric(period_start(number, calendar))
  if (by_clock(calendar)) {
    return(list(
      local = instant_to_local(start, calendar$table), instant = start
    ))
  }
  list(local = start * 86400, instant = midnight(start, calendar$table))
}

# What is one for each period and distinct cadence as cells, series by series;
# where all series have one cadence, once for all of them.
as_cells <- function(slots, cadences) {
  if (ncol(slots) == 1) {
    return(slots[, 1])
  }
  as.vector(slots[, vctrs::vec_match(cadences, vctrs::vec_unique(cadences))])
}

# The instant at which a local day starts; where the clock skips midnight, the
# first instant after it.
midnight <- function(day, table) {
  second <- day * 86400
  segment <- findInterval(second, table$from + table$offset)
  found <- turn_into_instants_by_clock_cpp(
    second, integer(), table$from, table$offset
  )
  found$instant[found$never] <- table$from[segment[found$never] + 1]
  found$instant
}

# How many slots lie from the first to the last record, by weekday for daily
# cadences (Monday first), in the first column for others.
slots_of_ends <- function(cadences, surveys, table) {
  day <- function(instant) {
    floor(
      ifelse(
        cadences$steps == 1L, instant + cadences$offset,
        instant_to_local(instant, table)
      ) / 86400
    )
  }
  first <- day(surveys$lowest)
  last <- day(surveys$highest)
  slots <- matrix(0, nrow(cadences), 7)
  daily <- cadences$steps > 0L & cadences$length == 86400
  slots[daily, ] <- count_weekdays(first[daily], last[daily] + 1)
  stepped <- cadences$steps %in% 1:2 & !daily
  slots[stepped, 1] <- floor(
    (surveys$highest - surveys$lowest)[stepped] / cadences$length[stepped]
  ) + 1
  monthly <- cadences$steps == 3L
  month <- function(day) {
    number_of_days_cpp(
      day, calendar_of_dates("month")
    )
  }
  months <- month(last[monthly]) - month(first[monthly])
  slots[monthly, 1] <- months %/% cadences$length[monthly] + 1
  slots
}

# How often each weekday falls into the days from `from` to before `to`: a row
# per span, a column per weekday, Monday first.
count_weekdays <- function(from, to) {
  first <- 0:6 - 3 # 1970-01-01 was a Thursday, so day -3 was a Monday
  ceiling(outer(to, first, "-") / 7) - ceiling(outer(from, first, "-") / 7)
}
