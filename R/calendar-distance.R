# Distances along the calendar: how many periods a number or a length of time is.

# Whole periods in a length of time, or NULL where it is not a whole number of them.
periods_in <- function(length, every) {
  months <- c(month = 1, quarter = 3, year = 12)
  days <- c(day = 1, week = 7)
  of <- if (every %in% names(months)) months else days
  if (!length$unit %in% names(of)) {
    return(NULL)
  }
  count <- length$count * of[[length$unit]] / of[[every]]
  if (count == floor(count)) count else NULL
}

# A number of periods, given as a number or a length of time; NULL where `x` is neither.
whole_periods <- function(x, every) {
  if (is.numeric(x) && length(x) == 1 && is.finite(x) && x == floor(x) && x >= 1 && x <= 1e6) {
    return(x)
  }
  length <- parse_length(x)
  if (is.null(length)) NULL else periods_in(length, every)
}

# How far back a base lies: list(back, words), where `back` turns the numbers of periods into those of their bases.
check_distance <- function(x, every, argument, call = caller_env()) {
  length <- parse_length(x)
  count <- whole_periods(x, every)
  if (!is.null(count)) {
    words <- if (is.null(length)) count_of(count, "period") else counted_length(length)
    return(list(back = function(number) number - count, words = if (count == 1) "1 period" else words))
  }
  if (!is.null(length) && length$unit == "year") {
    back <- switch(every,
      day = function(number) years_back_cpp(number, length$count),
      week = function(number) number - 52 * length$count
    )
    return(list(back = back, words = counted_length(length)))
  }
  stop_periods(x, every, argument, "over", call)
}

# The width of a window in periods: list(count, words).
check_window <- function(x, every, argument, call = caller_env()) {
  count <- whole_periods(x, every)
  if (is.null(count) || count < 2) {
    stop_periods(x, every, argument, "window", call)
  }
  list(count = as.integer(count), words = count_of(count, every))
}

stop_periods <- function(x, every, argument, class, call) {
  abort_backfill(
    class,
    sprintf("`%s` is %s, which is not a whole number of %ss.", argument, value_in_words(x), every),
    i = sprintf("It must be a number of periods%s, or a length of time such as %s.",
                if (class == "window") ", at least 2" else "",
                if (every %in% c("day", "week")) "\"4 weeks\"" else "\"1 year\""),
    call = call
  )
}

# "1 year", "3 months"
counted_length <- function(length) count_of(length$count, length$unit)
