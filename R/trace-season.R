# How an index, and figures with a season or without one, were made.

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
  when <- named_by(x$period[along$order], along$calendar)
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

# The figures of its age at each end are made again from the table.
#' @export
working_of.backfill_season_revisions <- function(x, one, column, table) {
  about <- facts(x)
  index <- suppressWarnings(seasonal_index(
    table, about$cycle$length, about$form, about$method, about$combine,
    of = about$of
  ), classes = "backfill_warning")
  along <- along_series(table, about$of)
  made <- revised_figures(along, index)
  line <- first_rows(along)$line[[places_of_line(one, along, table)[[1]]]]
  of <- lapply(revisions_of(made), function(figures) {
    figures[one$age + 1L, made$line == line]
  })
  place <- made$place[one$age + 1L, made$line == line]
  known <- !is.na(if (column %in% c("n", "revision")) of$revision else of$final)
  early <- of$early[known]
  final <- of$final[known]
  new_working(along$order[place[known]], switch(
    column, age = as.character(one$age),
    n = , changes = as.character(sum(known)),
    revision = worked_text("mean(x)", x = of$revision[known]),
    change_revision = worked_text("mean(abs(x - y))", x = early, y = final),
    usual_change = worked_text("mean(abs(x))", x = final),
    sign_held = worked_text("mean(sign(x) == sign(y))", x = early, y = final)
  ), about$of, sprintf(
    "%s compared with what they are now", count_of(sum(known), "earlier end")
  ))
}

trace_calendar_adjusted <- function(x, along, i, note, name) {
  made <- note$made
  own <- lines_of_effects(made, x, along)[[i]]
  value <- put_in(along$value[[i]])
  if (length(made$names) == 0 || is.na(own)) {
    return(new_working(i, if (is.na(own)) NA else value, note$of))
  }
  moved <- plus_text(paste(
    put_in(vapply(made$values, `[[`, 0, own)), "*",
    put_in(counts_along(made, along)[i, ])
  ))
  new_working(
    i, sprintf(
      if (made$form == "multiplicative") "%s / exp(%s)" else "%s - (%s)",
      value, moved
    ),
    note$of, "each effect times what the period has more of than usual"
  )
}

#' @export
working_of.backfill_calendar_effects <- function(x, one, column, table) {
  about <- facts(x)
  along <- along_series(table, about$of)
  own <- places_of_line(one, along, table)
  known <- own[!is.na(along$value[own])]
  new_working(
    along$order[known], if (column == "n") as.character(one$n) else NA,
    about$of, sprintf(
      "%s, by a regression beside a trend and a season that may move",
      if (column == "n") "periods that have all they are compared with" else
        column
    )
  )
}
