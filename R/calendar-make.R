#' Cut time into periods
#'
#' A calendar is the rule by which time is cut into periods: their length, and
#' what of it can be chosen: the zone, the first day of the week, the first
#' month of the year, the working days. Wherever a length of period is asked
#' for, such as the `every` of [roll_up()], a calendar can be given instead of
#' words.
#'
#' Days, weeks and longer periods are those of the local clock: a day has 23 or
#' 25 hours where daylight saving begins or ends. Periods of the clock that
#' divide an hour or are an hour go on in step with the local clock, so that the
#' hour that is repeated makes two periods; longer ones that divide a day are
#' those that the clock shows (a period from 00:00 to 06:00 has seven hours once
#' a year); others, such as 7 hours, are counted in seconds that pass. Dates are
#' those of the Gregorian calendar, also before it was introduced. Leap seconds
#' are not counted, as in POSIX.
#'
#' @section Lengths: A number of `"seconds"`, `"minutes"`, `"hours"`, `"days"`,
#'   `"weeks"`, `"months"`, `"quarters"` or `"years"`, in words (`"month"`,
#'   `"15 minutes"`) or as an ISO 8601 duration (`"P1M"`, `"PT15M"`); `"third"`,
#'   ten days of a month (1 to 10, 11 to 20, 21 to the end); `"working day"`, of
#'   which the next period is the next working day. What is recorded on other
#'   days counts on the next working day.
#'
#' @section Whole weeks: With `whole_weeks` months, quarters and years are made
#'   of whole weeks, so that each has as many Saturdays as the year before. A
#'   year of `"4-4-5"` starts on the `week_start` that `first_week` places by
#'   the first day of the month `year_start`, and has 52 weeks, or 53, the last
#'   of which belongs to its last month. `"by month"` places each month so. Thus
#'   `calendar("month", whole_weeks = "4-5-4", week_start = "Sunday", year_start
#'   = 2)` has retail months; `whole_weeks = "by month"` with `first_week =
#'   "before"` those that broadcasters bill by. Months keep the name of the one
#'   they stand for, and are compared by it: the first month of such a year with
#'   the first of the year before, whether that had a 53rd week or not. Weeks
#'   with `whole_weeks` are numbered in that year.
#'
#' @section Labels: ISO 8601 where it has a form: `2031-04-09`, `2031-W15`,
#'   `2031-04`, `2031`, `2031-04-09T07:30`, else the start and the length, as in
#'   `2031-04-09/P10D`. Quarters are `2031-Q2`, thirds `2031-04-T1`; the fiscal
#'   year and its quarters have the number of the year in which they end,
#'   `FY2031` and `FY2031-Q2`. Months of whole weeks are `2031-M04`, or in
#'   fiscal years, counted from their start, `FY2031-M03`; weeks numbered in
#'   such a year are `FY2031-W53`.
#'
#' @param every Length of the periods, see below.
#' @param zone Zone of the tz database by whose clock instants are cut; `NULL`
#'   for that of the records.
#' @param week_start First day of the week, a name or 1 (Monday) to 7.
#' @param year_start The month in which years and quarters start, 1 to 12.
#' @param anchor A day on which a period starts (a `Date`, or text such as
#'   `"2031-04-09"`), for lengths that are not one day, week, month, quarter or
#'   year; for periods of the clock a time (`POSIXct`). By default multi-day
#'   periods are counted from 1970-01-01, multi-week ones from the week that
#'   holds it, and those of several months or years from January 1970.
#' @param whole_weeks How months, quarters and years are made of whole weeks:
#'   `"4-4-5"`, `"4-5-4"` or `"5-4-4"`, the weeks in the months of each quarter,
#'   or `"by month"`; `NULL` for those of the civil calendar.
#' @param first_week Which `week_start` starts such a year, or such a month by
#'   month: the `"nearest"` to its first day, the last on or `"before"` it, or
#'   the first on or `"after"` it.
#' @param workdays Weekdays that are working days, names or 1 (Monday) to 7;
#'   `NULL` for Monday to Friday where `holidays` or the length speak of working
#'   days, else for every day. Where something is recorded daily or more often,
#'   it is expected on working days only.
#' @param holidays `Date` vector of days that are not working days, such as
#'   [read_holidays()] gives.
#' @return A calendar, which prints as a sentence.
#' @section Errors: `backfill_error_every` for a length that is not one,
#'   `backfill_error_zone`, `backfill_error_argument`.
#' @references ISO 8601-1:2019, *Date and time: Representations for information
#'   interchange*. Hinnant, H. (2013). *chrono-compatible low-level date
#'   algorithms*, for the arithmetic of dates.
#' @seealso [period_of()] and the other helpers that take a calendar.
#' @examples
#' calendar("week", week_start = "Sunday")
#' calendar("quarter", year_start = 4)
#' calendar("month", whole_weeks = "4-4-5", year_start = 2)
#' calendar("10 days", anchor = "2031-04-09")
#' calendar("working day", holidays = read_holidays(demo_file("holidays.ics")))
#' @export
calendar <- function(
  every, zone = NULL, week_start = "Monday", year_start = 1, anchor = NULL,
  whole_weeks = NULL, first_week = "nearest", workdays = NULL, holidays = NULL
) {
  check_given()
  length <- parse_every(every)
  week_start <- check_weekdays(week_start, "week_start", 1)
  check_meant(
    first_week != "nearest" && is.null(whole_weeks), "first_week",
    "months are not made of whole weeks"
  )
  new_calendar(
    length, if (!is.null(zone)) check_zone(zone), week_start, year_start,
    anchor, workdays, check_holidays(holidays),
    check_whole_weeks(whole_weeks, first_week, length)
  )
}

