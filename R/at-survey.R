# What the times of records elsewhere have in common: their survey, as
# survey_times() makes it of those in memory.

#' @export
source_survey.backfill_records_at <- function(x, outline, table, steps) {
  census <- outline$census
  outline$clock <- table
  each <- vctrs::data_frame(
    records = census$rows,
    lowest = instants_at(x, census$lowest, outline$zone),
    highest = instants_at(x, census$highest, outline$zone), in_order = TRUE,
    whole_seconds = TRUE
  )
  each <- with_local_ends(each, table)
  each <- with_months(x, outline, each)
  if (steps) each <- with_steps(x, outline, each)
  list(
    each = each, all = all_together(each),
    filled = function(cadences, surveys) {
      outline[c("surveys", "cadences")] <- list(surveys, cadences)
      filled_at(x, outline)
    }
  )
}

# With the ends by the clock, as survey_cpp() gives them.
with_local_ends <- function(each, table) {
  each$anchor <- instant_to_local(each$lowest, table)
  each$first_day <- floor(each$anchor / 86400)
  each$last_day <- floor(instant_to_local(each$highest, table) / 86400)
  months <- calendar_of_dates("month")
  each$first_month <- number_of_days_cpp(each$first_day, months)
  each$last_month <- number_of_days_cpp(each$last_day, months)
  each
}

# Whether all records of a series may be starts or ends of months: the first and
# the last are. Most tables need no further look.
may_all_be_months <- function(each, table) {
  midnight <- each$anchor == each$first_day * 86400 &
    instant_to_local(each$highest, table) == each$last_day * 86400
  months <- calendar_of_dates("month")
  starts <- function(day, month) day == period_start_cpp(month, months)
  first <- starts(each$first_day, each$first_month) &
    starts(each$last_day, each$last_month)
  last <- starts(each$first_day + 1, each$first_month + 1) &
    starts(each$last_day + 1, each$last_month + 1)
  midnight & (first | last)
}

# With whether all are starts or ends of `months`, and how many lie between
# them.
with_months <- function(x, outline, each) {
  each$months <- 0
  each$month_starts <- each$month_ends <- FALSE
  if (!any(may_all_be_months(each, outline$clock))) {
    return(each)
  }
  engine <- facts(x)$at$engine
  keys <- key_names(outline$names)
  rows <- timed_at(x, outline)
  found <- match_series(outline, ask_grouped(engine, rows, keys, c(
    early = "MIN(s - d * 86400)", late = "MAX(s - d * 86400 + e - own)"
  )))
  midnights <- found$early == 0 & found$late == 0
  if (!any(midnights)) {
    return(each)
  }
  days <- days_over(outline)
  first <- civil_columns(engine, rows, "d", days)
  next_day <- civil_columns(
    engine, with_columns(rows, c(d1 = "d + 1")), "d1", days
  )
  starts <- match_series(outline, ask_grouped(engine, first, keys, c(
    late = "MAX(dom)"
  )))
  ends <- match_series(outline, ask_grouped(engine, next_day, keys, c(
    late = "MAX(dom)"
  )))
  each$month_starts <- midnights & starts$late == 1
  each$month_ends <- midnights & ends$late == 1
  monthly <- each$month_starts | each$month_ends
  if (any(monthly)) {
    span <- ifelse(monthly, each$last_month - each$first_month, 0)
    each$months <- common_step(x, outline, first, "month", span)
  }
  each
}

# Of all records together, what cadences are not found from but reach is.
all_together <- function(each) {
  vctrs::data_frame(
    records = sum(each$records), lowest = min(each$lowest),
    highest = max(each$highest), month_starts = all(each$month_starts),
    month_ends = all(each$month_ends), first_day = min(each$first_day),
    last_day = max(each$last_day), first_month = min(each$first_month),
    last_month = max(each$last_month),
    months = Reduce(gcd, c(
      each$months, abs(each$first_month - each$first_month[[1]])
    ))
  )
}

# Rows with whole numbers that are those of their series, each a vector with one
# for each series.
with_parameters <- function(x, outline, rows, parameters) {
  alike <- vapply(parameters, function(one) length(unique(one)) == 1, NA)
  same <- lapply(parameters[alike], `[[`, 1)
  if (any(alike)) {
    rows <- with_columns(rows, vapply(same, as_digits, ""))
  }
  if (all(alike)) {
    return(rows)
  }
  engine <- facts(x)$at$engine
  texts <- texts_of_keys(engine, key_names(outline$names))
  engine$look_up(
    with_columns(rows, texts), lapply(outline$census$texts, engine$text),
    lapply(parameters[!alike], as_digits)
  )
}

