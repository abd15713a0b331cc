# From a column of dates or times to `Date` or `POSIXct`. Of rows where that is not possible, `bad` names the rows and
# `reason` says what is wrong with each; `note` says in sentences how the dates were read. `series` is a data frame that
# tells the rows' series apart, or NULL; `at` turns rows into their source and line.
read_when <- function(x, zone, series, rules, at, call = caller_env()) {
  if (inherits(x, "POSIXct") || inherits(x, "Date")) {
    return(typed_moments(x, zone))
  }
  parsed <- if (is.numeric(x)) read_counted(x, rules$date_unit)
  if (is.null(parsed)) {
    parsed <- read_written(x, rules, at, call)
    # Text that holds counts, as where a note stands among them.
    if (is.character(x) && sum(parsed$outcome[parsed$at] > 0L) * 2 >= length(x)) {
      parsed <- read_counted(suppressWarnings(as.numeric(x)), rules$date_unit) %||% parsed
    }
  }
  # Until the end all is done with the distinct texts; `parsed$at` says which of them each row has.
  reason <- c(NA, outcome_reasons)[parsed$outcome + 1L]
  read <- parsed$outcome == 0L
  fine <- read & parsed$precision >= day_precision
  if (any(fine)) {
    # A month among days says less than its neighbours do: on which day it was is not known.
    reason[read & !fine] <- "no day is given, though other rows have one"
  }
  parsed$second[!is.na(reason)] <- NA
  note <- parsed$note
  if (any(fine & parsed$precision > day_precision)) {
    found <- clock_to_instant(parsed, zone, series, rules$repeated)
    reason[found$skipped] <- sprintf("no such time in zone %s: daylight saving skips it", zone)
    note <- c(note, found$note)
    when <- .POSIXct(found$instant, tz = zone)
  } else {
    when <- .Date((parsed$second / 86400)[parsed$at])
  }
  bad <- if (all(is.na(reason))) integer() else which(!is.na(reason)[parsed$at])
  list(when = when, bad = bad, reason = reason[parsed$at[bad]], note = note)
}

# `Date` and `POSIXct` as they are, held as doubles.
typed_moments <- function(x, zone) {
  if (is.double(x) && inherits(x, "Date") && all_finite_cpp(x, TRUE)) {
    return(list(when = x, bad = integer(), reason = character(), note = NULL))
  }
  number <- as.double(unclass(x))
  when <- if (inherits(x, "Date")) .Date(floor(number)) else .POSIXct(number, tz = zone)
  bad <- if (all_finite_cpp(number, FALSE)) integer() else which(!is.finite(number))
  list(when = when, bad = bad, reason = rep(outcome_reasons[[1]], length(bad)), note = NULL)
}

# From 1, in the order of enum class Outcome in src/kernels/iso8601.h; the last is made in read_written().
outcome_reasons <- c(
  "no date is given", "not a date", "no such date in the calendar", "no such time of day",
  "written in another order than the other dates"
)

precisions <- c(year = 0L, quarter = 1L, month = 2L, week = 3L, day = 4L, time = 5L) # of enum class Precision there
day_precision <- precisions[["day"]]

# Seconds as a clock in `zone` shows them to instants, one for each row; those with an offset are instants already.
# `skipped` names the distinct ones whose time the clock never showed. `repeated` says which of its two hours a repeated
# time is.
clock_to_instant <- function(parsed, zone, series, repeated) {
  range <- range(parsed$second, na.rm = TRUE)
  shown <- which(!is.na(parsed$second) & !parsed$has_offset)
  found <- local_to_instant(parsed$second[shown], zone_table(zone, range[[1]], range[[2]]))
  once <- parsed$second
  once[shown] <- found$instant
  instant <- once[parsed$at]
  out <- list(skipped = shown[found$skipped])
  if (any(found$repeated)) {
    again <- rep(NA_real_, length(once))
    again[shown] <- found$again
    rows <- which(!is.na(again[parsed$at]))
    second_pass <- rows[switch(repeated,
      first = integer(), second = seq_along(rows),
      # The second time that a series shows a time of the repeated hour is its second pass.
      order = {
        key <- vctrs::data_frame(time = instant[rows])
        if (!is.null(series)) {
          key$series <- vctrs::vec_group_id(vctrs::vec_slice(series, rows))
        }
        which(duplicated(key))
      }
    )]
    instant[second_pass] <- again[parsed$at[second_pass]]
    out$note <- sprintf("%s in the hour that daylight saving repeats: %s.", count_of(length(rows), "row lies", "rows lie"),
                        switch(repeated, first = "read as its first pass, as declared",
                               second = "read as its second pass, as declared",
                               order = "the first of a series is its first pass, any further one its second"))
  }
  c(out, list(instant = instant))
}
