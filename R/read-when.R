# From a column of dates or times to `Date` or `POSIXct`. Of rows where that is
# not possible, `bad` names the rows, `reason` says what is wrong with each, and
# `text` what stands there if the column does not tell; `note` says in sentences
# how the dates were read. `series` is a data frame that tells the rows' series
# apart, or NULL; `at` turns rows into their source and line. The column is a
# vector, or a field of a file of which no text has been made (see
# date_field()).
read_when <- function(x, zone, series, rules, at) {
  if (inherits(x, c("POSIXct", "Date"))) {
    return(held_moments(x, zone, series, rules))
  }
  parsed <- (if (is.numeric(x)) {
    read_counted(x, rules$date_unit, serial = rules$serial)
  }) %||%
    read_written_or_counted(x, rules, at)
  bad <- list(rows = parsed$bad, reason = outcome_reasons[parsed$code])
  if (parsed$fine > 0 && length(parsed$coarse) > 0) {
    # A month among days says less than its neighbours do: on which day it was
    # is not known.
    bad$rows <- c(bad$rows, parsed$coarse)
    bad$reason <- c(
      bad$reason,
      rep("no day is given, though other rows have one", length(parsed$coarse))
    )
    parsed$second[parsed$coarse] <- NA
  }
  note <- parsed$note
  # Where no row could be read there is nothing to turn.
  if (parsed$timed && parsed$fine > 0) {
    found <- clock_to_instant(parsed, zone, series, rules$repeated)
    skipped <- glue("no such time in zone {zone}: daylight saving skips it")
    bad$rows <- c(bad$rows, found$never)
    bad$reason <- c(bad$reason, rep(skipped, length(found$never)))
    note <- c(note, found$note)
    when <- turn_into_instants_cpp(found$instant, zone)
  } else {
    when <- turn_into_days_cpp(parsed$second)
  }
  text <- if (inherits(x, "backfill_field") && length(bad$rows) > 0) x$texts(
    bad$rows
  )
  list(
    when = when, bad = bad$rows, reason = bad$reason, text = text, note = note
  )
}

# Text may hold counts, as where a note stands among them.
read_written_or_counted <- function(x, rules, at) {
  rows <- if (inherits(x, "backfill_field")) x$rows else length(x)
  texts <- function(rows) {
    if (inherits(x, "backfill_field")) x$texts(rows) else as.character(x[rows])
  }
  counted_as <- function(unit) {
    counts_in_text(texts(seq_len(rows)), unit, rules$serial)
  }
  # Before others are tried: 1999.0000 may be a fiscal year, too.
  if (identical(rules$date_unit, "year") ||
        are_decimal_years(text_as_numbers(texts(seq_len(min(rows, 100)))))) {
    return(counted_as("year"))
  }
  parsed <- read_written(x, rules, at)
  if (is.numeric(x) || length(parsed$bad) * 2 < length(parsed$second)) {
    return(parsed)
  }
  counted <- counted_as(rules$date_unit)
  if (is.null(counted)) parsed else with_written(counted, parsed)
}

counts_in_text <- function(text, unit, serial) {
  read_counted(
    text_as_numbers(text), unit, is.na(text) | !nzchar(trimws(text)), serial
  )
}

text_as_numbers <- function(text) suppressWarnings(as.numeric(text))

# Dates that stand as text among serial days, as in workbooks where some cells
# were typed as text.
with_written <- function(counted, written) {
  told <- match(counted$bad, written$bad)
  fit <- setdiff(counted$bad, c(written$bad, written$coarse))
  if (counted$timed || written$timed) {
    fit <- integer()
  }
  counted$second[fit] <- written$second[fit]
  left <- !counted$bad %in% fit
  counted$code <- ifelse(is.na(told), counted$code, written$code[told])[left]
  counted$bad <- counted$bad[left]
  counted$fine <- counted$fine + length(fit)
  if (length(fit) > 0) {
    counted$note <- c(counted$note, glue(
      "Among them {count_of(length(fit), 'date stands', 'dates stand')} as",
      "text."
    ))
  }
  counted
}

