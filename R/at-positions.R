# Profiles and grids of records elsewhere: positions in a cycle as whole numbers
# that the engine groups by.

#' @export
figures_in_time.backfill_records_at <- function(x, of) {
  measures <- measures_in_time(facts(x), of)
  outline <- source_outline(x, NULL)
  new_figures(
    keys_in_time(outline$names, measures), c("record", "records"), x = x,
    outline = outline, measures = measures, class = "backfill_figures_at"
  )
}

# list(levels, put): `put(steps, name, key)` gives the steps a column of codes;
# `key` is the number of the one that holds what a `column` of the table has.
#' @export
figure_side.backfill_figures_at <- function(figures, side, other = "") {
  x <- figures$x
  if (side == "hour" && figures$outline$dates) {
    abort_backfill(
      "argument", "The position is \"hour\", but the table has dates only."
    )
  }
  days <- days_over(figures$outline)
  engine <- facts(x)$at$engine
  put <- function(steps, name, key = NULL) {
    put_position(engine, steps, side, other, name, days)
  }
  if (!side %in% c("date", "year")) {
    return(list(levels = levels_of_position(side), put = put))
  }
  codes <- codes_in_use(figures, put)
  labels <- if (side == "date") day_label(.Date(codes)) else
    sprintf("%04d", codes)
  list(levels = labels, codes = codes, put = put)
}

codes_in_use <- function(figures, put) {
  x <- figures$x
  steps <- put(timed_at(x, figures$outline, apart = NULL), "side")
  found <- ask_grouped(facts(x)$at$engine, steps, "side", c(n = "COUNT(*)"))
  sort(as.numeric(found$side))
}

#' @export
levels_in_use.backfill_figures_at <- function(figures, side) {
  codes <- codes_in_use(figures, side$put)
  list(levels = side$levels[codes], codes = codes, put = side$put)
}

put_position <- function(engine, steps, side, other, name, days) {
  of_week <- side == "week" || side == "year" && other == "week"
  if (of_week) {
    # An ISO week belongs to the year of its Thursday.
    if (!"thursday" %in% attr(steps, "has")) {
      steps <- now_has(with_columns(
        steps, c(th = sprintf("d - %s + 3", weekday_sql("d")))
      ), "thursday")
    }
    steps <- civil_columns(engine, steps, "th", days, "th_")
  } else if (!side %in% c("hour", "weekday", "weekend", "date")) {
    steps <- civil_columns(engine, steps, "d", days)
  }
  code <- code_of_position(engine, side, if (of_week) "th_" else "")
  with_columns(steps, stats::setNames(code, name))
}

# The code of a position, from 1; of dates and years their own number.
code_of_position <- function(engine, side, prefix) {
  year <- sprintf("%syear", prefix)
  r <- sprintf("%sr", prefix)
  calendar_year <- sprintf("(%s + CASE WHEN %s >= 306 THEN 1 ELSE 0 END)", year,
                           r)
  month <- sprintf("((month + 12000000) %% 12)")
  switch(
    side, hour = sprintf("%s + 1", engine$div("s - d * 86400", "3600")),
    weekday = sprintf("%s + 1", weekday_sql("d")),
    weekend = sprintf("CASE WHEN %s >= 5 THEN 2 ELSE 1 END", weekday_sql("d")),
    "day of month" = "dom",
    "day of year" = "CASE WHEN r < 306 THEN r + 61 ELSE r - 305 END",
    week = sprintf(
      "%s + 1", engine$div(sprintf(
        "CASE WHEN %s >= 306 THEN %s - 306 ELSE %s + 59 + (%s) END", r, r, r,
        leap_sql(year)
      ), "7")
    ),
    month = sprintf("%s + 1", month),
    third = "CASE WHEN dom > 20 THEN 3 WHEN dom > 10 THEN 2 ELSE 1 END",
    quarter = sprintf("%s + 1", engine$div(month, "3")),
    date = "d", year = calendar_year
  )
}

