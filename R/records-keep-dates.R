#' Keep some dates only
#'
#' Narrows records to a range of dates, to weekdays, to hours of the day, or to
#' working days. How many rows were left out, and why, is said in the account
#' (see [account()]). On days and at hours that are not kept nothing is expected
#' any longer: a day of three kept hours is complete with these three. Where
#' `absent` is zero for all measures of a [roll_up()], its periods reach from
#' `from` to `to`, with zeros before the first and after the last record.
#'
#' @param x A records table, from [read_records()] or [as_records()].
#' @param from,to First and last date or time to keep, as a `Date`, a `POSIXct`
#'   or text of ISO 8601. A `to` that is a day, month or year takes all of it
#'   in. Times without an offset are those of the records' zone.
#' @param weekdays Weekdays to keep: names such as `"Saturday"`, or 1 (Monday)
#'   to 7.
#' @param hours Hours of the day to keep, 0 to 23, by the clock of the records'
#'   zone: `6:9` keeps 06:00 to 09:59.
#' @param workdays `TRUE` keeps Monday to Friday, without holidays; `FALSE`
#'   keeps weekends and holidays; `NULL` both.
#' @param holidays Days off: a `Date` vector, such as [read_holidays()] makes of
#'   an iCalendar file.
#' @return The records of those dates.
#' @section Errors: `backfill_error_input`, `backfill_error_argument`.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' keep_dates(crossings, from = "2031-06", to = "2031-08", hours = 6:9,
#'            workdays = TRUE,
#'            holidays = read_holidays(demo_file("holidays.ics")))
#' @export
keep_dates <- function(
  x, from = NULL, to = NULL, weekdays = NULL, hours = NULL, workdays = NULL,
  holidays = NULL
) {
  check_given()
  source_keep(x, from, to, weekdays, hours, workdays, holidays)
}

# The same of any source.
source_keep <- function(x, from, to, weekdays, hours, workdays, holidays) {
  UseMethod("source_keep")
}

#' @export
source_keep.default <- function(
  x, from, to, weekdays, hours, workdays, holidays
) {
  check_records(x)
  role <- facts(x)
  when <- x[[role$when]]
  unit <- unit_of_times(when)
  table <- zone_table_of(when, role$zone)
  local <- instant_to_local(as.numeric(when) * unit, table)
  day <- floor(local / 86400)
  rules <- c(
    rules_of_ends(from, to, when, local, role$zone),
    rule_of_weekdays(weekdays, day),
    rule_of_hours(hours, when, local - day * 86400),
    rule_of_workdays(workdays, holidays, day)
  )
  if (length(rules) == 0) {
    return(x)
  }
  role <- with_kept(role, from, to, weekdays, hours, workdays, holidays)
  kept <- Reduce(`&`, rules)
  # A row is counted once, under the first rule that leaves it out.
  counts <- vapply(rules, function(rule) 0L, 0L)
  left <- rep(TRUE, length(kept))
  for (i in seq_along(rules)) {
    counts[[i]] <- sum(left & !rules[[i]])
    left <- left & rules[[i]]
  }
  out <- vctrs::vec_slice(plain_tibble(x), which(kept))
  counts <- counts[counts > 0]
  role$account$notes <- c(role$account$notes, sprintf(
    "%s of %s are kept%s.", thousands(sum(kept)), count_of(length(kept), "row"),
    if (length(counts) > 0) {
      glue("; left out: {in_words(paste(thousands(counts), names(counts)))}")
    } else {
      ""
    }
  ))
  new_table(out, "records", role$needed, role)
}

# What is expected from now on, and over which days.
with_kept <- function(role, from, to, weekdays, hours, workdays, holidays) {
  rule <- list(
    weekdays = if (!is.null(weekdays)) {
      check_weekdays(weekdays, "weekdays")
    },
    hours = hours, workdays = workdays,
    holidays = if (!is.null(workdays)) as.numeric(holidays)
  )
  rule <- Filter(Negate(is.null), rule)
  if (length(rule) > 0) role$kept <- c(role$kept, list(rule))
  asked <- list(
    from = if (!is.null(from)) bound(from, "from", FALSE, role$zone),
    to = if (!is.null(to)) bound(to, "to", TRUE, role$zone)
  )
  if (!is.null(from) && !is.null(to)) {
    check_before(asked, from, to)
  }
  # What was left out before is not asked for again.
  role$asked <- list(
    from = narrower(role$asked$from, asked$from, `<`),
    to = narrower(role$asked$to, asked$to, `>`)
  )
  role$beside <- c(role$beside, attr(holidays, "source"))
  role
}

check_before <- function(asked, from, to) {
  alike <- asked$from$instant == asked$to$instant
  if (alike && asked$from$second >= asked$to$second) {
    abort_backfill(
      "argument",
      "`from` is {moment_text(from)}, which lies after `to`,",
      "{moment_text(to)}.",
      ">" = "Exchange them."
    )
  }
}

