# Distances along the calendar: how many periods a number or a length of time is.

# Whole periods in a length of time, or NULL where it is not a whole number of them.
periods_in <- function(length, every) {
  of <- if (every %in% names(unit_months)) unit_months else c(day = 1, week = 7)
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

# How far back a base lies: list(back, words, one), where `back` turns the numbers of periods into those of their bases
# and `one` says that it is the period before.
check_distance <- function(x, every, argument, call = caller_env()) {
  length <- parse_length(x)
  words <- if (is.null(length)) NULL else counted_length(length)
  count <- whole_periods(x, every)
  if (!is.null(count)) {
    return(list(back = function(number) number - count, words = words %||% count_of(count, every), one = count == 1))
  }
  if (is.null(length) || length$unit != "year") {
    stop_periods(x, every, argument, "over", call)
  }
  # Of days and weeks a year is no whole number.
  back <- switch(every,
    day = function(number) years_back_cpp(number, length$count),
    week = function(number) number - 52 * length$count
  )
  list(back = back, words = words, one = FALSE)
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
    sprintf("`%s` is %s%s.", argument, value_in_words(x),
            if (is.character(x)) sprintf(", which is not a whole number of %ss", every) else ""),
    i = sprintf("It must be a number of periods%s, or a length of time such as %s.",
                if (class == "window") ", at least 2" else "",
                if (every %in% c("day", "week")) "\"4 weeks\"" else "\"1 year\""),
    call = call
  )
}

# "1 year", "3 months"
counted_length <- function(length) count_of(length$count, length$unit)
