#' Ask a calendar
#'
#' `period_of()` gives the start of the period that holds a date or time,
#' `period_end()` its last day, `period_name()` its label, `period_sequence()`
#' all periods between two dates, `days_in_period()` the number of days, or of
#' working days, in it.
#'
#' @param when Dates or times: a `Date`, a `POSIXct`, or text of ISO 8601 for
#'   days (`"2031-04-09"`). A time is taken by the clock of its own zone unless
#'   the calendar names one.
#' @param every A length of period in words or a [calendar()].
#' @param from,to Dates or times, one each, in the first and in the last period.
#' @param workdays `TRUE` counts the calendar's working days only.
#' @return `period_of()` and `period_sequence()`: `Date`s, the first day of each
#'   period; for periods of the clock `POSIXct`, their first instant.
#'   `period_end()`: the last day, or for periods of the clock the instant at
#'   which the next one starts. `period_name()`: text, see [calendar()].
#'   `days_in_period()`: whole numbers. Missing values stay missing.
#' @section Errors: `backfill_error_argument` where `when` is neither dates nor
#'   times; those of [calendar()].
#' @examples
#' period_of("2031-04-09", "quarter")
#' period_end("2031-04-09", "month")
#' period_name("2031-04-09", calendar("year", year_start = 4))
#' period_sequence("2031-04-09", "2031-06-01", "third")
#' days_in_period(
#'   "2031-04-09", calendar("month", workdays = 1:5), workdays = TRUE
#' )
#' @export
period_of <- function(when, every) {
  check_given()
  asked <- ask_calendar(when, every)
  period_start(asked$number, asked$calendar)
}

#' @rdname period_of
#' @export
period_end <- function(when, every) {
  check_given()
  asked <- ask_calendar(when, every)
  if (by_clock(asked$calendar)) {
    return(period_start(asked$number + 1, asked$calendar))
  }
  last_day(asked$number, asked$calendar)
}

#' @rdname period_of
#' @export
period_name <- function(when, every) {
  check_given()
  asked <- ask_calendar(when, every)
  period_label(period_start(asked$number, asked$calendar), asked$calendar)
}

#' @rdname period_of
#' @export
period_sequence <- function(from, to, every) {
  check_given()
  ends <- list(as_moments(from, "from"), as_moments(to, "to"))
  if (any(lengths(ends) != 1) || anyNA(ends)) {
    abort_backfill("argument", "`from` and `to` must be one date or time each.")
  }
  asked <- ask_calendar(do.call(c, ends), every)
  if (asked$number[[1]] > asked$number[[2]]) {
    abort_backfill("argument", "`from` lies after `to`.")
  }
  period_start(seq(asked$number[[1]], asked$number[[2]]), asked$calendar)
}

#' @rdname period_of
#' @export
days_in_period <- function(when, every, workdays = FALSE) {
  check_given()
  check_flag(workdays, "workdays")
  asked <- ask_calendar(when, every)
  if (by_clock(asked$calendar)) {
    abort_backfill(
      "argument",
      "Periods of the clock ({period_noun(asked$calendar)}) have no number of",
      "days."
    )
  }
  days_of_periods(asked$number, asked$calendar, asked$calendar, workdays)
}

