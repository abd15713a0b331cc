# Where periods of several units start to be counted from.

# The base that the first period starts with: the anchor's, or one that makes
# period 0 hold 1970-01-01.
calendar_origin <- function(calendar, anchor) {
  # Of the single weeks, or years, the one that holds it is the first of
  # several.
  first <- switch(
    calendar$unit, week = -((4 - calendar$week_start) %% 7), month = ,
    quarter = , year = -((1 - calendar$year_start) %% 12), 0
  )
  if (is.null(anchor)) {
    return(-(-first %% calendar$count))
  }
  check_anchored(calendar)
  moment <- if (by_clock(calendar)) {
    anchor_second(anchor, calendar)
  } else {
    anchor_day(anchor)
  }
  if (is.null(moment)) {
    abort_backfill(
      "argument", "`anchor` is {value_in_words(anchor)}.",
      i = "It must be a day such as \"2031-04-09\", or a time (POSIXct) for",
      "periods of the clock."
    )
  }
  base <- moment
  if (!by_clock(calendar)) {
    one <- calendar
    one[c("count", "origin")] <- list(1, 0)
    one <- lay_calendar(one)
    base <- number_of_days_cpp(moment, one)
    check_starts_there(moment, base, one, calendar, anchor)
  }
  -(-base %% calendar$count)
}

check_anchored <- function(calendar) {
  if (calendar$number == 1 && !by_clock(calendar)) {
    abort_backfill(
      "argument",
      "`anchor` is given for a single {calendar$unit}, which has its place in",
      "the calendar.",
      ">" = "The first day of the week is set by `week_start`, the first month",
      "by `year_start`."
    )
  }
}

# Whether the single period `base` starts on the day of the anchor.
check_starts_there <- function(moment, base, one, calendar, anchor) {
  if (period_start_cpp(base, one) != moment) {
    unit <- if (grepl("month", base_of(calendar))) "month" else calendar$unit
    abort_backfill(
      "argument",
      "`anchor` is {value_in_words(anchor)}, where no {unit} starts."
    )
  }
  weekday <- (moment + 3) %% 7 + 1
  by_weekday <- calendar$unit == "week" && calendar$week_start != 1
  if (by_weekday && weekday != calendar$week_start) {
    abort_backfill(
      "argument",
      "`anchor` is a {weekday_names[weekday]}, but `week_start` is",
      "{weekday_names[calendar$week_start]}."
    )
  }
}

anchor_day <- function(anchor) {
  if (inherits(anchor, "Date") && length(anchor) == 1 && !is.na(anchor)) {
    return(floor(as.numeric(anchor)))
  }
  read <- if (rlang::is_string(anchor)) read_dates_cpp(anchor, 1969L, 1L)
  if (!is.null(read) && read$outcome[[1]] == 0L && read$year_first) {
    floor(read$second[[1]] / 86400)
  }
}

# As a second of the local clock where that cuts the periods.
anchor_second <- function(anchor, calendar) {
  if (inherits(anchor, "POSIXct") && length(anchor) == 1 && !is.na(anchor)) {
    zone <- calendar$zone %||% zone_of(anchor)
    instant <- as.numeric(anchor)
    if (86400 %% calendar$count == 0) {
      instant_to_local(instant, zone_table(zone, instant, instant))
    } else {
      instant
    }
  }
}
