# How an index was made, down to the ratios and the averages below them.

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
    list(step(1L, part, sheet[[part]][[row]], glue(
      "{part} of value and {if (name == 'local_line') 'line' else 'average'}"
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