#' The position of a date in a cycle
#'
#' @inheritParams period_of
#' @param position `"hour"` (0 to 23, by the local clock), `"weekday"`,
#'   `"day of month"`, `"day of year"` (1 to 366), `"week"` (ISO 8601, 1 to 53),
#'   `"month"`, `"third"` (of a month) or `"quarter"`.
#' @param year_start The month in which the year of quarters starts, 1 to 12.
#' @return Whole numbers; for weekdays a factor of their names, from Monday to
#'   Sunday. Names always come from the date itself, never from a number whose
#'   first day is a guess.
#' @section Errors: `backfill_error_argument` for an unknown position, and for
#'   the hour of a day.
#' @examples
#' cycle_position(c("2031-04-09", "2031-04-12"), "weekday")
#' cycle_position("2031-04-09", "quarter", year_start = 4)
#' @export
cycle_position <- function(when, position, year_start = 1) {
  check_given()
  when <- as_moments(when, "when")
  position <- check_position(position, "position")
  check_whole(
    year_start, "year_start", 1, 12, "the month in which the year starts"
  )
  if (position == "hour" && inherits(when, "Date")) {
    abort_backfill(
      "argument", "`position` is \"hour\", but `when` has dates only."
    )
  }
  parts <- as.POSIXlt(when, tz = zone_of(when))
  month <- parts$mon + 1L
  switch(position,
    hour = parts$hour,
    weekday = factor(
      weekday_names[(parts$wday + 6L) %% 7L + 1L], weekday_names
    ),
    "day of month" = parts$mday,
    "day of year" = parts$yday + 1L,
    # An ISO week belongs to the year of its Thursday.
    week = as.POSIXlt(as.Date(parts) - (parts$wday + 6L) %% 7L + 3)$yday %/%
      7L + 1L,
    month = month,
    third = pmin((parts$mday - 1L) %/% 10L, 2L) + 1L,
    quarter = (month - as.integer(year_start)) %% 12L %/% 3L + 1L
  )
}

# list(number, calendar): the calendar laid over the times, and the number of
# the period of each.
ask_calendar <- function(when, every) {
  calendar <- as_calendar(every)
  when <- as_moments(when, "when", calendar$zone)
  calendar <- lay_calendar_over(calendar, when, zone_of(when))
  list(number = period_number(when, calendar), calendar = calendar)
}

# The last day of a period. Days off behind its last working day belong to the
# next.
last_day <- function(number, calendar) {
  if (calendar$unit != "working day") {
    return(period_start(number + 1, calendar) - 1)
  }
  each <- calendar
  each[c("count", "origin")] <- list(1, 0)
  period_start((number + 1) * calendar$count + calendar$origin - 1, each)
}

# How many days, or working days of `counted`, periods have.
days_of_periods <- function(number, calendar, counted, workdays) {
  count <- if (workdays) {
    function(day) open_before_cpp(as.numeric(day) + 1, counted)
  } else {
    as.numeric
  }
  as.integer(
    count(last_day(number, calendar)) - count(last_day(number - 1, calendar))
  )
}

# Text is of ISO 8601; times without an offset are those of the `zone`.
as_moments <- function(when, argument, zone = NULL) {
  if (inherits(when, "Date") || inherits(when, "POSIXct")) {
    return(when)
  }
  read <- if (is.character(when)) read_dates_cpp(when, 1969L, 1L)
  known <- !is.na(when)
  if (is.null(read) ||
        !all((read$outcome[, 1] == 0L & read$year_first)[known])) {
    abort_backfill(
      "argument", "`{argument}` is {value_in_words(when)}.",
      i = "It must be a Date, a POSIXct, or text such as \"2031-04-09\" or",
      "\"2031-04-09 07:30\"."
    )
  }
  second <- read$second[, 1]
  second[!known] <- NA
  if (!any((read$has_offset | second %% 86400 != 0)[known])) {
    return(.Date(second / 86400))
  }
  zone <- zone %||% "UTC"
  ends <- range(second, na.rm = TRUE) + c(-2e5, 2e5)
  local <- !read$has_offset
  second[local] <- midnights_cpp(
    second[local] / 86400, zone_table(zone, ends[[1]], ends[[2]])
  )
  .POSIXct(second, tz = zone)
}

positions_known <- c(
  "hour", "weekday", "weekend", "day of month", "day of year", "week", "month",
  "third", "quarter"
)

# "day of year" is understood as "day_of_year" too.
check_position <- function(
  x, argument, known = setdiff(positions_known, "weekend")
) {
  check_one_of(if (is.character(x)) gsub("_", " ", x) else x, known, argument)
}

# The first days of months, in days since 1970.
month_starts <- function(year, month) {
  as.numeric(as.Date(ISOdate(year, month, 1)))
}
