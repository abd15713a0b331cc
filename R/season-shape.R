# Two seasons at once: where the cycle is a week of periods that make up a day,
# whether the day has one shape whatever the weekday.

# A row for each series, `shape_share` and `shape_p`; NULL for other cycles.
day_shapes <- function(along, position, part, cycle, calendar, draws = 199) {
  slots <- slots_of_day(cycle, calendar)
  if (is.null(slots)) {
    return(NULL)
  }
  found <- day_shapes_cpp(
    along$series, along$number, position - 1L, part, slots, draws, 1
  )
  new_rows(shape_share = found[, 1], shape_p = found[, 2])
}

slots_of_day <- function(cycle, calendar) {
  slots <- if (by_clock(calendar)) 86400 / calendar$count else NA
  if (isTRUE(cycle$length == 7 * slots) && slots > 1) as.integer(slots)
}
