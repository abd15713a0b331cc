# How figures by position were made: of an index, a profile, a grid, bands,
# turning points, seasons of a year, and wide tables.

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
  body <- switch(
    column, index = switch(
      about$combine, mean = , "mean without outliers" = "mean(x)",
      median = "quantile(x, 0.5)",
      "trimmed mean" = if (length(parts) < 3) "mean(x)" else
        "mean(sort(x)[2:(length(x) - 1)])"
    ), n = "length(x)", sd = "sd(x)", lowest = "min(x)", highest = "max(x)"
  )
  text <- worked_text(body, x = parts)
  of <- count_of(length(parts), part)
  if (column == "index" && about$normalised) {
    factor <- about$normalisers
    factor <- factor$normaliser[vctrs::vec_match(one[keys], factor[keys])]
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

# Outliers have an average, but no part, and are bridged in those around them.
places_left_out <- function(sheet, part, own, along) {
  average <- sheet[[average_of_sheet(sheet)]]
  out <- is.na(sheet[[part]]) & !is.na(average) & !is.na(sheet$value)
  places_in_time(own, sheet$period[out], along)
}

average_of_sheet <- function(sheet) {
  intersect(c("centred_average", "overall_average"), names(sheet))
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
  around <- if (name == "centred_average") {
    centred_working(here, own, along, cycle)
  } else {
    overall_working(own, along, cycle)
  }
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

#' @export
working_of.backfill_profile <- function(x, one, column, table) {
  about <- facts(x)
  figures <- figures_in_time(table, about$of)
  at <- figure_side(figures, about$at)
  sides <- list(list(at, one$position))
  if (!is.null(about$apart)) {
    sides[[2]] <- list(
      side_apart(about, table, figures), one[[about$apart]]
    )
  }
  cell_working(figures, sides, one, column, about, table)
}

# What keeps profiles apart: a position or a column; a vector is not kept.
side_apart <- function(about, table, figures) {
  if (is.null(about$apart_by)) {
    abort_backfill(
      "trace", "The groups that keep the profile apart are not kept with it.",
      ">" = "Make them a column of the table first."
    )
  }
  groups_apart(about$apart_by, table, figures)
}

#' @export
working_of.backfill_grid <- function(x, one, column, table) {
  about <- facts(x)
  figures <- figures_in_time(table, about$of)
  cell_working(figures, list(
    list(figure_side(figures, about$rows, about$columns), one$row),
    list(figure_side(figures, about$columns, about$rows), one$column)
  ), one, column, about, table)
}

# The figures that lie at levels of sides, and what they come to.
cell_working <- function(figures, sides, one, column, about, table) {
  keys <- figures$keys
  line <- vctrs::vec_match(vctrs::vec_cast(one[names(keys)], keys), keys)
  inside <- figures$line == line & !is.na(figures$value)
  for (side in sides) {
    level <- match(as.character(side[[2]]), side[[1]]$levels)
    inside <- inside & side[[1]]$code %in% level
  }
  value <- figures$value[inside]
  share <- c(lower = (1 - (about$holds %||% 0)) / 2,
             upper = (1 + (about$holds %||% 0)) / 2)
  text <- switch(
    column, n = worked_text("length(x)", x = value),
    sd = worked_text("sd(x)", x = value), lower = , upper = worked_text(
      sprintf("quantile(x, %s)", put_in(share[[column]])), x = value
    ),
    value = if (length(value) > 0) statistic_text(value, about$stat) else NA
  )
  new_working(figures$row[inside], text, about$of, sprintf(
    "%s of %s %s", switch(
      column, value = about$stat, n = "number", sd = "standard deviation",
      sprintf("%s%% quantile", plain_format(100 * share[[column]]))
    ), thousands(length(value)), about$counted[[2]]
  ))
}

#' @export
working_of.backfill_turns <- function(x, one, column, table) {
  about <- facts(x)
  if (!"period" %in% names(one)) {
    abort_backfill(
      "trace", "Turning points of a profile are figures of that profile.",
      ">" = "Trace those of the profile."
    )
  }
  along <- along_series(table, about$of)
  here <- places_in_time(places_of_line(one, along, table), one$period, along)
  new_working(
    along$order[here],
    if (column == "value") put_in(along$value[here]) else NA, about$of,
    sprintf("a %s within %s on either side", one$turn, about$span)
  )
}

#' @export
working_of.backfill_season_spells <- function(x, one, column, table) {
  about <- facts(x)
  along <- along_series(table, about$of)
  own <- places_of_line(one, along, table)
  ends <- period_number(c(one$onset, one$end), along$calendar)
  places <- known_of(own[
    along$number[own] >= ends[[1]] & along$number[own] <= ends[[2]]
  ], along)
  value <- along$value[places]
  text <- if (column %in% c("total", "mean")) worked_text(
    if (column == "total") "sum(x)" else "mean(x)", x = value
  )
  new_working(along$order[places], text %||% NA, about$of, switch(
    column, total = , mean = sprintf(
      "%s of the %s from onset to end", column,
      count_of(length(value), "figure")
    ), periods = "periods from onset to end",
    rise = "rise of the running anomaly from onset to end",
    late = "periods after the onset of the average year",
    "as the running anomaly of the average year has it"
  ))
}

#' @export
working_of.backfill_band_counts <- function(x, one, column, table) {
  along <- along_series(table, "value")
  own <- along$order[places_of_line(one, along, table)]
  band <- band_column(x, table)
  inside <- own[table[[band]][own] %in% one$band]
  sorted <- sum(!is.na(table[[band]][own]))
  new_working(inside, switch(
    column, periods = as.character(length(inside)),
    share = sprintf("%d / %d", length(inside), sorted)
  ), band, sprintf("%s in the band \"%s\"", column, one$band))
}

# The column whose bands were counted: it has the levels of the result.
band_column <- function(x, table) {
  fits <- vapply(plain_tibble(table), function(one) {
    is.factor(one) && identical(levels(one), levels(x$band))
  }, NA)
  if (!any(fits)) {
    stop_other_table()
  }
  names(table)[fits][[1]]
}

#' @export
working_of.backfill_wide <- function(x, one, column, table) {
  about <- facts(x)
  along <- along_series(table, about$of)
  start <- period_label(
    period_start(along$number, along$calendar), along$calendar
  )
  line <- column_along(line_names(table), along)
  here <- if (about$side == "series") {
    which(line == column & start == period_label(one$period, along$calendar))
  } else {
    own <- places_of_line(one, along, table)
    own[start[own] == column]
  }
  text <- if (length(here) == 1) put_in(as.double(
    table[[about$of]][along$order[here]]
  )) else NA
  new_working(along$order[here], text, about$of, sprintf(
    "%s there", about$of
  ))
}
