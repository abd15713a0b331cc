# Times by the clocks of several zones, which a column names row by row.

# As read_when() gives it, of a column `x` with the zone of each row; days and
# longer periods are then cut by the clock of `zone`.
read_when_in_zones <- function(x, zones, zone, series, rules, at) {
  if (inherits(x, "backfill_field")) x <- x$texts(seq_len(x$rows))
  zones <- trimws(as.character(zones))
  known <- zones %in% OlsonNames()
  second <- rep(NA_real_, length(zones))
  bad <- which(!known)
  reason <- rep("no zone of the tz database", length(bad))
  note <- character()
  for (one in unique(zones[known])) {
    rows <- which(zones == one)
    part <- x[rows]
    attr(part, "wall") <- attr(x, "wall")
    found <- read_when(
      part, one, if (!is.null(series)) vctrs::vec_slice(series, rows), rules,
      function(row) at(rows[row])
    )
    check_timed(found$when, one)
    second[rows] <- as.numeric(found$when)
    bad <- c(bad, rows[found$bad])
    reason <- c(reason, found$reason)
    note <- c(note, found$note)
  }
  second[bad] <- NA
  list(
    when = turn_into_instants_cpp(second, zone), bad = bad, reason = reason,
    text = as.character(x)[bad],
    note = c(unique(note), glue(
      "Times are those of clocks in {in_words(unique(zones[known]), 5)}, by",
      "row."
    ))
  )
}

# A day has no clock.
check_timed <- function(when, zone) {
  if (inherits(when, "Date")) {
    abort_backfill(
      "when", "`when` names a column of zones, and the dates have no times.",
      i = "Beside the zone {zone} there are dates alone.",
      ">" = "Leave the zone out: a date is the same in every zone."
    )
  }
}
