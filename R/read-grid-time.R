# The axis of time of a NetCDF grid, by section 4.4 of the CF conventions.

# list(name, when, kept, note): the name of its dimension, its moments, and the
# rules that they keep to.
grid_time <- function(grid, file) {
  units <- vapply(grid$dim, function(dim) dim$units %||% "", "")
  counted <- grepl("^\\s*\\w+\\s+since\\s", units, ignore.case = TRUE)
  as_date <- grepl(
    "^\\s*day\\s+as\\s+%Y%m%d([.]%f)?\\s*$", units, ignore.case = TRUE
  )
  at <- which(counted | as_date)
  if (length(at) == 0) {
    abort_backfill(
      "file",
      "{basename(file$shown)} has no axis of time: none of its dimensions has",
      "a unit such as \"days since 2031-01-01\".",
      i = "Its dimensions are {in_words(quoted(names(grid$dim)))}."
    )
  }
  dim <- grid$dim[[at[[1]]]]
  calendar <- tolower(dim$calendar %||% "standard")
  if (is.na(calendar)) {
    calendar <- "standard"
  }
  if (!all(is.finite(as.numeric(dim$vals)))) {
    abort_backfill(
      "file",
      "{basename(file$shown)} has a time on its axis that is not a number."
    )
  }
  found <- if (as_date[[at[[1]]]]) {
    days_as_written(dim, calendar, file)
  } else {
    seconds_since(dim, calendar, file)
  }
  when <- if (all(found$second %% 86400 == 0)) {
    .Date(found$second / 86400)
  } else {
    .POSIXct(found$second, tz = "UTC")
  }
  no_leap <- calendar %in% c("noleap", "365_day")
  list(
    name = dim$name, when = when, kept = if (no_leap) {
      list(list(no_leap = TRUE))
    },
    note = c(
      found$note, if (calendar %in% c("julian", "noleap", "365_day")) sprintf(
        "Its times are of the calendar %s%s.", quoted(calendar),
        if (no_leap) ", which has no 29 February" else ""
      )
    )
  )
}

stop_units <- function(dim, file) {
  abort_backfill(
    "file",
    "{basename(file$shown)} counts its time in {quoted(dim$units)}, which is",
    "not read here.",
    i = "It must count weeks, days, hours, minutes or seconds since a date, or",
    "\"day as %Y%m%d.%f\"."
  )
}

time_units <- c(
  day = "day", d = "day", hour = "hour", hr = "hour", h = "hour",
  minute = "minute", min = "minute",
  second = "second", sec = "second", s = "second", week = "week"
)

# list(second, note) of counts such as hours since 1900-01-01 00:00:0.0.
seconds_since <- function(dim, calendar, file) {
  form <- paste0(
    "^\\s*(\\w+)\\s+since\\s+([0-9]{1,4})-([0-9]{1,2})-([0-9]{1,2})",
    "(?:(?:\\s+|T)([0-9]{1,2})(?::([0-9]{1,2})(?::([0-9]{1,2}(?:[.][0-9]*)?))?)?)?",
    "\\s*(?:Z|UTC|GMT|([+-])([0-9]{1,2}):?([0-9]{2})?)?\\s*$"
  )
  part <- regmatches(
    dim$units, regexec(form, dim$units, perl = TRUE, ignore.case = TRUE)
  )[[1]]
  if (length(part) == 0) {
    stop_units(dim, file)
  }
  unit <- time_units[sub("s$", "", tolower(part[[2]]))]
  if (identical(tolower(part[[2]]), "s")) {
    unit <- "second"
  }
  number <- suppressWarnings(as.numeric(part[c(3:8, 10:11)]))
  number[is.na(number)] <- 0
  date <- number[[2]] %in% 1:12 && number[[3]] %in% 1:31
  if (is.na(unit) || !date || any(number[4:6] >= c(24, 60, 60))) {
    stop_units(dim, file)
  }
  offset <- (if (part[[9]] == "-") -1 else 1) * (
    number[[7]] * 3600 + number[[8]] * 60
  )
  of_day <- number[[4]] * 3600 + number[[5]] * 60 + number[[6]] - offset
  count <- as.numeric(dim$vals) * unit_seconds[[unit]]
  if (calendar %in% c("noleap", "365_day")) {
    return(list(second = without_leap_days(count, number[1:3], of_day)))
  }
  origin <- cf_day(number[[1]], number[[2]], number[[3]], calendar, file)
  # To a thousandth of a second, as fractions of days are not exact.
  second <- round((origin * 86400 + of_day) * 1000 + count * 1000) / 1000
  list(second = second, note = julian_note(second, calendar))
}

