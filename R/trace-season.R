# How figures with a season, or without one, were made.

# The index at the row, or NA.
index_at <- function(x, along, i, made) {
  cycle <- check_cycle(made$cycle, facts(x)$calendar)
  position <- cycle$labels[cycle$position(along$number[[i]], along$calendar)]
  lines <- setdiff(names(made$index), c("position", "index"))
  rows <- which(made$index$position == position)
  if (vctrs::vec_unique_count(made$index[lines]) > 1) {
    own <- keys_at(x, along, i)[lines]
    rows <- rows[vctrs::vec_in(made$index[rows, lines], own)]
  }
  c(made$index$index[rows], NA)[[1]]
}

trace_seasonal <- function(x, along, i, note, name) {
  ratio <- note$made$form == "multiplicative"
  sign <- if (note$verb == "deseasonalised") {
    if (ratio) "/" else "-"
  } else {
    if (ratio) "*" else "+"
  }
  index <- put_in(index_at(x, along, i, note$made))
  new_working(
    i, paste(put_in(along$value[[i]]), sign, index), note$of,
    sprintf("an index of %.4g", as.numeric(index_at(x, along, i, note$made)))
  )
}

# The line is fitted through the whole series, as it was when it was added.
trace_remainder <- function(x, along, i, note, name) {
  ratio <- note$made$form == "multiplicative"
  rows <- which(along$series == along$series[[i]])
  index <- vapply(rows, index_at, 0, x = x, along = along, made = note$made)
  level <- if (ratio) along$value[rows] / index else along$value[rows] - index
  line <- trend_cpp(rep(1L, length(rows)), along$number[rows], level)
  steps <- along$number[[i]] - along$number[[rows[[1]]]]
  own <- put_in(index[match(i, rows)])
  trend <- sprintf(
    "(%s + %s * %d)", put_in(line[1, 1]), put_in(line[2, 1]),
    as.integer(steps)
  )
  value <- put_in(along$value[[i]])
  new_working(
    i, if (ratio) {
      sprintf("%s / %s / %s - 1", value, own, trend)
    } else {
      sprintf("%s - %s - %s", value, own, trend)
    }, note$of, sprintf(
      "an index of %.4g, and the line through all %s of the series",
      index[match(i, rows)],
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
      sprintf("(%s) / %d", paste(texts, collapse = " + "), length(texts))
    }
  }
  text <- sprintf("%s - %s", own, around(mean_text))
  if (made$standardised) {
    spread <- around(function(value) of_values("sd", value))
    text <- sprintf("(%s) / (%s)", text, spread)
  }
  new_working(c(i, setdiff(rows, i)), text, note$of)
}

trace_running_anomaly <- function(x, along, i, note, name) {
  rows <- rows_up_to(along, i)
  rows <- rows[!is.na(along$value[rows])]
  new_working(rows, sum_text(along$value[rows]), note$of)
}
