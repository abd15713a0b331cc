# Distances along the calendar: how many periods a number or a length of time is.

# Whole periods in a length of time, or NULL where it is not a whole number of them.
periods_in <- function(length, calendar) {
  of <- switch(base_codes[[calendar$base + 1]],
    clock = unit_seconds[c("second", "minute", "hour", "day", "week")], day = c(day = 1, week = 7), month = unit_months,
    third = c(third = 1, unit_months * 3), "open day" = c("working day" = 1)
  )
  if (!length$unit %in% names(of)) {
    return(NULL)
  }
  count <- length$count * of[[length$unit]] / calendar$count
  if (count == floor(count)) count else NULL
}

read_distance <- function(x) parse_length(x) %||% parse_special_length(x)

# A number of periods, given as a number or a length of time; NULL where `x` is neither.
whole_periods <- function(x, calendar) {
  if (is.numeric(x) && length(x) == 1 && is.finite(x) && x == floor(x) && x >= 1 && x <= 1e6) {
    return(x)
  }
  length <- read_distance(x)
  if (is.null(length)) NULL else periods_in(length, calendar)
}

# How far back a base lies: list(back, words, one), where `back` turns the numbers of periods of a laid calendar into
# those of their bases and `one` says that it is the period before.
check_distance <- function(x, calendar, argument, call = caller_env()) {
  length <- read_distance(x)
  words <- if (is.null(length)) NULL else counted_length(length)
  count <- whole_periods(x, calendar)
  if (!is.null(count)) {
    return(list(back = function(number, laid) number - count, words = words %||% count_of_periods(count, calendar),
                one = count == 1))
  }
  back <- if (identical(length$unit, "year")) years_of_calendar(length$count, calendar)
  if (is.null(back)) {
    stop_periods(x, calendar, argument, "over", call)
  }
  list(back = back, words = words, one = FALSE)
}

# Of days, weeks and hours a year is no whole number: the same date is meant, the 52nd week before, and the same time by
# the local clock. NULL for other periods.
years_of_calendar <- function(years, calendar) {
  if (by_clock(calendar)) {
    return(function(number, laid) {
      local <- boundaries(number, laid)$local
      day <- floor(local / 86400)
      before <- years_back_cpp(day, years) * 86400 + local - day * 86400
      number_of_instants_cpp(clock_to_instant_cpp(before, integer(), laid$table$from, laid$table$offset)$instant, laid)
    })
  }
  switch(calendar$unit,
    day = if (calendar$number == 1) function(number, laid) years_back_cpp(number, years),
    week = if (calendar$number == 1) function(number, laid) number - 52 * years
  )
}

# The width of a window in periods: list(count, words).
check_window <- function(x, calendar, argument, call = caller_env()) {
  count <- whole_periods(x, calendar)
  if (is.null(count) || count < 2) {
    stop_periods(x, calendar, argument, "window", call)
  }
  list(count = as.integer(count), words = count_of_periods(count, calendar))
}

stop_periods <- function(x, calendar, argument, class, call) {
  abort_backfill(
    class,
    sprintf("`%s` is %s%s.", argument, value_in_words(x),
            if (is.character(x)) sprintf(", which is not a whole number of %s", period_noun(calendar, 2)) else ""),
    i = sprintf("It must be a number of periods%s%s.", if (class == "window") ", at least 2" else "",
                switch(base_codes[[calendar$base + 1]], "open day" = "",
                       clock = , day = ", or a length of time such as \"4 weeks\"",
                       ", or a length of time such as \"1 year\"")),
    call = call
  )
}

# "1 year", "3 months"
counted_length <- function(length) count_of(length$count, length$unit)
