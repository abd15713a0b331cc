# How figures that compare periods, series, groups or measures were made.

#' @export
working_of.backfill_group_differences <- function(x, one, column, table) {
  about <- facts(x)
  along <- along_series(table, about$of)
  own <- places_of_line(one, along, table)
  rows <- places_in_time(own, periods_of_group(one, about), along)
  all <- about
  all$by <- NULL
  others <- setdiff(
    places_in_time(own, periods_of_group(one, all), along), rows
  )
  of <- if (about$stat == "median") "quantile(%s, 0.5)" else "mean(%s)"
  value <- along$value
  text <- switch(
    column, difference = if (is.na(one$difference)) NA else season_text(
      one, of, about
    ) %||% worked_text(
      paste(sprintf(of, c("x", "y")), collapse = " - "), x = value[rows],
      y = value[others]
    ), n = , mean = , median = worked_text(
      described_texts[[column]], x = value[rows]
    ), NA
  )
  if (column %in% c("n", "mean", "median")) others <- NULL
  new_working(along$order[c(rows, others)], text, about$of, switch(
    column, n = "figures of the group", mean = , median = glue(
      "{column} of the {count_of(length(rows), 'figure')} of the group"
    ), difference = sprintf(
      "%s of %s of the group less that of the %s of others", about$stat,
      count_of(length(rows), "figure"), thousands(length(others))
    ), sprintf(
      "from %s random orders of whole blocks of the remainders",
      thousands(about$draws)
    )
  ))
}

# A difference beside a season, whose positions are estimated along with the
# groups; NULL where the series has none.
season_text <- function(one, of, about) {
  keys <- c(about$series, "measure")
  own <- which(vctrs::vec_in(
    plain_tibble(about$points)[keys], plain_tibble(one)[keys]
  ))
  position <- about$season$position[own]
  if (anyNA(position)) {
    return(NULL)
  }
  group <- as.character(about$points[[about$by]])[own]
  in_group <- group == as.character(one[[about$by]])
  worked_text(
    sprintf(
      paste(
        "{y <- y - stats::predict(stats::lm(y ~ factor(g) + factor(p)), type =",
        "\"terms\")[, 2]; %s - %s}"
      ),
      sprintf(of, "y[own == 1]"), sprintf(of, "y[own == 0]")
    ),
    y = about$points$value[own], p = position, g = match(group, group),
    own = as.integer(in_group)
  )
}

#' @export
working_of.backfill_latest <- function(x, one, column, table) {
  along <- along_counted(table, facts(x)$of)
  here <- places_in_time(places_of_line(one, along, table), one$period, along)
  year <- startsWith(column, "year")
  before <- if (year) year_before_rows(along) else movements(along)$first
  ends_working(
    column, here, c(before[here], NA)[[1]], along, facts(x)$of,
    if (year) "the same period a year before" else "the period before"
  )
}

# Of two figures the later one, the earlier one, or what lies between them.
ends_working <- function(column, here, before, along, of, what) {
  new <- put_in(along$value[here])
  old <- put_in(along$value[before])
  part <- sub("^year_", "", column)
  rows <- switch(
    part, value = , last = here, before = , first = before,
    age = here, c(here, before)
  )
  rows <- rows[!is.na(rows)]
  new_working(along$order[rows], switch(
    part, value = , last = new, before = , first = old,
    change = sprintf("%s - %s", new, old),
    percent = sprintf("100 * (%s - %s) / %s", new, old, old), NA
  ), of, switch(
    part, value = , last = "the figure there", before = , first = what,
    change = sprintf("the figure less that of %s", what),
    percent = sprintf("change from %s, in percent of it", what),
    age = "periods since then"
  ))
}

