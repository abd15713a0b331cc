# Distances along the calendar: how many periods a number or a length of time
# is.

# Whole periods in a length of time, or NULL where it is not a whole number of
# them.
periods_in <- function(length, calendar) {
  of <- switch(
    base_of(calendar),
    clock = unit_seconds[c("second", "minute", "hour", "day", "week")],
    day = c(day = 1, week = 7), "week month" = , month = unit_months,
    third = c(third = 1, unit_months * 3), "open day" = c("working day" = 1)
  )
  if (!length$unit %in% names(of)) {
    return(NULL)
  }
  count <- length$count * of[[length$unit]] / calendar$count
  if (count == floor(count)) count else NULL
}

read_distance <- function(x) parse_length(x) %||% parse_special_length(x)

# Three months stay three months.
length_as_said <- function(x) {
  parse_iso_length(trimws(x)) %||% parse_special_length(x) %||%
    parse_words_length(trimws(x))
}

# A number of periods, given as a number or a length of time; NULL where `x` is
# neither.
whole_periods <- function(x, calendar) {
  # c(1, "1 year") is of texts.
  if (rlang::is_string(x) && grepl("^[0-9]{1,7}$", x)) {
    x <- as.numeric(x)
  }
  if (is_whole_number(x, 1, 1e6)) {
    return(x)
  }
  length <- read_distance(x)
  if (is.null(length)) NULL else periods_in(length, calendar)
}

# How far off another period lies: list(count, move, words, one). `count` is a
# number of periods, or NULL where that differs from period to period; `move`
# then turns the numbers of periods of a laid calendar into those of the other
# ones, which lie before them where `sign` is -1 and behind where it is 1. `one`
# says that it is the next period. Where some periods are `closed`, a number of
# them, and the next one, is counted without these; a length of time is not.
check_distance <- function(x, calendar, argument, closed = FALSE) {
  length <- read_distance(x)
  words <- if (is.null(length)) NULL else counted_length(length_as_said(x))
  count <- whole_periods(x, calendar)
  if (!is.null(count)) {
    return(list(
      count = count,
      words = words %||% count_of_periods(count, calendar, closed),
      one = count == 1, counted = closed && (is.null(length) || count == 1)
    ))
  }
  move <- if (!is.null(length)) move_by_date(length, calendar)
  if (is.null(move)) {
    stop_periods(x, calendar, argument, "over")
  }
  list(move = move, words = words, one = FALSE)
}

# The numbers of the periods that lie so far before those of `number`, or behind
# them.
moved <- function(distance, number, laid, sign = -1) {
  if (!is.null(distance$count)) {
    number + sign * distance$count
  } else {
    distance$move(number, laid, sign)
  }
}

# Where a length of time is not a whole number of periods the same date is meant
# (of 31 days where the month has 30, the last), the 52nd week before for a
# year, the same time by the local clock, and of working days the last one on or
# before that date. NULL where there is no such rule.
move_by_date <- function(length, calendar) {
  months <- if (length$unit %in% names(unit_months)) length$count *
    unit_months[[length$unit]]
  days <- if (length$unit %in% c(
    "day", "week"
  )) length$count * unit_seconds[[length$unit]] / 86400
  other_day <- function(day, sign) {
    if (is.null(months)) {
      day + sign * days
    } else {
      months_back_cpp(day, -sign * months)
    }
  }
  if (is.null(months) && is.null(days)) {
    return(NULL)
  }
  if (by_clock(calendar)) {
    return(function(number, laid, sign) {
      local <- boundaries_cpp(number, laid)$local
      day <- floor(local / 86400)
      second <- other_day(day, sign) * 86400 + local - day * 86400
      number_of_instants_cpp(
        turn_into_instants_by_clock_cpp(
          second, integer(), laid$table$from, laid$table$offset
        )$instant,
        laid
      )
    })
  }
  one <- calendar$number == 1
  switch(
    calendar$unit,
    day = if (one) function(number, laid, sign) other_day(number, sign),
    "working day" = if (one) {
      function(number, laid, sign) {
        number_of_days_cpp(
          other_day(as.numeric(period_start(number, laid)), sign) + 1, laid
        ) - 1
      }
    },
    week = if (one && identical(length$unit, "year")) {
      function(number, laid, sign) number + sign * 52 * length$count
    }
  )
}

# A window's width: list(count, lower, words). `count` is a number of periods,
# or NULL where that differs from window to window; `lower` then gives the first
# period of the window that ends with each.
check_window <- function(x, calendar, argument, closed = FALSE) {
  count <- whole_periods(x, calendar)
  length <- read_distance(x)
  # In a length of time as many of them are open as happen to be.
  by_date <- !is.null(length) &&
    (is.null(count) || closed && count >= 2)
  if (!by_date && isTRUE(count >= 2)) {
    return(list(
      count = as.integer(count),
      words = count_of_periods(count, calendar, closed)
    ))
  }
  move <- if (by_date) move_back(count, length, calendar)
  if (is.null(move)) {
    stop_periods(x, calendar, argument, "window")
  }
  list(
    lower = function(number, laid) move(number, laid, -1) + 1,
    words = counted_length(length_as_said(x))
  )
}

move_back <- function(count, length, calendar) {
  if (is.null(count)) {
    return(move_by_date(length, calendar))
  }
  function(number, laid, sign) number + sign * count
}

stop_periods <- function(x, calendar, argument, class) {
  such <- if (base_of(calendar) %in% c("clock", "day")) "4 weeks" else "1 year"
  abort_backfill(
    class,
    if (is.character(x)) {
      paste(
        "`{argument}` is {value_in_words(x)}, which is not a whole number of",
        "{period_noun(calendar, 2)}."
      )
    } else {
      "`{argument}` is {value_in_words(x)}."
    },
    i = "It must be a number of",
    "periods{if (class == 'window') ', at least 2'}, or a length of time such",
    "as \"{such}\"."
  )
}

# "1 year", "3 months"
counted_length <- function(length) count_of(length$count, length$unit)
