# How many slots of a cadence lie in a span of time.

# How many slots each period should have: a row for each, a column for each of
# the distinct cadences; NA where it is irregular. Numbers follow each other;
# `bounds` are their boundaries_cpp(), with the end of the last.
expected_slots <- function(number, bounds, calendar, cadences) {
  distinct <- vctrs::vec_unique(cadences)
  slots <- expected_slots_cpp(bounds$local, bounds$instant, distinct)
  daily <- distinct$steps %in% 1:2 & distinct$length <= 86400
  kept <- daily & lengths(distinct$kept) > 0
  for (i in which(kept)) {
    slots[, i] <- slots_kept(bounds$instant, calendar, distinct[i, ])
  }
  open <- daily & !kept
  if (calendar$workdays && any(open)) {
    slots[, open] <- expected_open_slots(bounds, calendar, distinct[open, ])
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
    start <- boundaries_cpp(shown[1, k], calendar)$local
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
  starts <- midnights_cpp(days, calendar$table)
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
