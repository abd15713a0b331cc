# What the baseline of a flag was made of.

# list(rows, text) of the baseline of the i-th row; neither where the table does
# not have what it was made of.
baseline_working <- function(past, i, about) {
  if (about$stat == "smoothed" && about$against == "last periods") {
    return(smoothed_baseline(past, i, about))
  }
  if (about$against == "season") {
    return(seasonal_baseline(past, i, about))
  }
  rows <- match(prior_numbers(past, i, about), past$number)
  rows <- rows[!is.na(rows)]
  rows <- rows[!is.na(past$clean[rows])]
  value <- past$clean[rows]
  text <- if (length(rows) == 0) NA else if (about$stat == "median") {
    worked_text("quantile(x, 0.5)", x = value)
  } else {
    mean_text(value)
  }
  list(rows = rows, text = text)
}

# The numbers of the periods that the baseline of the i-th row is made of.
prior_numbers <- function(past, i, about) {
  number <- past$number[[i]]
  switch(
    about$against, "previous period" = number - 1,
    "a cycle before" = numbers_of_cycles(number, past, about),
    "last periods" = number - rev(seq_len(about$last)),
    "year to date" = moved(
      check_distance("1 year", past$calendar, "against"), number, past$calendar
    ), numeric()
  )
}

numbers_of_cycles <- function(number, past, about) {
  cycle <- about$cycle
  distance <- check_distance(
    if (is.null(cycle$words)) cycle$length else cycle$words, past$calendar,
    "cycle"
  )
  out <- numeric()
  for (k in seq_len(about$last)) {
    number <- moved(distance, number, past$calendar)
    out <- c(out, number)
  }
  out[!is.na(out)]
}

# The level moves on from the baseline of the period before.
smoothed_baseline <- function(past, i, about) {
  before <- match(past$number[[i]] - 1, past$number)
  if (is.na(before) || is.na(past$baseline[[before]])) {
    return(list(rows = integer(), text = NA))
  }
  level <- put_in(past$baseline[[before]])
  value <- past$clean[[before]]
  list(rows = before, text = if (is.na(value)) level else sprintf(
    "%s + %s * (%s - %s)", level, put_in(rule_of_flags(about)$alpha),
    put_in(value), level
  ))
}

# The mean of the last cycle without its season, put back in season. The index
# is made anew once a cycle, of what lies before.
seasonal_baseline <- function(past, i, about) {
  first <- past$number[[1]]
  cycle <- check_cycle(about$cycle$words, past$calendar)
  number <- seq(first, past$number[[i]])
  row <- match(number, past$number)
  value <- past$clean[row]
  position <- as.integer(cycle$position(number, past$calendar))
  index <- index_at(value, number, position, cycle$length, about)
  if (is.null(index)) {
    return(list(rows = integer(), text = NA))
  }
  t <- length(number)
  last <- t - rev(seq_len(cycle$length))
  last <- last[!is.na(value[last])]
  ratio <- about$form == "multiplicative"
  each <- paste(
    put_in(value[last]), if (ratio) "/" else "-",
    put_in(index$index[position[last]])
  )
  list(rows = row[last], text = sprintf(
    "(%s) / %d %s %s", plus_text(each), length(each), if (ratio) "*" else "+",
    put_in(index$index[[position[[t]]]])
  ))
}

# The index that was in use for the last of some figures: list(index), by
# position, or NULL where there is none.
index_at <- function(value, number, position, cycle, about) {
  made <- NULL
  made_at <- 0
  for (before in seq(2 * cycle, length.out = max(
    0, length(value) - 2 * cycle
  ))) {
    if (is.null(made) || before >= made_at + cycle) {
      past <- seq_len(before)
      found <- season_cpp(
        rep(1L, before), number[past], value[past], position - 1L,
        number[[1]], cycle, about$form == "multiplicative", FALSE, 0L, TRUE
      )
      fits <- season_facts(found$facts)$fault == 0
      made <- if (fits) list(index = as.vector(found$index))
      made_at <- before
    }
  }
  made
}
