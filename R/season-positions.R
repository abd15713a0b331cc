# Rows, of records or of periods, by where they lie in a cycle: what profiles
# and grids are made of.

# What lies at positions: list(keys, year_start, counted), where `keys` has a
# row for each line, its series columns and its measure. Methods of
# figure_side() and cell_statistic() know the figures; here they are, for each
# its `line`, its time (`when`), its `value` and its `row` in the table. Of
# periods those that are whole, of records all; of each measure those where it
# is not missing.
figures_in_time <- function(x, of) {
  UseMethod("figures_in_time")
}

new_figures <- function(keys, counted, ..., year_start = 1L, class = NULL) {
  structure(
    list(keys = keys, counted = counted, year_start = year_start, ...),
    class = c(class, "backfill_figures")
  )
}

#' @export
figures_in_time.backfill_periods <- function(x, of) {
  x <- check_periods(x)
  along <- along_series(x, of)
  rows <- first_rows(along)
  new_figures(
    keys_at(x, along, rows$first),
    c(period_noun(facts(x)$calendar), period_noun(facts(x)$calendar, 2)),
    line = rows$line, row = along$order, when = x$period[along$order],
    named = named_by(x$period[along$order], facts(x)$calendar),
    value = along$value, year_start = facts(x)$calendar$year_start
  )
}

# The measures whose figures are asked for, none of them a counter.
measures_in_time <- function(role, of) {
  measures <- if (identical(of, "value")) names(role$measures) else of
  check_columns(measures, role$measures, "The table of measures", "of")
  counters <- measures[
    vapply(
      role$measures[measures], function(measure) measure$kind == "counter", NA
    )
  ]
  if (length(counters) > 0) {
    abort_backfill(
      "use", "{counters[[1]]} is a counter, whose readings have no profile.",
      ">" = "Roll it up first: roll_up() gives what it rose by."
    )
  }
  measures
}

keys_in_time <- function(names, measures) {
  keys <- vctrs::vec_rep(tibble::as_tibble(names), length(measures))
  keys$measure <- rep(measures, each = nrow(names))
  keys
}

#' @export
figures_in_time.default <- function(x, of) {
  check_records(x)
  x <- last_versions(x)
  role <- facts(x)
  measures <- measures_in_time(role, of)
  series <- series_index(x, role$series)
  lines <- nrow(series$names)
  new_figures(
    keys_in_time(series$names, measures), c("record", "records"),
    line = rep((seq_along(measures) - 1L) * lines, each = nrow(x)) + rep(
      series$index, length(measures)
    ),
    row = rep(seq_len(nrow(x)), length(measures)), when = rep(
      x[[role$when]], length(measures)
    ),
    value = as.double(unlist(as.list(x)[measures], use.names = FALSE))
  )
}

# A side of a profile or a grid: list(levels, code), where figures lie by the
# `code` of their level. `other` is what the other side is, if anything.
figure_side <- function(figures, side, other = "") {
  UseMethod("figure_side")
}

side_of_factor <- function(x) list(levels = levels(x), code = as.integer(x))

one_side <- function() list(levels = "", code = 1L)

#' @export
figure_side.backfill_figures <- function(figures, side, other = "") {
  at <- if (side == "date") figures$when else figures$named %||% figures$when
  if (!side %in% c("date", "year")) {
    return(side_of_factor(position_factor(at, side, figures$year_start)))
  }
  times <- distinct_times_cpp(at)
  when <- at[times$first]
  day <- if (inherits(when, "Date")) when else as.Date(when, tz = zone_of(when))
  if (side == "year" && other == "week") {
    day <- day - (as.POSIXlt(day)$wday + 6) %% 7 + 3
  }
  label <- if (side == "date") day_label(day) else substr(day_label(day), 1, 4)
  side_of_factor(factor(label, sort(unique(label)))[times$at])
}

# The sides' levels, whichever code a time has.
levels_of_position <- function(position) {
  levels(position_of(.POSIXct(0, tz = "UTC"), position, 1L))
}

# The position of each time as a factor. Each distinct time is looked at once.
position_factor <- function(when, position, year_start) {
  if (position == "hour" && inherits(when, "Date")) {
    abort_backfill(
      "argument", "The position is \"hour\", but the table has dates only."
    )
  }
  times <- distinct_times_cpp(when)
  each <- position_of(when[times$first], position, year_start)
  structure(unclass(each)[times$at], levels = levels(each), class = "factor")
}

position_of <- function(when, position, year_start) {
  dated <- function() as.POSIXlt(when, tz = zone_of(when))
  number <- function(of = position) cycle_position(when, of, year_start)
  numbered <- function(code, labels) factor(labels[code], labels)
  switch(position,
    hour = numbered(number() + 1, sprintf("%02d:00", 0:23)),
    weekday = number(),
    weekend = numbered(
      1 + dated()$wday %in% c(0, 6), c("Monday to Friday", "weekend")
    ),
    "day of month" = numbered(number(), as.character(1:31)),
    # Of 366: 29 February has a place of its own, so that later dates have the
    # same one in all years.
    "day of year" = numbered(
      dated()$yday + 1 + (dated()$yday >= 59 & !leap_year(dated()$year)),
      days_of_leap_year
    ),
    week = numbered(number(), sprintf("W%02d", 1:53)),
    month = numbered(number(), month.name),
    third = numbered(number(), paste("third", 1:3)),
    quarter = numbered(number(), paste0("Q", 1:4))
  )
}

leap_year <- function(years_from_1900) {
  year <- years_from_1900 + 1900
  year %% 4 == 0 & (year %% 100 != 0 | year %% 400 == 0)
}

days_of_leap_year <- append(day_names, "02-29", after = 59)

# A statistic of each cell of lines by sides, the last side fastest:
# list(count, value, spread, lower, upper).
cell_statistic <- function(figures, sides, stat, band = NULL) {
  UseMethod("cell_statistic")
}

shares_of <- function(stat, band) {
  share <- quantile_share(stat)
  c(if (!is.na(share)) share, if (!is.null(band)) c(1 - band, 1 + band) / 2)
}

# How many cells there are.
cells_of_sides <- function(figures, sides) {
  prod(nrow(figures$keys), vapply(sides, function(one) length(one$levels), 0L))
}

#' @export
cell_statistic.backfill_figures <- function(
  figures, sides, stat, band = NULL
) {
  cell <- figures$line - 1
  for (side in sides) {
    cell <- cell * length(side$levels) + side$code - 1
  }
  shares <- shares_of(stat, band)
  found <- cells_cpp(
    as.integer(cell + 1), figures$value, cells_of_sides(figures, sides),
    as.double(shares)
  )
  ends <- if (!is.null(band)) found$quantiles[
    length(shares) - 1:0, , drop = FALSE
  ]
  list(
    count = found$count, spread = found$spread, lower = ends[1, ],
    upper = ends[2, ],
    value = switch(
      stat, mean = found$mean, sum = found$total, found$quantiles[1, ]
    )
  )
}

# By default the mean; of records that are counted, each 1, how many there are.
check_cell_statistic <- function(stat, measures, of_periods) {
  counted <- !of_periods && all_counted(measures)
  stat <- stat %||% if (counted) "sum" else "mean"
  check_statistic(stat, "cell")
  for (name in names(measures)) {
    kind <- measures[[name]]$kind
    wrong <- wrong_of_kind(stat, kind)
    if (!is.null(wrong)) {
      warn_backfill("use", "{name} is a {kind}: its {stat} {wrong}.")
    }
  }
  stat
}
