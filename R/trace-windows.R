# How the figures of moving windows were made.

trace_moving <- function(x, along, i, note, name) {
  made <- note$made
  if (!is.null(made$weights)) {
    return(trace_weighted(along, i, note))
  }
  width <- check_window(
    made$window, along$calendar, "window", closed = !is.null(along$opened)
  )
  if (is.null(width$count)) {
    from <- width$lower(along$number[[i]], along$calendar)
    rows <- rows_up_to(along, i, from)
    return(window_working(
      along, rows, made$stat, note$of, periods_from(along, i, from)
    ))
  }
  own <- own_numbers(along, i)
  ends <- own[[i]] + reach_of_window(width, made$align)
  within <- function(ends) which(own >= ends[[1]] & own <= ends[[2]])
  of <- function(rows) {
    window_working(along, rows, made$stat, note$of, width$count)
  }
  one <- of(within(ends))
  if (made$align != "centred" || width$count %% 2 == 1) {
    return(one)
  }
  two <- of(within(ends + 1))
  new_working(
    union(one$rows, two$rows), sprintf("(%s + %s) / 2", one$text, two$text),
    note$of, "an even window is centred by the mean of two"
  )
}

# The first and the last period of a window, from that of its row.
reach_of_window <- function(width, align) {
  reach <- reach_of_width(width, align)
  c(-reach$before, reach$after)
}

# The numbers of the rows of the i-th row's series by which they are counted; NA
# of all others.
own_numbers <- function(along, i) {
  number <- along$opened %||% along$number
  ifelse(along$series == along$series[[i]], number, NA)
}

# How many periods that are counted there are from one to that of the i-th row.
periods_from <- function(along, i, from) {
  if (is.null(along$opened)) {
    return(along$number[[i]] - from + 1)
  }
  start <- along$number
  start[[i]] <- from
  along$opened[[i]] - along$count_before(start)[[i]]
}

# A sum of fewer figures than the window has periods is enlarged to all.
window_working <- function(along, rows, stat, of, width) {
  known <- rows[!is.na(along$value[rows])]
  value <- along$value[known]
  if (length(known) == 0) {
    return(new_working(rows, NA, of))
  }
  text <- statistic_text(value, stat)
  if (stat == "sum" && length(known) < width) {
    text <- sprintf("(%s) / %d * %d", text, length(known), as.integer(width))
  }
  new_working(rows, text, of)
}

trace_weighted <- function(along, i, note) {
  weights <- note$made$weights / sum(note$made$weights)
  ends <- reach_of_window(list(count = length(weights)), note$made$align)
  own <- own_numbers(along, i)
  rows <- match(own[[i]] + seq(ends[[1]], ends[[2]]), own)
  if (anyNA(rows)) {
    return(new_working(rows[!is.na(rows)], NA, note$of))
  }
  terms <- paste(put_in(weights), "*", put_in(along$value[rows]))
  new_working(rows, plus_text(terms), note$of)
}