#' @export
working_of.backfill_ranking <- function(x, one, column, table) {
  about <- facts(x)
  along <- along_counted(table, about$of %||% "value")
  own <- places_of_line(one, along, table)
  if (about$ranked == "series") {
    here <- places_in_time(own, one$period, along)
    if (column == "share") {
      return(share_working(one, here, along, table))
    }
    return(ends_working(
      column, here, movements(along)$first[here], along, "value",
      "the period before"
    ))
  }
  here <- places_in_time(own, one$to, along)
  first <- places_in_time(own, one$from, along)
  if (about$order != "flattest" || !column %in% c("change", "percent")) {
    return(ends_working(
      column, here, first, along, about$of, "the period before"
    ))
  }
  rows <- own[own >= first & own <= here]
  rows <- rows[!is.na(along$value[rows])]
  reach <- worked_text(
    if (column == "percent") "100 * (max(x) - min(x)) / mean(x)" else
      "max(x) - min(x)", x = along$value[rows]
  )
  new_working(along$order[rows], reach, about$of, paste0(
    "highest less lowest figure of the stretch",
    if (column == "percent") ", in percent of their mean"
  ))
}

share_working <- function(one, here, along, table) {
  measure <- table$measure[along$order]
  rows <- which(
    along$number == along$number[[here]] & measure == one$measure &
      !is.na(along$value)
  )
  new_working(along$order[c(here, setdiff(rows, here))], sprintf(
    "%s / (%s)", put_in(along$value[[here]]), sum_text(along$value[rows])
  ), "value", "share of the total of all series")
}

#' @export
working_of.backfill_identity <- function(x, one, column, table) {
  about <- facts(x)
  used <- names(about$measures)
  along <- along_series(table, "value")
  keys <- c(about$series, "period")
  plain <- plain_tibble(table)[along$order, ]
  beside <- which(
    plain$measure %in% used &
      vctrs::vec_in(plain[keys], vctrs::vec_cast(one[keys], plain[keys]))
  )
  values <- stats::setNames(
    as.list(along$value[beside]), as.character(plain$measure[beside])
  )
  sides <- lapply(
    sides_of_identity(about$identity), side_with_figures, values,
    about$measures
  )
  allowed <- sprintf(
    "abs(%s - (%s)) <= %s + 1e-9 * max(abs(%s), abs(%s))", sides$left,
    sides$right, put_in(about$tolerance), sides$left, sides$right
  )
  text <- switch(
    column, left = sides$left, right = sides$right,
    difference = sprintf("%s - (%s)", sides$left, sides$right),
    percent = sprintf(
      "100 * (%s - (%s)) / (%s)", sides$left, sides$right, sides$right
    ), held = allowed, NA
  )
  if (anyNA(unlist(sides))) text <- NA
  new_working(along$order[beside], text, "value", sprintf(
    "%s of %s", column, about$identity
  ))
}

# One side of an identity as text, NA where a measure is not there. The table
# may come from a file: what is more than arithmetic is an error.
side_with_figures <- function(side, values, measures) {
  evaluated(side, values, measures)
  if (!all(all.vars(side) %in% names(values))) {
    return(NA_character_)
  }
  put <- lapply(values, function(value) str2lang(put_in(value)))
  side <- eval(call("substitute", side, put))
  paste(deparse(side, width.cutoff = 500L, control = "digits17"),
        collapse = " ")
}

#' @export
working_of.backfill_series_differences <- function(x, one, column, table) {
  about <- facts(x)
  figures <- figures_across(table, about$of)
  columns <- match(c(one$first, one$second), figures$lines)
  first <- figures$values[, columns[[1]]]
  second <- figures$values[, columns[[2]]]
  both <- which(!is.na(first) & !is.na(second))
  means <- c(
    difference = "mean(x - y)", percent = "100 * mean(x - y) / mean(y)"
  )
  text <- switch(
    column, n = as.character(length(both)),
    above = worked_text("sum(x > y)", x = first[both], y = second[both]),
    below = worked_text("sum(x < y)", x = first[both], y = second[both]),
    first_mean = worked_text("mean(x)", x = first[both]),
    second_mean = worked_text("mean(x)", x = second[both]),
    difference = , percent = if (!is.na(one[[column]])) worked_text(
      means[[column]], x = first[both], y = second[both]
    ), NA
  )
  new_working(
    rows_of_lines(figures$lines[columns], figures$start[both], table),
    text %||% NA, about$of, sprintf(
      "of %s that both have", count_of_periods(length(both), about$calendar)
    )
  )
}
