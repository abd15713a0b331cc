# The periods of a calendar: their numbers (0 holds 1970-01-01 unless an anchor
# says otherwise, and each next period is one more) and their starts, a Date, or
# a POSIXct for periods of the clock.

base_of <- function(calendar) base_codes[[calendar$base + 1]]

# Whether the periods are of the clock.
by_clock <- function(calendar) calendar$base == 0L

# The calendar laid over a zone, for instants from `lowest` to `highest` and the
# ends of the periods that hold them.
lay_calendar <- function(calendar, zone = "UTC", lowest = 0, highest = 0) {
  calendar$zone <- calendar$zone %||% zone
  length <- 1.1 * period_seconds(calendar)
  calendar$table <- zone_table(calendar$zone, lowest - length, highest + length)
  calendar$shifts <- clock_shifts(calendar)
  calendar
}

lay_calendar_over <- function(
  calendar, when, zone = zone_of(when), ends = ends_cpp(when)
) {
  if (is.na(ends$lowest)) {
    return(lay_calendar(calendar, zone))
  }
  scale <- if (inherits(when, "Date")) 86400 else 1
  lay_calendar(calendar, zone, ends$lowest * scale, ends$highest * scale)
}

# No zone is the session's, as everywhere in R.
zone_of <- function(when) {
  if (inherits(when, "Date")) {
    "UTC"
  } else {
    attr(when, "tzone")[1] %||% ""
  }
}

# The offsets by which periods of the clock are cut: those of the class of cuts
# in src/kernels/calendar.h.
clock_shifts <- function(calendar) {
  table <- calendar$table
  count <- calendar$count
  if (!by_clock(calendar) || 86400 %% count != 0) {
    return(list(from = -Inf, offset = 0))
  }
  if (length(table$from) == 1) {
    return(table)
  }
  from <- table$from[-1]
  number <- function(instant, offset) {
    floor(
      (instant + offset - calendar$origin) / count
    )
  }
  last <- number(from - 1e-6, table$offset[-length(table$offset)])
  first <- number(from, table$offset[-1])
  # Those of up to an hour start again wherever the offset changes: how many
  # periods the last of a segment then lies ahead of the first of the next one.
  # Of longer ones, those that the clock skips whole have no number.
  ahead <- if (count <= 3600) last + 1 - first else -pmax(first - last - 1, 0)
  list(from = table$from, offset = table$offset + c(0, cumsum(ahead)) * count)
}

# `calendar` must be laid over the zone where `when` is of instants.
period_number <- function(when, calendar) {
  if (inherits(when, "Date") && !by_clock(calendar)) {
    return(number_of_days_cpp(as.numeric(when), calendar))
  }
  instant <- if (inherits(when, "Date")) {
    midnights_cpp(as.numeric(when), calendar$table)
  } else {
    as.numeric(when)
  }
  number_of_instants_cpp(instant, calendar)
}

period_start <- function(number, calendar) {
  start <- period_start_cpp(as.numeric(number), calendar)
  if (by_clock(calendar)) .POSIXct(start, tz = calendar$zone) else .Date(start)
}

# The mean seconds of a period, to compare with those of others.
period_seconds <- function(calendar) {
  switch(
    base_of(calendar), clock = 1, day = 86400, "week month" = ,
    month = unit_seconds[["month"]], third = unit_seconds[["month"]] / 3,
    "open day" = 86400
  ) * calendar$count
}

# "2031-04-09", "2031-04-09 07:30 WET"
moments_in_words <- function(when) {
  if (inherits(when, "Date")) {
    return(day_label(when))
  }
  paste(
    day_label(as.Date(when, tz = attr(when, "tzone"))), clock_in_words(when),
    format(when, "%Z")
  )
}

# To the minute where no time has seconds.
clock_in_words <- function(when) {
  if (all(as.numeric(when) %% 60 == 0, na.rm = TRUE)) {
    return(format(when, "%H:%M"))
  }
  sub("^[^ ]+ ", "", text_of_times(when))
}

# As R writes them, with what fractions of a second they have, rounded and not
# cut.
text_of_times <- function(when) {
  if (all(as.numeric(when) %% 1 == 0, na.rm = TRUE)) {
    return(as.character(when))
  }
  format(when + 4e-7, digits = 6)
}

# Numbers as days or instants, as the times of `like` are.
like_moments <- function(number, like) {
  if (inherits(like, "Date")) {
    .Date(number)
  } else {
    .POSIXct(number, tz = attr(like, "tzone"))
  }
}
