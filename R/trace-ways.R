# How the figure of one row of a calculated column was made: the rows that went
# into it and the arithmetic, with the figures put in.

# `rows` in the order of `along`; `column` holds what they gave; `text` is R
# arithmetic, NA where nothing can be worked out. `beside` says what else went
# into it.
new_working <- function(rows, text, column, beside = NULL, parts = NULL) {
  list(
    rows = rows, text = text, column = column, beside = beside, parts = parts
  )
}

# By the verb of a note. Each is called with the table, its series along time,
# the place of the row along it, the note and the name of its column.
trace_ways <- function() {
  list(
    growth = trace_growth, returns = trace_return, lagged = trace_lagged,
    "running total" = trace_running_total,
    "running statistic" = trace_running, rebased = trace_rebased,
    share = trace_share, "per day" = trace_per_day, moving = trace_moving,
    smoothed = trace_smoothed, deseasonalised = trace_seasonal,
    reseasonalised = trace_seasonal, remainder = trace_remainder,
    "calendar adjusted" = trace_calendar_adjusted, anomaly = trace_anomaly,
    "running anomaly" = trace_running_anomaly,
    bands = trace_band, interval = trace_interval
  )
}

trace_growth <- function(x, along, i, note, name) {
  made <- note$made
  distance <- check_distances(made$over, along)[[1]]
  sign <- if (made$ahead) 1 else -1
  base <- rows_off(along, distance, sign, made$max_age)[[i]]
  rows <- c(i, base[!is.na(base)])
  if (length(rows) < 2) {
    return(new_working(rows, NA, note$of))
  }
  ends <- along$value[if (made$ahead) rev(rows) else rows]
  new <- put_in(ends[[1]])
  old <- put_in(ends[[2]])
  years <- put_in(abs(years_between(
    along$number[base], along$number[i], along$calendar
  )))
  new_working(rows, switch(
    made$as, percent = sprintf("100 * (%s - %s) / %s", new, old, old),
    ratio = sprintf("%s / %s", new, old), points = ,
    difference = sprintf("%s - %s", new, old),
    log = sprintf("log(%s / %s)", new, old),
    annualised = sprintf("100 * ((%s / %s)^(1 / %s) - 1)", new, old, years)
  ), note$of)
}

# The rows of the same series up to this one.
rows_up_to <- function(along, i, from = NULL) {
  rows <- which(along$series == along$series[[i]])
  rows <- rows[rows <= i]
  if (is.null(from)) rows else rows[along$number[rows] >= from]
}

trace_return <- function(x, along, i, note, name) {
  rows <- rows_up_to(along, i)
  known <- rows[!is.na(along$value[rows])]
  before <- known[known < i]
  own <- put_in(along$value[[i]])
  positive <- known[along$value[known] > 0]
  if (length(positive) == 0) {
    return(new_working(i, NA, note$of))
  }
  other <- switch(
    note$type, growth_of_1 = positive[[1]],
    drawdown = positive[which.max(along$value[positive])],
    before[length(before)]
  )
  if (length(other) == 0) {
    return(new_working(i, NA, note$of))
  }
  base <- put_in(along$value[[other]])
  new_working(unique(c(i, other)), switch(
    note$type, return = sprintf("(%s - %s) / %s", own, base, base),
    log_return = sprintf("log(%s / %s)", own, base),
    growth_of_1 = sprintf("%s / %s", own, base),
    drawdown = sprintf("%s / %s - 1", own, base)
  ), note$of)
}

trace_lagged <- function(x, along, i, note, name) {
  distance <- check_distances(note$made$size, along)[[1]]
  row <- rows_off(along, distance, if (note$made$ahead) 1 else -1)[[i]]
  row <- row[!is.na(row)]
  new_working(
    row, if (length(row) > 0) put_in(along$value[[row]]) else NA, note$of
  )
}

rows_since <- function(x, along, i, reset) {
  if (identical(reset, "never")) {
    return(rows_up_to(along, i))
  }
  starts <- starts_of_stretches(along, as_calendar(reset, of = x))
  rows_up_to(along, i, starts[[i]])
}

trace_running_total <- function(x, along, i, note, name) {
  rows <- rows_since(x, along, i, note$made$reset)
  new_working(rows, sum_text(along$value[rows]), note$of)
}

trace_running <- function(x, along, i, note, name) {
  rows <- rows_since(x, along, i, note$made$reset)
  rows <- rows[!is.na(along$value[rows])]
  value <- along$value[rows]
  new_working(rows, switch(
    note$made$stat, highest = worked_text("max(x)", x = value),
    lowest = worked_text("min(x)", x = value), mean = mean_text(value)
  ), note$of)
}

trace_rebased <- function(x, along, i, note, name) {
  base <- which(
    along$series == along$series[[i]] & along$number == note$made$at
  )
  new_working(unique(c(i, base)), sprintf(
    "%s * (%s / %s)", put_in(note$made$start_value),
    put_in(along$value[[i]]), put_in(along$value[base])
  ), note$of)
}

trace_share <- function(x, along, i, note, name) {
  keys <- vctrs::vec_slice(
    plain_tibble(x)[c(note$made$within, "measure", "period")], along$order
  )
  rows <- which(vctrs::vec_in(keys, vctrs::vec_slice(keys, i)))
  new_working(c(i, setdiff(rows, i)), sprintf(
    "%s / (%s)", put_in(along$value[[i]]), sum_text(along$value[rows])
  ), note$of)
}

trace_per_day <- function(x, along, i, note, name) {
  workdays <- note$made$workdays
  days <- days_of_periods(
    along$number[[i]], along$calendar, days_counted(workdays, along$calendar),
    !isFALSE(workdays)
  )
  new_working(
    i, sprintf("%s / %d", put_in(along$value[[i]]), days), note$of,
    count_of(days, if (isFALSE(workdays)) "day" else "working day")
  )
}

trace_smoothed <- function(x, along, i, note, name) {
  alpha <- note$made$alpha
  own <- put_in(along$value[[i]])
  known <- rows_up_to(along, i)
  before <- known[known < i & !is.na(along$value[known])]
  if (length(before) == 0) {
    return(new_working(i, own, note$of))
  }
  last <- before[[length(before)]]
  level <- put_in(x[[name]][along$order[[last]]])
  text <- sprintf(
    "%s + %s * (%s - %s)", level, put_in(alpha), own, level
  )
  new_working(c(i, last), text, c(note$of, name))
}

trace_band <- function(x, along, i, note, name) {
  breaks <- note$breaks[[as.character(x$measure[along$order[[i]]])]]
  left_open <- if (note$closed == "right") "left.open = TRUE"
  text <- sprintf(
    "findInterval(%s) + 1", paste(c(
      put_in(along$value[[i]]),
      sprintf("c(%s)", paste(put_in(breaks), collapse = ", ")), left_open
    ), collapse = ", ")
  )
  new_working(i, text, note$of, "the number of the band, from the lowest")
}
