#' Read holidays from an iCalendar file
#'
#' Events of whole days count, single ones and those that come back every year
#' on the same date; events with a time of day are not holidays.
#'
#' @param file Path of an iCalendar file (`.ics`).
#' @param last_year The last year for which yearly holidays are made.
#' @return A `Date` vector in order, for the `holidays` of a [calendar()].
#' @section Errors: `backfill_error_file` where the file is not one, or has
#'   events that come back by a rule that is not read.
#' @references Desruisseaux, B. (2009). *Internet Calendaring and Scheduling
#'   Core Object Specification (iCalendar)*. RFC 5545.
#' @examples
#' read_holidays(demo_file("holidays.ics"), last_year = 2031)
#' @export
read_holidays <- function(file, last_year = 2100) {
  check_given()
  check_whole(last_year, "last_year", 1, 9999, "the last year")
  last <- as.numeric(period_end(
    sprintf("%04d-01-01", as.integer(last_year)), "year"
  ))
  days <- days_off(file, c(-Inf, last))
  structure(.Date(sort(unique(days[days <= last]))), source = side_file(file))
}

# Days since 1970 within `range`.
days_off <- function(file, range) {
  check_file(file)
  events <- calendar_events(file)
  as.numeric(unlist(lapply(events, event_days, range = range, file = file)))
}

# The properties of each event, by name.
calendar_events <- function(file) {
  lines <- readLines(file, warn = FALSE, encoding = "UTF-8", skipNul = TRUE)
  odd <- !validUTF8(lines)
  lines[odd] <- iconv(lines[odd], "latin1", "UTF-8")
  lines <- sub("\r$", "", lines)
  if (length(lines) == 0 || lines[[1]] != "BEGIN:VCALENDAR") {
    abort_backfill(
      "file",
      "{basename(file)} is not an iCalendar file: it does not start with",
      "BEGIN:VCALENDAR."
    )
  }
  # A line that starts with a blank goes on from the one before.
  continued <- grepl("^[ \t]", lines)
  text <- vapply(
    split(sub("^[ \t]", "", lines), cumsum(!continued)), paste, "",
    collapse = ""
  )
  from <- which(text == "BEGIN:VEVENT")
  to <- which(text == "END:VEVENT")
  if (length(from) != length(to) || any(to < from)) {
    abort_backfill(
      "file", "{basename(file)} is damaged: an event in it does not end."
    )
  }
  Map(function(from, to) {
    inside <- text[seq_len(to - 1)[-seq_len(from)]]
    stats::setNames(
      sub("^[^:]*:", "", inside), toupper(sub("[;:].*", "", inside))
    )
  }, from, to)
}

event_days <- function(event, range, file) {
  if (!"DTSTART" %in% names(event)) {
    abort_backfill(
      "file", "{basename(file)} has an event without a start (DTSTART).",
      i = if ("SUMMARY" %in% names(event)) {
        "It is {quoted(event[['SUMMARY']])}."
      }
    )
  }
  start <- event_date(event[["DTSTART"]], file)
  if (is.null(start)) {
    return(NULL)
  }
  end <- if ("DTEND" %in% names(event)) event_date(event[["DTEND"]], file)
  length <- max(1, (end %||% (start + 1)) - start)
  starts <- if ("RRULE" %in% names(event)) {
    yearly_starts(start, event[["RRULE"]], range, file)
  } else {
    start
  }
  except <- unlist(lapply(event[names(event) == "EXDATE"], function(text) {
    vapply(strsplit(text, ",")[[1]], function(one) event_date(one, file), 0)
  }))
  starts <- setdiff(starts, except)
  as.vector(outer(seq_len(length) - 1, starts, "+"))
}

# Days since 1970; NULL for a time of day, which makes no holiday.
event_date <- function(text, file) {
  text <- trimws(text %||% "")
  if (grepl("^[0-9]{8}T", text)) {
    return(NULL)
  }
  read <- read_dates_cpp(text, 1969L, 1L)
  if (read$outcome[[1]] != 0L) {
    abort_backfill(
      "file", "{basename(file)} has an event whose date is {quoted(text)}.",
      i = "Dates of iCalendar are such as 20310409."
    )
  }
  read$second[[1]] / 86400
}

yearly_starts <- function(start, rule, range, file) {
  parts <- strsplit(strsplit(rule, ";")[[1]], "=")
  rule_of <- stats::setNames(
    vapply(parts, `[`, "", 2), vapply(parts, `[`, "", 1)
  )
  date <- as.POSIXlt(.Date(start))
  if (!is_yearly(rule_of, date)) {
    abort_backfill(
      "file",
      "{basename(file)} has an event that comes back by the rule {rule}, which",
      "is not read here.",
      i = "Only events that come back each year on the same date are read.",
      ">" = "Name the days one by one."
    )
  }
  step <- as.integer(if ("INTERVAL" %in% names(rule_of)) {
    rule_of[["INTERVAL"]]
  } else {
    1
  })
  last <- as.POSIXlt(.Date(range[[2]]))$year + 1900L
  year <- seq(date$year + 1900L, max(last, date$year + 1900L), by = step)
  read <- read_dates_cpp(
    sprintf("%04d-%02d-%02d", year, date$mon + 1L, date$mday), 1969L, 1L
  )
  starts <- read$second[read$outcome[, 1] == 0L, 1] / 86400
  if ("COUNT" %in% names(rule_of)) {
    starts <- first_few(starts, as.integer(rule_of[["COUNT"]]))
  }
  if ("UNTIL" %in% names(rule_of)) {
    starts <- starts[
      starts <= event_date(substr(rule_of[["UNTIL"]], 1, 8), file)
    ]
  }
  starts
}

# Whether a rule, by the names of its parts, means each year on the date.
is_yearly <- function(rule_of, date) {
  same <- c(
    BYMONTH = as.character(date$mon + 1), BYMONTHDAY = as.character(date$mday)
  )
  read <- c("FREQ", "INTERVAL", "COUNT", "UNTIL", "WKST", names(same))
  if (anyNA(rule_of) || !all(names(rule_of) %in% read)) {
    return(FALSE)
  }
  plain <- intersect(names(rule_of), names(same))
  counts <- rule_of[names(rule_of) %in% c("INTERVAL", "COUNT")]
  "YEARLY" %in% rule_of["FREQ"] && all(rule_of[plain] == same[plain]) &&
    all(grepl("^[1-9][0-9]{0,3}$", counts))
}