narrower <- function(one, other, is_wider) {
  if (is.null(one) || is.null(other)) {
    return(one %||% other)
  }
  if (is_wider(one$second, other$second)) other else one
}

moment_text <- function(x) if (is.character(x)) x else moments_in_words(x)

# How far each time lies behind a bound. Instants are compared as such, since a
# clock that is put back shows some times twice; days, and times without an
# offset, by the clock.
side_of <- function(when, local, bound) {
  if (bound$instant && !inherits(when, "Date")) {
    as.numeric(when) - bound$second
  } else {
    local - bound$second
  }
}

# list(second, instant): where the time starts, or, for an end, where it is
# over; as an instant or on the local clock.
bound <- function(x, argument, end, zone) {
  by_the_clock <- function(second) list(second = second, instant = FALSE)
  # An instant at the end is kept itself.
  of_instant <- function(second) {
    list(
      second = second + if (end) 1e-6 else 0, instant = TRUE
    )
  }
  if (is_moment(x, "Date")) {
    return(by_the_clock((floor(as.numeric(x)) + end) * 86400))
  }
  if (is_moment(x, "POSIXct")) {
    return(of_instant(as.numeric(x)))
  }
  read <- read_bound(x, argument)
  second <- read$second[[1]]
  if (read$has_offset) {
    return(of_instant(second))
  }
  unit <- c("year", "quarter", "month", "week", "day")[read$precision[[1]] + 1L]
  if (!end || is.na(unit)) {
    return(by_the_clock(second + if (end) 1e-6 else 0))
  }
  of_unit <- calendar_of_dates(unit)
  by_the_clock(
    as.numeric(period_start(
      period_number(.Date(second / 86400), of_unit) + 1, of_unit
    )) * 86400
  )
}

# Which rows each rule keeps, by what it says of those that it leaves out.
rules_of_ends <- function(from, to, when, local, zone) {
  rules <- list()
  if (!is.null(from)) {
    first <- bound(from, "from", FALSE, zone)
    rules[[paste("before", moment_text(from))]] <- side_of(
      when, local, first
    ) >= 0
  }
  if (!is.null(to)) {
    last <- bound(to, "to", TRUE, zone)
    rules[[paste("after", moment_text(to))]] <- side_of(when, local, last) < 0
  }
  rules
}

rule_of_weekdays <- function(weekdays, day) {
  if (is.null(weekdays)) {
    return(NULL)
  }
  kept <- check_weekdays(weekdays, "weekdays")
  said <- sprintf("not on %s", in_words(weekday_names[sort(kept)]))
  stats::setNames(list(on_days(list(weekdays = kept), day)), said)
}

rule_of_hours <- function(hours, when, second_of_day) {
  if (is.null(hours)) {
    return(NULL)
  }
  check_hours(hours, inherits(when, "Date"))
  list("at another hour" = floor(second_of_day / 3600) %in% hours)
}

check_hours <- function(hours, dates) {
  if (dates) {
    abort_backfill(
      "argument", "`hours` is given, but the records have dates only."
    )
  }
  if (!is.numeric(hours) || !all(hours %in% 0:23)) {
    abort_backfill(
      "argument",
      "`hours` is {value_in_words(hours)}; it must be hours from 0 to 23."
    )
  }
}

rule_of_workdays <- function(workdays, holidays, day) {
  off <- check_days_off(workdays, holidays)
  if (is.null(workdays)) {
    return(NULL)
  }
  kept <- on_days(list(workdays = workdays, holidays = off), day)
  if (workdays) {
    list("on weekends and holidays" = kept)
  } else {
    list("on working days" = kept)
  }
}

check_days_off <- function(workdays, holidays) {
  if (is.null(workdays) && !is.null(holidays)) {
    abort_backfill(
      "argument",
      "`holidays` is given, but `workdays` does not say what to do with them.",
      ">" = "Set `workdays` to TRUE to leave them out, to FALSE to keep",
      "nothing else but weekends."
    )
  }
  if (!is.null(workdays)) {
    check_flag(workdays, "workdays")
    check_holidays(holidays)
  }
}

is_moment <- function(x, class) {
  inherits(x, class) && length(x) == 1 &&
    !is.na(x)
}

# A date or time as text, as read_dates_cpp() gives it.
read_bound <- function(x, argument) {
  read <- if (rlang::is_string(x)) read_dates_cpp(x, 1969L, 1L)
  if (is.null(read) || read$outcome[[1]] != 0L || !read$year_first) {
    abort_backfill(
      "argument", "`{argument}` is {value_in_words(x)}.",
      i = "It must be a date or time such as 2031-04-09, 2031-04 or 2031-04-09",
      "07:30."
    )
  }
  read
}
