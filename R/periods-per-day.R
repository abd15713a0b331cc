#' Add a flow per day
#'
#' A flow over the number of days in its period, so that months of 28 and 31
#' days, or with more and fewer working days, compare:
#' \eqn{x_t / d_t}{x[t] / d[t]}.
#'
#' Nothing is given (`NA`) where the period is partial or empty, where it has no
#' working day, and for measures that are not flows. Printing the table tells
#' how often each was the case.
#'
#' @inheritParams add_growth
#' @param workdays `FALSE` for calendar days, `TRUE` for the working days of the
#'   table's own [calendar()], or a calendar whose working days count.
#' @param name Name of the new column.
#' @return The table with one column more, in the unit of `of` per day.
#' @section Errors: `backfill_error_input` where `x` is not a periods table or
#'   has no flow; `backfill_error_argument` where the calendar has no working
#'   days; `backfill_error_column`.
#' @references Makridakis, S., Wheelwright, S. C. and Hyndman, R. J. (1998).
#'   *Forecasting: Methods and Applications*, 3rd ed., chapter 2. Wiley.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' add_per_day(roll_up(nights, every = "month"))
#' @export
add_per_day <- function(x, workdays = FALSE, of = "value", name = "per_day") {
  x <- check_periods(x)
  check_new_name(name, x)
  along <- along_series(x, of)
  counted <- days_counted(workdays, along$calendar)
  kinds <- vapply(facts(x)$measures, `[[`, "", "kind")
  flow <- kinds[x$measure[along$order]] %in% c("flow", "counter")
  if (!any(flow)) {
    abort_backfill(
      "input", "The table has no flow.",
      i = "A level or a ratio does not grow with the days of its period."
    )
  }
  number <- unique(along$number)
  counts <- days_of_periods(number, along$calendar, counted, !isFALSE(workdays))
  days <- counts[match(along$number, number)]
  value <- ifelse(flow & days > 0, along$value / days, NA_real_)
  day <- if (isFALSE(workdays)) "day" else "working day"
  known <- flow & !is.na(along$value)
  note <- new_note(
    "per day", of, paste("{of} per", day), made = list(workdays = workdays),
    withheld = c(
      "the measure is not a flow" = sum(!flow),
      "the period is not whole" = sum(flow & !known),
      "the period has no working day" = sum(known & days == 0)
    )
  )
  add_column(x, name, value, along, note)
}

# The calendar whose days are counted.
days_counted <- function(workdays, calendar) {
  if (by_clock(calendar)) {
    abort_backfill(
      "input",
      "Periods of the clock ({period_noun(calendar)}) have no number of days."
    )
  }
  counted <- if (is_calendar(workdays)) workdays else calendar
  if (!is_calendar(workdays)) {
    check_flag(workdays, "workdays")
  }
  if (!isFALSE(workdays) && !counted$workdays) {
    abort_backfill(
      "argument",
      "`workdays` asks for working days, but the calendar names none.",
      ">" = "Give one that does, such as calendar(\"day\", workdays = 1:5,",
      "holidays = ...)."
    )
  }
  counted
}