held_moments <- function(x, zone, series, rules) {
  if (isTRUE(attr(x, "wall"))) {
    wall_moments(x, zone, series, rules)
  } else {
    typed_moments(x, zone)
  }
}

# Times of a clock that are held as numbers.
wall_moments <- function(x, zone, series, rules) {
  second <- as.double(x)
  lacks <- which(!is.finite(second))
  bad <- list(rows = lacks, reason = rep(outcome_reasons[[1]], length(lacks)))
  if (length(lacks) == length(second)) {
    return(typed_moments(.POSIXct(second), zone))
  }
  second[lacks] <- NA
  found <- clock_to_instant(
    list(second = second, with_offset = integer()), zone, series, rules$repeated
  )
  skipped <- sprintf("no such time in zone %s: daylight saving skips it", zone)
  list(
    when = turn_into_instants_cpp(found$instant, zone),
    bad = c(bad$rows, found$never),
    reason = c(bad$reason, rep(skipped, length(found$never))),
    note = found$note
  )
}

# `Date` and `POSIXct` as they are.
typed_moments <- function(x, zone) {
  if (inherits(x, "Date") && all_finite_cpp(x, TRUE)) {
    return(list(when = x, bad = integer(), reason = character(), note = NULL))
  }
  number <- as.double(unclass(x))
  when <- if (inherits(x, "Date")) {
    .Date(floor(number))
  } else {
    .POSIXct(number, tz = zone)
  }
  bad <- if (all_finite_cpp(number, FALSE)) {
    integer()
  } else {
    which(!is.finite(number))
  }
  list(
    when = when, bad = bad, reason = rep(outcome_reasons[[1]], length(bad)),
    note = if (inherits(x, "POSIXct")) other_clock_note(x, zone)
  )
}

# Instants are what they are, but by another clock they may be of another day.
other_clock_note <- function(x, zone) {
  held <- attr(x, "tzone")[1] %||% ""
  ends <- suppressWarnings(range(as.numeric(x), na.rm = TRUE, finite = TRUE))
  shown <- function(zone) as.POSIXlt(.POSIXct(ends, tz = zone))$gmtoff
  if (all(is.finite(ends)) && !isTRUE(all.equal(shown(held), shown(zone)))) {
    sprintf(
      "Times that are held by the clock of %s are cut by that of %s.",
      if (nzchar(held)) held else "this session", zone
    )
  }
}

# From 1, in the order of enum class Outcome in src/kernels/iso8601.h; the last
# is that of src/kernels/date_column.h.
outcome_reasons <- c(
  "no date is given", "not a date", "no such date in the calendar",
  "no such time of day",
  "written in another order than the other dates"
)

# Seconds as a clock in `zone` shows them to instants; those with an offset are
# instants already. `never` names the rows whose time the clock never showed.
# `repeated` says which of its two hours a repeated time is.
clock_to_instant <- function(parsed, zone, series, repeated) {
  # Not range(), which copies its argument twice.
  table <- zone_table(
    zone, min(parsed$second, na.rm = TRUE), max(parsed$second, na.rm = TRUE)
  )
  if (length(table$from) == 1 && table$offset == 0) {
    return(list(instant = parsed$second))
  }
  found <- turn_into_instants_by_clock_cpp(
    parsed$second, parsed$with_offset, table$from, table$offset
  )
  twice <- found$twice
  if (length(twice) == 0) {
    return(found)
  }
  second_pass <- switch(repeated,
    first = integer(), second = seq_along(twice),
    # The second time that a series shows a time of the repeated hour is its
    # second pass.
    order = {
      key <- vctrs::data_frame(time = found$instant[twice])
      if (!is.null(series)) {
        key$series <- vctrs::vec_group_id(vctrs::vec_slice(series, twice))
      }
      which(duplicated(key))
    }
  )
  found$instant[twice[second_pass]] <- found$again[second_pass]
  found$note <- sprintf("%s in the hour that daylight saving repeats: %s.",
                        count_of(length(twice), "row lies", "rows lie"),
                        switch(
                          repeated,
                          first = "read as its first pass, as declared",
                          second = "read as its second pass, as declared",
                          order = paste(
                            "the first of a series is its first pass, any",
                            "further one its second"
                          )
                        ))
  found
}
