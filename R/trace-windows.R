# How the figures of moving windows were made.

trace_moving <- function(x, along, i, note, name) {
  made <- note$made
  rows <- which(along$series == along$series[[i]])
  if (!is.null(made$weights)) {
    return(trace_weighted(along, i, note))
  }
  width <- check_window(made$window, along$calendar, "window")
  if (is.null(width$count)) {
    from <- width$lower(along$number[[i]], along$calendar)
    rows <- rows_up_to(along, i, from)
    return(window_working(along, rows, made$stat, note$of))
  }
  ends <- along$number[[i]] + reach_of_window(width$count, made$align)
  within <- function(ends) {
    rows[along$number[rows] >= ends[[1]] & along$number[rows] <= ends[[2]]]
  }
  one <- window_working(along, within(ends), made$stat, note$of)
  if (made$align != "centred" || width$count %% 2 == 1) {
    return(one)
  }
  two <- window_working(along, within(ends + 1), made$stat, note$of)
  new_working(
    union(one$rows, two$rows), sprintf("(%s + %s) / 2", one$text, two$text),
    note$of, "an even window is centred by the mean of two"
  )
}

# The first and the last period of a window, from that of its row.
reach_of_window <- function(count, align) {
  before <- switch(
    align, trailing = count - 1, centred = count %/% 2, leading = 0
  )
  c(-before, count - 1 - before)
}

window_working <- function(along, rows, stat, of) {
  known <- rows[!is.na(along$value[rows])]
  value <- along$value[known]
  if (length(known) == 0) {
    return(new_working(rows, NA, of))
  }
  text <- statistic_text(value, stat)
  new_working(rows, text, of)
}

trace_weighted <- function(along, i, note) {
  weights <- note$made$weights / sum(note$made$weights)
  ends <- reach_of_window(length(weights), note$made$align)
  number <- along$number[[i]] + seq(ends[[1]], ends[[2]])
  own <- which(along$series == along$series[[i]])
  rows <- own[match(number, along$number[own])]
  if (anyNA(rows)) {
    return(new_working(rows[!is.na(rows)], NA, note$of))
  }
  terms <- paste(put_in(weights), "*", put_in(along$value[rows]))
  new_working(rows, plus_text(terms), note$of)
}
