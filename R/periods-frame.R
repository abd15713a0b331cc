# What records are rolled up over: their series, cadences and the periods they
# reach.

# What the records are rolled up over, see roll_cells(); `measures` is how many
# the table will have.
frame_of_records <- function(
  x, calendar, by, cadence, enough, measures, call = caller_env()
) {
  ends <- check_records(x, call)
  if (nrow(x) == 0) {
    abort_backfill("input", "The records table has no rows.", call = call)
  }
  role <- facts(x)
  by <- check_by(by, names(x), role$series, call)
  when <- x[[role$when]]
  series <- series_index(x, union(role$series, by))
  frame <- list(
    when = when, series = series$index, names = series$names,
    parts = one_part(when, series$index), scale = unit_of_times(when),
    ends = c(ends$lowest, ends$highest),
    sources = c(role$account$sources$source, role$beside, calendar$source)
  )
  new_frame(frame, calendar, role$zone, by, cadence, enough, measures, call)
}

frame_of_chunked <- function(
  x, calendar, by, cadence, enough, measures, call = caller_env()
) {
  role <- facts(x)
  by <- check_by(by, role$series, role$series, call)
  found <- collected(x)
  frame <- list(
    names = found$names, parts = chunk_parts(found),
    scale = if (found$dates) {
      86400
    } else {
      1
    },
    ends = found$ends / if (found$dates) 86400 else 1,
    sources = c(found$account$sources$source, calendar$source)
  )
  new_frame(frame, calendar, role$zone, by, cadence, enough, measures, call)
}

# Surveys the records in `parts` and lays the table out.
new_frame <- function(
  frame, calendar, zone, by, cadence, enough, measures, call
) {
  dates <- frame$scale == 86400
  if (by_clock(calendar) && dates) {
    abort_backfill(
      "every",
      sprintf(
        "The records have dates only, which cannot be rolled up by the %s.",
        period_noun(calendar)
      ),
      call = call
    )
  }
  if (dates) {
    calendar$zone <- "UTC" # a date is the same in every zone
  }
  seconds <- frame$ends * frame$scale
  check_span(frame, calendar, measures, call)
  calendar <- lay_calendar(calendar, zone, seconds[[1]], seconds[[2]])
  survey <- survey_times(
    frame$parts, frame$scale, nrow(frame$names), calendar$table
  )
  cadences <- if (is.null(cadence)) {
    find_cadences(survey, calendar$table)
  } else {
    parse_cadence(cadence, survey, call)
  }
  check_finer(cadences, calendar, frame$names, call)
  columns <- table_columns(survey$all$lowest, survey$all$highest, calendar)
  check_size(columns, nrow(frame$names), measures, call)
  number <- columns$first + seq_len(columns$count) - 1
  reach <- reached_share(number, calendar, survey, cadences)
  irregular <- is_irregular(vctrs::vec_unique(cadences))
  c(frame, list(
    calendar = calendar, columns = columns, cadences = cadences,
    surveys = survey$each,
    irregular = is_irregular(cadences), groups = group_series(frame$names, by),
    expected = as_cells(expected_slots(number, calendar, cadences), cadences),
    # Where the coverage is known it says how much of an end is there.
    reach = if (any(irregular)) {
      reach$share[, which(irregular)[[1]]]
    } else {
      reach$share[, 1]
    },
    reached = as_cells(reach$share == 1, cadences), span = reach$span,
    enough = enough %||% 1, known_cadences = list(
      names = frame$names, cadences = cadences
    )
  ))
}

# Before anything is laid out that takes memory for each period: a mistyped date
# may lie thousands of years off.
check_span <- function(frame, calendar, measures, call) {
  rows <- diff(frame$ends) * frame$scale / period_seconds(calendar) *
    nrow(frame$names) * measures
  if (rows < 1e6) {
    return()
  }
  alone <- if (!is.null(frame$when)) lonely_end(frame$when)
  if (!is.null(alone) || rows > 10 * most_rows) {
    ends <- day_label(.Date(floor(
      (alone$others %||% frame$ends) * frame$scale / 86400
    )))
    abort_backfill(
      "input",
      sprintf(
        "The table would have about %s%s from %s to %s.",
        count_of(signif(rows, 2), "row"),
        if (is.null(alone)) "," else sprintf(
          ", as row %s of the records is dated %s; the others are",
          thousands(alone$row), moments_in_words(frame$when[alone$row])
        ),
        ends[[1]], ends[[2]]
      ),
      ">" = wrong_date_hint, call = call
    )
  }
}

# The first or the last time, where without it the records would span less than
# a tenth: list(row, others).
lonely_end <- function(when) {
  number <- as.numeric(when)
  ends <- range(number)
  for (end in ends) {
    others <- number[number != end]
    if (length(others) > 10 && diff(range(others)) * 10 < diff(ends)) {
      return(list(row = match(end, number), others = range(others)))
    }
  }
  NULL
}

# The columns of the table, from the period of the first to that of the last
# record. Where the local clock is put back within longer periods, the last
# instant need not lie in the last period.
table_columns <- function(lowest, highest, calendar) {
  changes <- calendar$table$from[
    calendar$table$from > lowest & calendar$table$from <= highest
  ]
  number <- number_of_instants_cpp(
    c(lowest, highest, changes, changes - 1e-6), calendar
  )
  days <- floor(
    instant_to_local(
      c(lowest, highest, changes, changes - 1e-6), calendar$table
    ) / 86400
  )
  list(
    first = min(number), count = diff(range(number)) + 1, first_day = min(days),
    last_day = max(days)
  )
}

