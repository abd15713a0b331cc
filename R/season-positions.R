# Rows, of records or of periods, by where they lie in a cycle: what profiles
# and grids are made of.

# list(keys, line, when, value, role, calendar, counted): for each figure its
# line (the rows of `keys`: series columns and measure) and its time. Of periods
# those that are whole, of records all; of each measure those where it is not
# missing.
figures_in_time <- function(x, of, call = caller_env()) {
  if (is_periods(x)) {
    x <- check_periods(x, call)
    along <- along_series(x, of, call)
    rows <- first_rows(along)
    keys <- keys_at(x, along, rows$first)
    return(list(keys = keys, line = rows$line, row = along$order, of = of,
                when = x$period[along$order], value = along$value,
                year_start = facts(x)$calendar$year_start,
                counted = period_noun(facts(x)$calendar, 2)))
  }
  check_records(x, call)
  x <- last_versions(x)
  role <- facts(x)
  measures <- if (identical(of, "value")) names(role$measures) else of
  check_columns(measures, role$measures, "The table of measures", "of", call)
  counters <- measures[
    vapply(
      role$measures[measures], function(measure) measure$kind == "counter", NA
    )
  ]
  if (length(counters) > 0) {
    abort_backfill(
      "use",
      sprintf(
        "%s is a counter, whose readings have no profile.", counters[[1]]
      ),
      ">" = "Roll it up first: roll_up() gives what it rose by.", call = call
    )
  }
  series <- series_index(x, role$series)
  lines <- nrow(series$names)
  keys <- vctrs::vec_rep(tibble::as_tibble(series$names), length(measures))
  keys$measure <- rep(measures, each = lines)
  list(
    keys = keys,
    line = rep((seq_along(measures) - 1L) * lines, each = nrow(x)) + rep(
      series$index, length(measures)
    ),
    row = rep(seq_len(nrow(x)), length(measures)), of = of, when = rep(
      x[[role$when]], length(measures)
    ),
    value = as.double(unlist(as.list(x)[measures], use.names = FALSE)),
    year_start = 1L, counted = "records"
  )
}

# The position of each time as a factor. Each distinct time is looked at once.
position_factor <- function(when, position, year_start, call = caller_env()) {
  if (position == "hour" && inherits(when, "Date")) {
    abort_backfill(
      "argument", "The position is \"hour\", but the table has dates only.",
      call = call
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

# A statistic of a profile or a grid, of the cells that `cell` numbers:
# list(count, value, spread, lower, upper).
cell_statistic <- function(
  figures, cell, cells, stat, band = NULL, call = caller_env()
) {
  share <- quantile_share(stat)
  shares <- c(
    if (!is.na(share)) share, if (!is.null(band)) c(1 - band, 1 + band) / 2
  )
  found <- cells_cpp(cell, figures$value, cells, as.double(shares))
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

check_cell_statistic <- function(stat, measures, call = caller_env()) {
  if (!(rlang::is_string(stat) && !is.na(quantile_share(stat)))) {
    check_one_of(stat, c("mean", "median", "sum", "90%"), "stat", call)
  }
  kinds <- vapply(measures, function(measure) measure$kind, "")
  wrong <- names(kinds)[
    kinds == "ratio" & stat == "mean" | kinds %in% c(
      "level", "ratio", "return"
    ) & stat == "sum"
  ]
  if (length(wrong) > 0) {
    rlang::warn(sprintf(
      "%s is a %s: its %s %s.", wrong[[1]], kinds[[wrong[[1]]]], stat,
      if (stat == "sum") {
        "means nothing"
      } else {
        "weighs small and large parts alike"
      }
    ), class = c("backfill_warning_use", "backfill_warning"))
  }
}
