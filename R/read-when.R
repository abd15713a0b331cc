# From a column of dates or times to `Date` or `POSIXct`. Of rows where that is not possible, `bad` names the rows and
# `reason` says what is wrong with each. `series` is a data frame that tells the rows' series apart, or NULL.
read_when <- function(x, zone, series) {
  if (inherits(x, "POSIXct") || inherits(x, "Date")) {
    number <- as.numeric(x)
    when <- if (inherits(x, "Date")) .Date(floor(number)) else .POSIXct(number, tz = zone)
    bad <- which(!is.finite(number))
    return(list(when = when, bad = bad, reason = rep(outcome_reasons[[1]], length(bad))))
  }
  parsed <- read_moments_cpp(as.character(x))
  bad <- which(parsed$outcome > 0L)
  reason <- outcome_reasons[parsed$outcome[bad]]
  # A month among days says less than its neighbours do: on which day it was is not known.
  coarse <- which(parsed$outcome == 0L & parsed$precision < day_precision)
  fine <- parsed$outcome == 0L & parsed$precision >= day_precision
  if (length(coarse) > 0 && any(fine)) {
    bad <- c(bad, coarse)
    reason <- c(reason, rep("no day is given, though other rows have one", length(coarse)))
  }
  parsed$second[bad] <- NA
  if (!any(fine & parsed$precision > day_precision)) {
    return(list(when = .Date(parsed$second / 86400), bad = bad, reason = reason))
  }
  found <- clock_to_instant(parsed$second, parsed$has_offset, zone, series)
  list(
    when = .POSIXct(found$instant, tz = zone),
    bad = c(bad, found$skipped),
    reason = c(reason, rep(sprintf("no such time in zone %s: daylight saving skips it", zone), length(found$skipped)))
  )
}

# In the order of enum class Outcome in src/kernels/iso8601.h, from 1.
outcome_reasons <- c(
  "no date is given", "not a date or time of ISO 8601", "no such date in the calendar", "no such time of day"
)

day_precision <- 4L # of enum class Precision in src/kernels/iso8601.h

# Seconds as a clock in `zone` shows them to instants; those with an offset are instants already. `skipped` names the
# rows whose time the clock never showed.
clock_to_instant <- function(second, has_offset, zone, series) {
  range <- range(second, na.rm = TRUE)
  table <- zone_table(zone, range[[1]], range[[2]])
  shown <- which(!is.na(second) & !has_offset)
  found <- local_to_instant(second[shown], table)
  # The second time that a series shows a time of the repeated hour is its second pass.
  repeated <- which(found$repeated)
  if (length(repeated) > 0) {
    rows <- shown[repeated]
    key <- vctrs::data_frame(time = second[rows])
    if (!is.null(series)) {
      key$series <- vctrs::vec_group_id(vctrs::vec_slice(series, rows))
    }
    second_pass <- repeated[duplicated(key)]
    found$instant[second_pass] <- found$again[second_pass]
  }
  second[shown] <- found$instant
  list(instant = second, skipped = shown[found$skipped])
}
