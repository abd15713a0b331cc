# How figures by position were made: of a profile, a grid, bands, turning
# points, seasons of a year, and wide tables.

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
    column, total = , mean = glue(
      "{column} of the {count_of(length(value), 'figure')} from onset to end"
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
