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

#' @export
working_of.backfill_seasonal_index <- function(x, one, column, table) {
  about <- facts(x)
  sheet <- about$worksheet
  if (is.null(sheet)) {
    abort_backfill(
      "trace", "The index does not keep the ratios that it was made of.",
      ">" = "Keep it with write_periods(), or compute it again."
    )
  }
  ratio <- about$form == "multiplicative"
  part <- if (ratio) "ratio" else "difference"
  keys <- c(about$series, "measure")
  sheet <- sheet[vctrs::vec_in(
    sheet[keys], vctrs::vec_cast(one[keys], sheet[keys])
  ), ]
  at <- which(
    as.character(sheet$position) == as.character(one$position) &
      !is.na(sheet[[part]])
  )
  parts <- sheet[[part]][at]
  known <- seq_len(max(which(!is.na(sheet$value))))
  last <- max(known[as.character(sheet$position[known]) == one$position])
  text <- if (column == "index" && about$combine == "moving mean") {
    moving_mean_text(sheet, at, last, parts, one, about)
  } else {
    worked_text(switch(
      column, index = switch(
        about$combine, mean = , "mean without outliers" = "mean(x)",
        median = "quantile(x, 0.5)",
        "trimmed mean" = if (length(parts) < 3) "mean(x)" else
          "mean(sort(x)[2:(length(x) - 1)])"
      ), n = "length(x)", sd = "sd(x)", lowest = "min(x)", highest = "max(x)"
    ), x = parts)
  }
  of <- count_of(length(parts), part)
  if (column == "index" && about$normalised) {
    factor <- sheet$normaliser[[last]]
    text <- paste(text, if (ratio) "*" else "+", put_in(factor))
    of <- sprintf(
      "%s, %s so that the indices average %d", of,
      if (ratio) "scaled" else "moved", if (ratio) 1L else 0L
    )
  }
  along <- along_series(table, about$of)
  own <- places_of_line(one, along, table)
  along$value[places_left_out(sheet, part, own, along)] <- NA
  new_working(
    NULL, text, about$of, sprintf(
      "%s of %s", if (column == "index") about$combine else column, of
    ), unlist(lapply(at, function(row) {
      part_of_season(sheet, row, part, own, along, table, about)
    }), recursive = FALSE)
  )
}

# The latest index of a position, of one that moves: what a part weighs fades
# with the cycles between.
moving_mean_text <- function(sheet, at, last, parts, one, about) {
  keys <- c(about$series, "measure")
  kept <- about$tests$kept[vctrs::vec_match(one[keys], about$tests[keys])]
  calendar <- lay_calendar_over(about$calendar, sheet$period)
  number <- period_number(sheet$period, calendar)
  away <- (number[[last]] - number[at]) / about$cycle$length
  worked_text("sum(w * x) / sum(w)", x = parts, w = kept^abs(away))
}

# Outliers have an average, but no part, and are bridged in those around them.
places_left_out <- function(sheet, part, own, along) {
  average <- sheet[[average_of_sheet(sheet)]]
  out <- is.na(sheet[[part]]) & !is.na(average) & !is.na(sheet$value)
  places_in_time(own, sheet$period[out], along)
}

# A ratio or difference of a worksheet, with its value and its average below it.
part_of_season <- function(sheet, row, part, own, along, table, about) {
  here <- places_in_time(own, sheet$period[[row]], along)
  # Where the table is another one, nothing of it fits.
  if (length(here) == 0) {
    stop_other_table()
  }
  name <- average_of_sheet(sheet)
  average <- sheet[[name]][[row]]
  at <- along$order[[here]]
  step <- function(depth, column, figure, formula, worked) {
    made <- list(
      row = at, column = column, depth = depth, figure = figure,
      formula = formula, worked = worked
    )
    check_worked(made)
    made
  }
  cycle <- check_cycle(about$cycle$words, along$calendar)
  around <- switch(
    name, centred_average = centred_working(here, own, along, cycle),
    overall_average = overall_working(own, along, cycle),
    local_line = list(
      text = NA_character_, places = integer(),
      formula = "line through the figures around, without their season"
    )
  )
  c(
    list(step(1L, part, sheet[[part]][[row]], sprintf(
      "%s of value and average", part
    ), paste(
      put_in(along$value[[here]]), if (part == "ratio") "/" else "-",
      put_in(average)
    ))),
    traced(table, at, about$of, 2L),
    list(step(2L, name, average, around$formula, around$text)),
    lapply(around$places, function(place) {
      traced(table, along$order[[place]], about$of, 3L, leaf = TRUE)[[1]]
    })
  )
}

stop_other_table <- function() {
  abort_backfill(
    "trace", "`made_of` does not have the periods of the result.",
    ">" = "Give the table that the result was made of."
  )
}

# The average over a cycle around a place. A missing figure is bridged by the
# nearest ones at its position.
centred_working <- function(here, own, along, cycle) {
  half <- cycle$length %/% 2
  number <- along$number[[here]] + seq(-half, half)
  places <- own[match(number, along$number[own])]
  value <- along$value[places]
  position <- cycle$position(along$number[own], along$calendar)
  of_window <- cycle$position(number, along$calendar)
  for (i in which(is.na(value))) {
    alike <- own[position == of_window[[i]] & !is.na(along$value[own])]
    before <- along$number[alike] < number[[i]]
    near <- c(rev(alike[before])[1], alike[!before][1])
    near <- near[!is.na(near)]
    value[[i]] <- mean(along$value[near])
    places <- c(places, near)
  }
  bridged <- length(places) > length(number)
  list(
    text = if (cycle$length %% 2 == 1) worked_text("mean(x)", x = value) else
      worked_text(sprintf(
        "(sum(x) - (x[1] + x[%d]) / 2) / %d", length(value), cycle$length
      ), x = value),
    formula = paste0(
      sprintf("average over %s around it", cycle$words),
      if (bridged) ", missing figures bridged by those of their position"
    ),
    places = unique(places[!is.na(places)])
  )
}

overall_working <- function(own, along, cycle) {
  known <- known_of(own, along)
  list(
    text = worked_text(
      "mean(tapply(x, p, mean))", x = along$value[known],
      p = as.numeric(cycle$position(along$number[known], along$calendar))
    ),
    formula = "average of the averages at each position", places = known
  )
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