#' @export
cell_statistic.backfill_figures_at <- function(
  figures, sides, stat, band = NULL
) {
  shares <- shares_of(stat, band)
  made <- lapply(figures$measures, function(measure) {
    cells_of_measure(figures, measure, sides, shares, !is.null(band))
  })
  part <- function(name) unlist(lapply(made, `[[`, name), use.names = FALSE)
  quantiles <- do.call(cbind, lapply(made, `[[`, "quantiles"))
  ends <- if (!is.null(band)) quantiles[length(shares) - 1:0, , drop = FALSE]
  list(
    count = part("count"), spread = part("spread"), lower = ends[1, ],
    upper = ends[2, ],
    value = switch(
      stat, mean = part("mean"), sum = part("sum"), quantiles[1, ]
    )
  )
}

# The cells of one measure, series by series.
cells_of_measure <- function(figures, measure, sides, shares, spread) {
  x <- figures$x
  engine <- facts(x)$at$engine
  names <- figures$outline$names
  sides <- Filter(function(side) !is.null(side$put), sides)
  codes <- sprintf("c%d", seq_along(sides))
  steps <- timed_at(x, figures$outline, figure_at(x, measure), c(
    there_as(x, names(names)), unlist(lapply(sides, `[[`, "column"))
  ))
  steps <- only_where(with_columns(steps, c(u = "v")), "u IS NOT NULL")
  for (i in seq_along(sides)) {
    steps <- sides[[i]]$put(steps, codes[[i]], length(names) + 1)
  }
  steps <- only_where(steps, sprintf("%s IS NOT NULL", codes))
  by <- c(key_names(names), codes)
  size <- nrow(names) * prod(lengths(lapply(sides, `[[`, "levels")))
  place <- function(found) place_in_sides(found, names, sides, codes)
  found <- ask_grouped(
    engine, steps, by, c(n = "COUNT(*)", total = "SUM(u)")
  )
  at <- place(found)
  out <- list(
    count = replace(integer(size), at, as.integer(found$n)),
    sum = replace(rep(NA_real_, size), at, found$total),
    spread = rep(NA_real_, size)
  )
  out$mean <- out$sum / out$count
  if (spread) {
    further <- engine$ordered$further(engine, steps, by)
    out$spread[place(further)] <- deviation_of(further)
  }
  out$quantiles <- t(vapply(shares, function(share) {
    near <- engine$ordered$around(engine, steps, by, share)
    interpolated(near, place(near), share, size)
  }, numeric(size)))
  out
}

# Where each row of a result goes, the last side fastest.
place_in_sides <- function(found, names, sides, codes) {
  at <- series_numbers(names, found) - 1
  for (i in seq_along(sides)) {
    code <- found[[codes[[i]]]]
    if (!is.null(sides[[i]]$codes)) code <- match(code, sides[[i]]$codes)
    at <- at * length(sides[[i]]$levels) + code - 1
  }
  at + 1
}

# Groups by a column there.
#' @export
group_column.backfill_records_at <- function(apart, x, figures) {
  if (!rlang::is_string(apart)) {
    abort_backfill(
      "argument",
      "`apart` must be a position or the name of a column, where the records",
      "are in a database."
    )
  }
  columns <- columns_at(x)
  check_columns(apart, stats::setNames(columns, columns), "The table", "apart")
  column <- there_as(x, apart)
  found <- ask_grouped(
    facts(x)$at$engine, timed_at(x, figures$outline, apart = column), "k1",
    c(n = "COUNT(*)")
  )$k1
  values <- sort(unique(found))
  list(
    name = if (apart %in% facts(x)$series) "group" else apart,
    levels = levels(factor(values, values)), codes = values, column = column,
    put = function(steps, name, key) {
      with_columns(steps, stats::setNames(sprintf("k%d", key), name))
    }
  )
}