# 20310409.5
days_as_written <- function(dim, calendar, file) {
  value <- as.numeric(dim$vals)
  date <- floor(value)
  day <- cf_day(date %/% 1e4, date %/% 100 %% 100, date %% 100, calendar, file)
  if (anyNA(day)) {
    abort_backfill(
      "file",
      "{basename(file$shown)} holds",
      "{plain_format(value[is.na(day)][[1]], scientific = FALSE)} in its axis",
      "of time, which is not a date."
    )
  }
  second <- day * 86400 + round((value - date) * 86400, 3)
  list(second = second, note = julian_note(second, calendar))
}

# Days since 1970 of dates in a calendar of the conventions. The mixed one
# (standard, gregorian) is the Julian calendar up to 4 October 1582, which is
# followed by the 15th of the Gregorian one. Richards, E. G. (2013). Calendars.
# In: Urban, S. and Seidelmann, P. K. (eds.), Explanatory Supplement to the
# Astronomical Almanac, 3rd ed., section 15.11.
cf_day <- function(year, month, day, calendar, file) {
  if (
    !calendar %in% c(
      "standard", "gregorian", "proleptic_gregorian", "julian", "noleap",
      "365_day"
    )
  ) {
    abort_backfill(
      "file",
      "{basename(file$shown)} counts its time in a calendar of its own,",
      "{quoted(calendar)}.",
      i = "It must be standard, gregorian, proleptic_gregorian, julian, noleap",
      "and 365_day."
    )
  }
  mixed <- calendar %in% c("standard", "gregorian")
  julian <- calendar == "julian" | mixed & year * 1e4 + month * 100 +
    day < 15821015
  # Months from March on, so that the leap day ends the year.
  shifted <- (month + 9) %% 12
  years <- year - shifted %/% 10
  of_year <- (shifted * 306 + 5) %/% 10 + day - 1
  out <- years * 365 + years %/% 4 + of_year + ifelse(
    julian, -2, years %/% 400 - years %/% 100
  ) - 719468
  longest <- c(31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)[
    replace(month, !month %in% 1:12, NA)
  ]
  out[is.na(longest) | day < 1 | day > longest] <- NA
  out
}

julian_note <- function(second, calendar) {
  if (calendar != "proleptic_gregorian" && min(second) < -12219292800) {
    paste(
      "Days before 15 October 1582 are given their dates in the Gregorian",
      "calendar, as ISO 8601 has it."
    )
  }
}

# Seconds since 1970 of seconds counted from a date in years of 365 days, each
# of which skips 29 February.
without_leap_days <- function(count, date, of_day) {
  before <- cumsum(c(0, 31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30))
  day <- before[[date[[2]]]] + min(
    date[[3]], days_of_months[[date[[2]]]]
  ) - 1 + (count + of_day) / 86400
  year <- date[[1]] + floor(day / 365)
  within <- as.POSIXlt(.Date(
    as.numeric(as.Date("2001-01-01")) + floor(day %% 365)
  ))
  read <- read_dates_cpp(
    sprintf("%04d-%02d-%02d", as.integer(year), within$mon + 1L, within$mday),
    1969L, 1L
  )
  read$second[, 1] + round((day %% 1) * 86400, 3)
}
