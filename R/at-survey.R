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

# With `step` and `passed`, the greatest common divisors of the distances by
# the clock and in seconds that pass, as the kernel's survey.
with_steps <- function(x, outline, each) {
  rows <- timed_at(x, outline)
  clock <- outline$clock
  each$passed <- common_step(
    x, outline, rows, "t", floor(each$highest - each$lowest)
  )
  each$step <- if (length(clock$offset) == 1) {
    each$passed
  } else {
    local <- instant_to_local(each$highest, clock)
    common_step(x, outline, rows, "s", floor(local - each$anchor))
  }
  if (!facts(x)$at$moments$whole) {
    each$whole_seconds <- whole_seconds_at(x, outline, rows, each)
  }
  each
}

# Whether all distances are whole seconds, of the series where it matters.
whole_seconds_at <- function(x, outline, rows, each) {
  span <- each$highest - each$lowest
  if (!any(may_bear_out(each$passed, span, each$records) |
             may_bear_out(each$step, span, each$records))) {
    return(FALSE)
  }
  found <- match_series(outline, ask_grouped(
    facts(x)$at$engine, rows, key_names(outline$names),
    c(least = "MIN(e - own)", most = "MAX(e - own)")
  ))
  found$least == found$most
}

# Whether so many records may fill half of the slots of a step, or of a finer
# one: see borne_out(). Where days may be the slots, few can.
may_bear_out <- function(step, span, records) {
  step %% 86400 == 0 | records >= span / pmax(step, 1) / 2
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

# Of each series the greatest common divisor of the distances of `column`. A
# multiple of it is divided by what is left over until nothing is; the span is
# the first. 0 where the span is. Some of the rows divide it for little,
# whichever they are.
common_step <- function(x, outline, rows, column, span) {
  step <- span
  for (part in c(some_rows(outline, rows), list(rows))) {
    step <- divided_step(x, outline, part, column, step, span)
  }
  step
}

# Of many records some that an engine has at hand, and the earliest, about two
# hundred of the series with the fewest.
some_rows <- function(outline, rows) {
  count <- outline$census$rows
  if (sum(count) < 1e5) {
    return(NULL)
  }
  ends <- outline$ends * if (outline$dates) 86400 else 1
  until <- ceiling(ends[[1]] + 200 / min(count) * diff(ends))
  list(
    selected(rows, "SELECT * FROM @ AS q LIMIT 10000"),
    if (200 / min(count) < 0.05) {
      only_where(rows, sprintf("t <= %s", as_digits(until)))
    }
  )
}

# Where so few records have no cadence by what is left, nor by less, a multiple
# it stays. `rows` may be NULL.
divided_step <- function(x, outline, rows, column, step, span) {
  engine <- facts(x)$at$engine
  repeat {
    wanted <- column == "month" |
      may_bear_out(step, span, outline$census$rows)
    open <- step > 1 & wanted
    if (!any(open) || is.null(rows)) {
      return(step)
    }
    part <- with_parameters(x, outline, rows, list(step = ifelse(
      open, step, 0
    )))
    left <- sprintf(
      "(%s + %s) %% %s", column, as_digits(1e11), engine$whole("step")
    )
    # Residues lie on one side of where they wrap or on the other; both are
    # distances.
    found <- match_series(outline, ask_grouped(
      engine, with_columns(only_where(part, "step > 0"), c(rest = left)),
      key_names(outline$names), c(low = "MIN(rest)", high = "MAX(rest)")
    ))
    rest <- ifelse(open & !is.na(found$low), found$high - found$low, 0)
    before <- step
    step[open] <- gcd(step[open], rest[open])
    if (identical(step, before)) {
      return(step)
    }
  }
}

gcd <- function(a, b) {
  while (any(b > 0)) {
    rest <- ifelse(b > 0, a %% pmax(b, 1), 0)
    a <- ifelse(b > 0, b, a)
    b <- rest
  }
  a
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
  keys <- stats::setNames(found[key_names(names)], names(names))
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