new_calendar <- function(
  length, zone = NULL, week_start = 1, year_start = 1, anchor = NULL,
  workdays = NULL, holidays = NULL, weeks = NULL
) {
  given <- !is.null(workdays) || length(holidays) > 0 ||
    length$unit == "working day"
  open <- 1:7
  if (given) {
    open <- check_weekdays(workdays %||% 1:5, "workdays")
  }
  base <- calendar_bases[[length$unit]]
  if (!is.null(weeks) && base$of == "month") base$of <- "week month"
  out <- structure(
    list(
      unit = length$unit, number = length$count,
      base = match(base$of, base_codes) - 1L, count = base$each * length$count,
      zone = zone, week_start = week_start,
      year_start = as.integer(year_start),
      weekdays = as.integer(sum(2^(open - 1))),
      holidays = as.numeric(holidays), workdays = given, weeks = weeks,
      source = attr(holidays, "source")
    ),
    class = "backfill_calendar"
  )
  out$origin <- calendar_origin(out, anchor)
  out
}

# The calendar of single periods, laid over dates.
calendar_of_dates <- function(unit) {
  if (is.null(dated[[unit]])) {
    dated[[unit]] <- lay_calendar(new_calendar(list(unit = unit, count = 1)))
  }
  dated[[unit]]
}

# Made when they are first asked for, and kept.
dated <- new.env(parent = emptyenv())

# In the order of `enum class Base` in src/kernels/calendar.h.
base_codes <- c("clock", "day", "month", "third", "open day", "week month")

calendar_bases <- list(
  second = list(of = "clock", each = 1), minute = list(of = "clock", each = 60),
  hour = list(of = "clock", each = 3600), day = list(of = "day", each = 1),
  week = list(of = "day", each = 7),
  third = list(of = "third", each = 1), month = list(of = "month", each = 1),
  quarter = list(of = "month", each = 3), year = list(of = "month", each = 12),
  "working day" = list(of = "open day", each = 1)
)

is_calendar <- function(x) inherits(x, "backfill_calendar")

# What `every` and the like take: words or a calendar. A year in words is the
# fiscal year that the table `of` came by, of whole weeks where its own are.
as_calendar <- function(every, argument = "every", of = NULL) {
  if (is_calendar(every)) {
    return(every)
  }
  length <- parse_every(every, argument)
  by_years <- length$unit %in% c("year", "quarter")
  own <- facts(of)$calendar
  if (is.null(own$weeks) || calendar_bases[[length$unit]]$of != "month") {
    return(
      new_calendar(length, year_start = if (by_years) year_start_of(of) else 1)
    )
  }
  new_calendar(
    length, week_start = own$week_start, year_start = own$year_start,
    weeks = own$weeks
  )
}

year_start_of <- function(x) {
  facts(x)$year_start %||% facts(x)$calendar$year_start %||% 1
}

# For slips of the pen.
length_words <- c(
  "second", "minute", "hour", "day", "week", "month", "third", "quarter",
  "year", "working day"
)

parse_every <- function(every, argument = "every") {
  length <- parse_length(every) %||% parse_special_length(every)
  if (is.null(length)) {
    abort_backfill(
      "every",
      "`{argument}` is {value_in_words(every)}, which is not a length of",
      "period.",
      i = "{word_meant(every, length_words)}",
      i = "It must be such as \"hour\", \"day\", \"10 days\", \"week\",",
      "\"month\", \"quarter\" or \"year\", the same in ISO 8601 (\"PT1H\",",
      "\"P1M\"), \"third\" (of a month), \"working day\", or a calendar()."
    )
  }
  length
}

check_weekdays <- function(weekdays, argument, most = 7) {
  number <- weekdays
  if (is.character(weekdays)) {
    number <- pmatch(
      tolower(weekdays), tolower(weekday_names), duplicates.ok = TRUE
    )
    number[weekdays %in% 1:7] <- as.integer(weekdays[weekdays %in% 1:7])
  }
  if (
    !is.numeric(number) || length(number) == 0 || length(number) > most ||
      !all(number %in% 1:7)
  ) {
    abort_backfill(
      "argument", "`{argument}` is {value_in_words(weekdays)}.",
      i = "It must be names such as \"Monday\", or numbers from 1 (Monday) to",
      "7."
    )
  }
  unique(as.integer(number))
}

weekday_names <- c(
  "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"
)

check_holidays <- function(holidays) {
  if (!is.null(holidays) && (!inherits(holidays, "Date") || anyNA(holidays))) {
    abort_backfill(
      "argument",
      "`holidays` is {value_in_words(holidays)}; it must be a Date vector.",
      ">" = "read_holidays() makes one of an iCalendar file."
    )
  }
  structure(
    sort(unique(floor(as.numeric(holidays)))), source = attr(holidays, "source")
  )
}