# What a query gave of groups by the order of the series; NA for those without.
match_series <- function(outline, found) {
  vctrs::vec_slice(found, match(
    seq_len(nrow(outline$names)), series_numbers(outline$names, found)
  ))
}

# The number of the series of each row of a query's result.
series_numbers <- function(names, found) {
  if (length(names) == 0) {
    return(rep(1L, nrow(found)))
  }
  keys <- names_as_text(
    stats::setNames(found[key_names(names)], names(names)), names(names)
  )
  vctrs::vec_match(vctrs::new_data_frame(as.list(keys)), names)
}

# How many slots of its cadence each series fills, by weekday where the slots
# are days.
filled_at <- function(x, outline) {
  engine <- facts(x)$at$engine
  rows <- with_slots(x, outline, timed_at(x, outline))
  keys <- key_names(outline$names)
  slots <- only_where(rows, "slot IS NOT NULL")
  slots <- if (one_in_a_slot(x, outline)) {
    with_columns(slots, c(day = "w"))
  } else {
    grouped(slots, c(keys, "slot"), c(day = "MIN(w)"))
  }
  found <- ask_grouped(engine, slots, c(keys, "day"), c(n = "COUNT(*)"))
  out <- matrix(0, nrow(outline$names), 7)
  out[cbind(series_numbers(outline$names, found), found$day + 1)] <- found$n
  out
}

# Rows with the `slot` of the cadence of their series that each fills, NULL
# where there is none, and `w`, the weekday of slots that are days, else 0.
with_slots <- function(x, frame, rows) {
  if ("slots" %in% attr(rows, "has")) {
    return(rows)
  }
  engine <- facts(x)$at$engine
  cadences <- frame$cadences
  if (any(cadences$steps == 3L)) {
    rows <- civil_columns(engine, rows, "d", days_over(frame))
  }
  whole <- function(a) ifelse(is.finite(a), floor(a), 0)
  rows <- with_parameters(x, frame, rows, list(
    steps = cadences$steps, len = pmax(whole(cadences$length), 1),
    anchor = whole(cadences$anchor), shift = whole(cadences$offset),
    mask = cadences$weekdays
  ))
  lift <- "100000000000"
  slot <- function(clock) {
    sprintf("%s - %s", engine$div(
      sprintf("%s - anchor + %s * len", clock, lift), "len"
    ), lift)
  }
  day <- sprintf(
    "CASE WHEN steps = 1 THEN %s ELSE d END",
    floor_div_sql(engine, "t + shift", 86400)
  )
  rows <- with_columns(rows, c(w7 = weekday_sql(sprintf("(%s)", day))))
  bit <- engine$div("mask", piecewise_sql("w7", c(-Inf, 1:6), 2^(0:6)))
  rows <- with_columns(rows, c(
    slot = sprintf(
      "CASE WHEN steps = 1 THEN %s WHEN steps = 2 THEN %s %s END", slot("t"),
      slot("s"),
      if (any(cadences$steps == 3L)) {
        paste("WHEN steps = 3 THEN", slot("month"))
      } else {
        ""
      }
    ),
    w = "CASE WHEN steps IN (1, 2) AND len = 86400 THEN w7 ELSE 0 END",
    fits = sprintf("%s %% 2", bit)
  ))
  now_has(rows, "slots")
}

#' @export
with_values.backfill_records_at <- function(x, outline, names, most = 0) {
  lacking <- if (length(names) == 1) {
    outline$census$lacking[[names]]
  } else {
    outline$census$bare
  }
  if (!any(lacking > most)) {
    return(NULL)
  }
  attr(x, "backfill")$at$valued <- sprintf("NOT (%s)", bare_at(x, names))
  left <- ask_grouped(
    facts(x)$at$engine, timed_at(x, outline), NULL, c(n = "COUNT(*)")
  )$n
  if (left > 0) x
}

# The rule of a row that has none of the measures.
bare_at <- function(x, names = plain_names(x)) {
  lacks <- vapply(
    column_at(x, names), facts(x)$at$engine$lacks, ""
  )
  paste(sprintf("(%s)", lacks), collapse = " AND ")
}
