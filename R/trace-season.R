# How figures with a season, or without one, were made.

trace_seasonal <- function(x, along, i, note, name) {
  ratio <- note$made$form == "multiplicative"
  sign <- if (note$verb == "deseasonalised") {
    if (ratio) "/" else "-"
  } else {
    if (ratio) "*" else "+"
  }
  index <- index_along(note$made, x, along)[[i]]
  new_working(
    i, paste(put_in(along$value[[i]]), sign, put_in(index)), note$of,
    sprintf("an index of %.4g", index)
  )
}

# The line is fitted through the whole series, as it was when it was added.
trace_remainder <- function(x, along, i, note, name) {
  ratio <- note$made$form == "multiplicative"
  rows <- which(along$series == along$series[[i]])
  index <- index_along(note$made, x, along)[rows]
  level <- if (ratio) along$value[rows] / index else along$value[rows] - index
  line <- trend_cpp(rep(1L, length(rows)), along$number[rows], level)
  steps <- along$number[[i]] - along$number[[rows[[1]]]]
  own <- index[match(i, rows)]
  trend <- sprintf(
    "(%s + %s * %d)", put_in(line[1, 1]), put_in(line[2, 1]),
    as.integer(steps)
  )
  value <- put_in(along$value[[i]])
  new_working(
    i, if (ratio) {
      sprintf("%s / %s / %s - 1", value, put_in(own), trend)
    } else {
      sprintf("%s - %s - %s", value, put_in(own), trend)
    }, note$of, sprintf(
      "an index of %.4g, and the line through all %s of the series", own,
      count_of(sum(!is.na(level)), "figure")
    )
  )
}

trace_anomaly <- function(x, along, i, note, name) {
  made <- note$made
  when <- x$period[along$order]
  position <- position_factor(when, made$position, along$calendar$year_start)
  counted <- in_reference(along, made$reference) & !is.na(along$value) &
    along$series == along$series[[i]]
  places <- nlevels(position)
  half <- made$smooth %/% 2
  near <- (as.integer(position[[i]]) - 1 + seq(-half, half)) %% places + 1
  each <- lapply(near, function(one) {
    which(counted & as.integer(position) == one)
  })
  each <- each[lengths(each) > 0]
  rows <- unlist(each)
  own <- put_in(along$value[[i]])
  if (length(rows) == 0) {
    return(new_working(i, NA, note$of))
  }
  around <- function(text_of) {
    texts <- vapply(each, function(at) text_of(along$value[at]), "")
    if (length(texts) == 1) {
      texts
    } else {
      sprintf("(%s) / %d", plus_text(texts), length(texts))
    }
  }
  text <- sprintf("%s - %s", own, around(mean_text))
  if (made$standardised) {
    spread <- around(function(value) worked_text("sd(x)", x = value))
    text <- sprintf("(%s) / (%s)", text, spread)
  }
  new_working(c(i, setdiff(rows, i)), text, note$of)
}

trace_running_anomaly <- function(x, along, i, note, name) {
  rows <- rows_up_to(along, i)
  rows <- rows[!is.na(along$value[rows])]
  new_working(rows, sum_text(along$value[rows]), note$of)
}