# For each period (a row) and distinct cadence (a column) the share of it that
# the records reach over, which is 1 within the table; `from` and `to` say for
# each cadence from where to where the records reach. Where something comes by a
# cadence, its slots alone matter; where it comes irregularly, all time does.
reached_share <- function(number, calendar, survey, cadences) {
  distinct <- vctrs::vec_unique(cadences)
  bounds <- boundaries(c(number, number[length(number)] + 1), calendar)
  ends <- lapply(
    seq_len(nrow(distinct)),
    function(i) ends_reached(survey, calendar, distinct[i, ])
  )
  share <- vapply(seq_along(ends), function(i) {
    share_within(bounds, ends[[i]], calendar, distinct[i, ])
  }, numeric(length(number)))
  list(
    share = matrix(share, length(number)),
    span = ends_reached(survey, calendar, new_cadences("none", words = ""))
  )
}

# From where to where the records reach. Days count as a whole; so do slots of a
# cadence.
ends_reached <- function(survey, calendar, cadence) {
  ends <- c(survey$all$lowest, survey$all$highest)
  day <- floor(instant_to_local(ends, calendar$table) / 86400)
  monthly <- (survey$all$month_starts || survey$all$month_ends) &&
    survey$all$months > 0
  if (cadence$steps == 3L || is_irregular(cadence) && monthly) {
    # A month's record stands for all of it.
    months <- lay_calendar(calendar("month"))
    length <- if (is_irregular(cadence)) survey$all$months else cadence$length
    month <- number_of_days_cpp(day, months) + c(0, length)
    day <- period_start_cpp(month, months) - c(0, 1)
  }
  c(
    if (by_clock(calendar)) ends[[1]] else midnight(day[[1]], calendar$table),
    if (by_clock(calendar)) {
      ends[[2]] + 1e-3
    } else {
      midnight(day[[2]] + 1, calendar$table)
    }
  )
}

# The share of each period that lies between two instants, which is 1 where
# nothing was expected outside of them.
share_within <- function(bounds, ends, calendar, cadence) {
  start <- bounds$instant[-length(bounds$instant)]
  end <- bounds$instant[-1]
  share <- pmax(pmin(end, ends[[2]]) - pmax(start, ends[[1]]), 0) /
    (end - start)
  short <- which(share < 1)
  whole <- vapply(short, function(i) {
    !lacks_slots(start[[i]], min(ends[[1]], end[[i]]), calendar, cadence) &&
      !lacks_slots(max(ends[[2]], start[[i]]), end[[i]], calendar, cadence)
  }, NA)
  share[short[whole]] <- 1
  share
}

# Whether something was expected between two instants, by a cadence that is
# regular; without one, whether there is an open day between them.
lacks_slots <- function(from, to, calendar, cadence) {
  if (from >= to) {
    return(FALSE)
  }
  local <- instant_to_local(c(from, to), calendar$table)
  open <- diff(open_before_cpp(
    c(floor(local[[1]] / 86400), ceiling(local[[2]] / 86400)), calendar
  ))
  open > 0 && (
    is_irregular(cadence) || expected_slots_cpp(local, c(from, to), cadence) > 0
  )
}

check_by <- function(by, columns, series, call) {
  if (is.null(by)) {
    return(series)
  }
  # A series that was renamed is known by its former name too.
  former <- !by %in% columns & renamed_series(by) %in% columns
  by[former] <- renamed_series(by[former])
  if (!is.character(by) || anyNA(by) || length(setdiff(by, columns)) > 0) {
    abort_backfill(
      "column",
      sprintf("`by` is %s.", if (is.character(by)) {
        in_words(quoted(by))
      } else {
        value_in_words(by)
      }),
      i = sprintf(
        "It must name columns that tell series apart: %s.",
        if (length(series) > 0) {
          in_words(quoted(series))
        } else {
          "there are none, leave it out"
        }
      ),
      call = call
    )
  }
  taken <- setdiff(intersect(by, result_columns), series)
  if (length(taken) > 0) {
    abort_backfill(
      "column",
      sprintf(
        "`by` names %s, and results have a column of that name.",
        quoted(taken[[1]])
      ),
      ">" = "Rename it first.", call = call
    )
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
      sprintf(
        paste(
          "The records are one per %s, which cannot be rolled up to a",
          "shorter period (%s)."
        ),
        describe_cadences(
          cadences[coarse, ], vctrs::vec_slice(names, coarse),
          named = !all(coarse)
        ),
        sub("^period of ", "", period_noun(calendar))
      ),
      ">" = sprintf(
        paste(
          "Choose a period of %s or longer%s, or say `cadence` where that",
          "is not their cadence."
        ),
        if (grepl("^[0-9]", coarsest)) coarsest else with_article(coarsest),
        if (all(coarse)) "" else ", leave these series out"
      ),
      call = call
    )
  }
}

# One mistyped year can stretch the table over centuries; better to say so than
# to run out of memory.
check_size <- function(columns, series_count, measures, call = caller_env()) {
  rows <- columns$count * series_count * measures
  if (rows > most_rows) {
    abort_backfill(
      "input",
      sprintf(
        "The table would have %s: %s%s from %s to %s.", count_of(rows, "row"),
        count_of(series_count, "series", "series"),
        if (measures > 1) sprintf(" of %d measures", measures) else "",
        day_label(.Date(columns$first_day)), day_label(.Date(columns$last_day))
      ),
      ">" = wrong_date_hint, call = call
    )
  }
}

most_rows <- 1e8

wrong_date_hint <-
  "See whether one of these dates is wrong, or choose longer periods."
