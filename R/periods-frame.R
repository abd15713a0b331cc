# What records are rolled up over: their series, cadences and the periods they reach.

# What the records are rolled up over, see roll_cells().
frame_of_records <- function(x, calendar, by, cadence, enough, call = caller_env()) {
  ends <- check_records(x, call)
  if (nrow(x) == 0) {
    abort_backfill("input", "The records table has no rows.", call = call)
  }
  role <- roles(x)
  by <- check_by(by, names(x), role$series, call)
  when <- x[[role$when]]
  series <- series_index(x, union(role$series, by))
  frame <- list(when = when, series = series$index, names = series$names, parts = one_part(when, series$index),
                scale = unit_of_times(when), ends = c(ends$lowest, ends$highest),
                sources = role$account$sources$source)
  new_frame(frame, calendar, role$zone, by, cadence, enough, call)
}

frame_of_chunked <- function(x, calendar, by, cadence, enough, call = caller_env()) {
  role <- roles(x)
  by <- check_by(by, role$series, role$series, call)
  found <- collected(x)
  frame <- list(names = found$names, parts = chunk_parts(found), scale = if (found$dates) 86400 else 1,
                ends = found$ends / if (found$dates) 86400 else 1, sources = found$account$sources$source)
  new_frame(frame, calendar, role$zone, by, cadence, enough, call)
}

# Surveys the records in `parts` and lays the table out.
new_frame <- function(frame, calendar, zone, by, cadence, enough, call) {
  dates <- frame$scale == 86400
  if (by_clock(calendar) && dates) {
    abort_backfill("every", sprintf("The records have dates only, which cannot be rolled up by the %s.",
                                    period_noun(calendar)), call = call)
  }
  if (dates) {
    calendar$zone <- "UTC" # a date is the same in every zone
  }
  seconds <- frame$ends * frame$scale
  calendar <- lay_calendar(calendar, zone, seconds[[1]], seconds[[2]])
  survey <- survey_times(frame$parts, frame$scale, nrow(frame$names), calendar$table)
  cadences <- if (is.null(cadence)) find_cadences(survey, calendar$table) else parse_cadence(cadence, survey, call)
  check_finer(cadences, calendar, frame$names, call)
  columns <- table_columns(survey$all$lowest, survey$all$highest, calendar)
  check_size(columns, nrow(frame$names), call)
  number <- columns$first + seq_len(columns$count) - 1
  reach <- reached_share(number, calendar, survey, cadences)
  c(frame, list(
    calendar = calendar, columns = columns, cadences = cadences, surveys = survey$each,
    irregular = is_irregular(cadences), groups = group_series(frame$names, by),
    expected = as_cells(expected_slots(number, calendar, cadences), cadences), reach = reach, reached = reach == 1,
    enough = enough %||% 1, known_cadences = list(names = frame$names, cadences = cadences)
  ))
}

# The columns of the table, from the period of the first to that of the last record. Where the local clock is put back
# within longer periods, the last instant need not lie in the last period.
table_columns <- function(lowest, highest, calendar) {
  changes <- calendar$table$from[calendar$table$from > lowest & calendar$table$from <= highest]
  number <- number_of_instants_cpp(c(lowest, highest, changes, changes - 1e-6), calendar)
  days <- floor(instant_to_local(c(lowest, highest, changes, changes - 1e-6), calendar$table) / 86400)
  list(first = min(number), count = diff(range(number)) + 1, first_day = min(days), last_day = max(days))
}

# For each period the share of it that the records reach over, which is 1 within the table.
reached_share <- function(number, calendar, survey, cadences) {
  reach <- rep(1, length(number))
  last <- length(number)
  bounds <- boundaries(c(number[[1]], number[[1]] + 1, number[[last]], number[[last]] + 1), calendar)
  ends <- c(survey$all$lowest, survey$all$highest)
  day <- floor(instant_to_local(ends, calendar$table) / 86400)
  regular <- vctrs::vec_unique(cadences[cadences$steps > 0L, ])
  if (nrow(regular) > 0 && all(regular$steps == 3L)) {
    # A month's record stands for all of it.
    months <- lay_calendar(calendar("month"))
    month <- number_of_days_cpp(day, months) + c(0, min(regular$length))
    day <- period_start_cpp(month, months) - c(0, 1)
  }
  # Days count as a whole; so do slots of a cadence.
  from <- if (by_clock(calendar)) ends[[1]] else midnight(day[[1]], calendar$table)
  to <- if (by_clock(calendar)) ends[[2]] + 1e-3 else midnight(day[[2]] + 1, calendar$table)
  length <- bounds$instant[c(2, 4)] - bounds$instant[c(1, 3)]
  if (lacks_slots(bounds$instant[[1]], from, calendar, regular)) {
    reach[[1]] <- (bounds$instant[[2]] - from) / length[[1]]
  }
  if (lacks_slots(to, bounds$instant[[4]], calendar, regular)) {
    reach[[last]] <- reach[[last]] - (bounds$instant[[4]] - to) / length[[2]]
  }
  reach
}

# Whether something was expected between two instants, by each of the cadences that are regular; without one, whether
# there is any time between them.
lacks_slots <- function(from, to, calendar, regular) {
  if (from >= to || nrow(regular) == 0) {
    return(from < to)
  }
  local <- instant_to_local(c(from, to), calendar$table)
  open <- diff(open_before_cpp(c(floor(local[[1]] / 86400), ceiling(local[[2]] / 86400)), calendar))
  open > 0 && min(expected_slots_cpp(local, c(from, to), regular)) > 0
}

check_by <- function(by, columns, series, call) {
  if (is.null(by)) {
    return(series)
  }
  if (!is.character(by) || anyNA(by) || length(setdiff(by, columns)) > 0) {
    abort_backfill("column", sprintf("`by` is %s.", if (is.character(by)) in_words(quoted(by)) else value_in_words(by)),
                   i = sprintf("It must name columns that tell series apart: %s.",
                               if (length(series) > 0) in_words(quoted(series)) else "there are none, leave it out"),
                   call = call)
  }
  unique(by)
}

# A period must be as long as the cadence at least.
check_finer <- function(cadences, calendar, names, call = caller_env()) {
  coarse <- cadence_seconds(cadences) > period_seconds(calendar)
  if (any(coarse)) {
    coarsest <- cadences$words[[which.max(cadence_seconds(cadences))]]
    abort_backfill(
      "every",
      sprintf("The records are one per %s, which cannot be rolled up to a shorter period (%s).",
              describe_cadences(cadences[coarse, ], vctrs::vec_slice(names, coarse), named = !all(coarse)),
              sub("^period of ", "", period_noun(calendar))),
      ">" = sprintf("Choose a period of %s or longer%s, or say `cadence` where that is not their cadence.",
                    if (grepl("^[0-9]", coarsest)) coarsest else with_article(coarsest),
                    if (all(coarse)) "" else ", leave these series out"),
      call = call
    )
  }
}

# One mistyped year can stretch the table over centuries; better to say so than to run out of memory.
check_size <- function(columns, series_count, call = caller_env()) {
  rows <- columns$count * series_count
  if (rows > most_rows) {
    abort_backfill(
      "input",
      sprintf("The table would have %s: %s from %s to %s.", count_of(rows, "row"),
              count_of(series_count, "series", "series"), day_label(.Date(columns$first_day)),
              day_label(.Date(columns$last_day))),
      ">" = "See whether one of these dates is wrong, or choose longer periods.",
      call = call
    )
  }
}

most_rows <- 1e8
