# Periods rolled up to longer ones: the same figures and standings as from the
# records.

# See roll_frame(). Each row of the table stands for one reading at the
# start of its period.
#' @export
roll_frame.backfill_periods <- function(
  x, calendar, by, cadence, enough, measures, silent
) {
  check_further(x, cadence)
  role <- facts(x)
  by <- check_by(by, names(x), role$series)
  along <- along_series(x, "value")
  shorter <- along$calendar
  ends <- c(min(along$number), max(along$number))
  bounds <- boundaries_cpp(seq(ends[[1]], ends[[2]] + 1), shorter)
  instants <- span_of_periods(ends, shorter, bounds)
  calendar <- lay_calendar(
    with_days_off(calendar, shorter), shorter$zone, instants[[1]],
    instants[[2]]
  )
  check_fits(seq(ends[[1]], ends[[2]]), bounds, shorter, calendar)
  series <- series_index(x, union(role$series, by))
  within <- ends_within(instants, bounds, shorter)
  columns <- table_columns(within[[1]], within[[2]], calendar)
  count <- nrow(series$names)
  check_size(columns, count, measures)
  number <- columns$first + seq_len(columns$count) - 1
  span <- known_span(instants, role$span)
  at <- along_numbers(along) - ends[[1]] + 1
  longer <- boundaries_cpp(c(number, max(number) + 1), calendar)
  timed <- function(fine) {
    known <- known_slots(
      number, calendar, ends, shorter, fine, role$series, series$names
    )
    expected <- as.vector(known$longer)
    list(
      irregular = is.na(known$longer[1, ]), expected = expected,
      cut = cut_further(
        fine, role$series, at, bounds, series, longer, calendar, expected
      ),
      expected_before = known$shorter[cbind(at, series$index)]
    )
  }
  reach <- share_within(
    longer, span, calendar, new_cadences("none", words = "")
  )
  own <- if (!is.null(role$cadences$names[["measure"]])) {
    lapply(stats::setNames(nm = unique(x$measure)), function(name) {
      timed(cadences_of_measure(role$cadences, name))
    })
  }
  # Readings of whole periods fill no slots of their own; how much is covered
  # follows from the periods' coverage.
  c(own[[1]] %||% timed(role$cadences), list(
    when = x$period, series = series$index, scale = unit_of_times(x$period),
    calendar = calendar, columns = columns,
    cadences = new_cadences(rep("none", count), words = "irregular"),
    surveys = vctrs::data_frame(
      records = rep(0, count), lowest = 0, highest = 0, in_order = TRUE
    ),
    groups = group_series(series$names, by), names = series$names, own = own,
    made_of = count_shorter(number, calendar, shorter),
    reach = reach, reached = rep(reach == 1, count), span = span,
    enough = enough %||% role$enough, enough_before = role$enough,
    known_cadences = role$cadences,
    sources = unique(c(role$sources, calendar$source))
  ))
}

check_further <- function(x, cadence) {
  if (!is.null(cadence)) {
    abort_backfill(
      "argument",
      "`cadence` is given, but a periods table has that of its records."
    )
  }
  check_not_empty(x)
}

# Working days stay those of the shorter periods, unless others are asked for.
with_days_off <- function(calendar, shorter) {
  if (shorter$workdays && !calendar$workdays) {
    kept <- c("workdays", "weekdays", "holidays")
    calendar[kept] <- shorter[kept]
  }
  calendar
}

# A working day lies where it is itself, whatever days off before it count in
# it.
ends_within <- function(instants, bounds, shorter) {
  if (shorter$unit == "working day") {
    return(bounds$instant[c(1, length(bounds$instant) - 1)])
  }
  instants - c(0, 1)
}

# The first and the last of the shorter periods need not be whole themselves.
known_span <- function(instants, span) {
  c(max(instants[[1]], span[[1]]), min(instants[[2]], span[[2]]))
}

# The period numbers in the order of the table's rows.
along_numbers <- function(along) {
  number <- along$number
  number[along$order] <- along$number
  number
}

# Each of the shorter periods must lie in one of the longer.
check_fits <- function(number, bounds, shorter, calendar) {
  from <- bounds$instant[-length(bounds$instant)]
  # A working day starts on the day itself, whatever days off before it count in
  # it.
  to <- if (shorter$unit == "working day") from else bounds$instant[-1] - 1
  apart <- which(
    number_of_instants_cpp(from, calendar) != number_of_instants_cpp(
      to, calendar
    )
  )
  if (length(apart) > 0) {
    starts <- period_start(number[[apart[[1]]]], shorter)
    abort_backfill(
      "every",
      "The {period_noun(shorter)} {period_label(starts, shorter)} does not fit",
      "into one {period_noun(calendar)}.",
      ">" = "Choose a length that these periods make up, or roll the records",
      "up anew."
    )
  }
}

# How many slots of their cadences the series of the table should have, in each
# of the longer and of the shorter periods: matrices of periods by series, NA
# where that is irregular or not known.
known_slots <- function(number, calendar, ends, shorter, fine, columns, names) {
  series <- series_of_cadences(fine, columns, names)
  slots_of <- function(number, calendar) {
    bounds <- boundaries_cpp(c(number, max(number) + 1), calendar)
    slots <- expected_slots(number, bounds, calendar, fine$cadences)
    each <- slots[
      , vctrs::vec_match(fine$cadences, vctrs::vec_unique(fine$cadences)),
      drop = FALSE
    ]
    out <- matrix(NA_real_, nrow(slots), nrow(names))
    there <- sort(unique(series))
    out[, there] <- t(rowsum(
      t(each[, !is.na(series), drop = FALSE]), series[!is.na(series)],
      reorder = TRUE
    ))
    out
  }
  # On days off of the longer periods nothing is expected, though the shorter
  # ones know nothing of them.
  if (calendar$workdays && !shorter$workdays) {
    shorter[c("workdays", "weekdays", "holidays")] <- calendar[
      c("workdays", "weekdays", "holidays")
    ]
  }
  list(
    longer = slots_of(number, calendar),
    shorter = slots_of(seq(ends[[1]], ends[[2]]), shorter)
  )
}

# The cells of the longer periods, between `bounds`, that are cut: as the
# records that each series was made of are known to be, and as the rows that are
# left of it are, `at` these places among the `shorter` boundaries.
cut_further <- function(
  fine, columns, at, shorter, series, bounds, calendar, expected
) {
  own <- series_of_cadences(fine, columns, series$names)
  start <- shorter$instant[tapply(at, series$index, min)]
  # The last moment within the last row.
  end <- shorter$instant[tapply(at, series$index, max) + 1] - 2e-3
  there <- which(!is.na(own))
  known <- list(
    from = pmax(start[own], fine$from)[there],
    to = pmin(end[own], fine$to)[there],
    spare = if (is.null(fine$spare)) 1 else fine$spare[there]
  )
  cut_cells(
    bounds, calendar, vctrs::vec_slice(fine$cadences, there), known, expected,
    own[there]
  )
}

# Which series of the table each of those that its records had is in.
series_of_cadences <- function(fine, columns, names) {
  if (length(columns) == 0) {
    rep(1L, nrow(fine$cadences))
  } else {
    vctrs::vec_match(fine$names[columns], names[columns])
  }
}

# Of how many shorter periods each of the longer is made up.
count_shorter <- function(number, calendar, shorter) {
  bounds <- boundaries_cpp(c(number, number[length(number)] + 1), calendar)
  shorter <- lay_calendar(
    shorter, shorter$zone, bounds$instant[[1]],
    bounds$instant[[length(bounds$instant)]]
  )
  diff(number_of_instants_cpp(bounds$instant, shorter))
}

# From where to where periods reach. Of working days these are the days off
# before the first one, which count in it, to the last one itself.
span_of_periods <- function(ends, calendar, bounds) {
  if (calendar$unit != "working day") {
    return(bounds$instant[c(1, length(bounds$instant))])
  }
  midnights_cpp(
    as.numeric(last_day(c(ends[[1]] - 1, ends[[2]]), calendar)) + 1,
    calendar$table
  )
}

#' @export
roll_parts.backfill_periods <- function(
  x, planned, frame, absent, pool, counting
) {
  x <- without_values_taken_out(x)
  carry <- new_carry(x, frame, c(absent, facts(x)$absent))
  pooled <- weights_of(pool, function(name) own_statistic(carry, name))
  parts <- Map(function(measure, name) {
    if (measure$use == "parts") {
      carried_ratio(measure, name, carry)
    } else {
      carried_part(measure, name, carry, pooled)
    }
  }, planned, names(planned))
  list(
    parts = parts, falls = facts(x)$falls,
    days_off = days_off_of_periods(x, frame) %||% facts(x)$days_off
  )
}

# A whole period whose value somebody has taken out lacks it, as if nothing had
# been recorded. A ratio may have none, as where it is by zero.
without_values_taken_out <- function(x) {
  kind <- vapply(facts(x)$measures, `[[`, "", "kind")[x$measure]
  out <- which(
    !is.finite(x$value) & x$standing %in% c("complete", "imputed") &
      kind != "ratio"
  )
  if (length(out) > 0) {
    x$value[out] <- NA
    x$standing[out] <- "empty"
    x$n[out] <- 0L
    x$coverage[out] <- ifelse(is.na(x$coverage[out]), NA, 0)
  }
  x
}

# How whole the longer periods are by how whole the shorter ones in them are.
judge_periods <- function(rows, frame, measure, zero) {
  enough <- enough_of(frame$enough, measure)
  expected <- frame$expected_before
  added <- function(amount) roll_values(as.double(amount), frame)$sum
  covered <- rows$coverage * expected
  standing <- as.integer(rows$standing)
  slots <- added(covered)
  imputed <- added(ifelse(standing == 4L, expected - covered, NA_real_))
  filled <- added(standing == 4L)
  broken <- added(standing >= 5L)
  # Partial for another reason than its coverage.
  marked <- added(
    standing == 2L & !is.na(rows$coverage) &
      rows$coverage >= enough_of(frame$enough_before, measure)
  )
  there <- added(rep(1, nrow(rows)))
  by_coverage <- (slots + imputed) / frame$expected >= enough - 1e-9 &
    marked == 0
  # An empty period whose coverage is known lacks something; without a cadence
  # it may be as it should.
  by_standing <- there == rep_len(
    frame$made_of, length(there)
  ) & frame$reached & added(standing == 2L) == 0 &
    added(standing == 3L & !is.na(rows$coverage)) == 0
  whole <- by_coverage
  unknown <- is.na(by_coverage) | zero
  whole[unknown] <- by_standing[unknown]
  out <- 2L - (whole & broken == 0)
  out[out == 1L & filled > 0] <- 4L
  out[added(!is.na(rows$value)) == 0] <- 3L
  covered <- share_covered(slots, frame$expected)
  if (!zero) out <- with_cut(out, covered, frame$cut)
  join_judged(
    list(
      standing = out, n = as.integer(added(rows$n)), coverage = covered,
      slots = slots
    ),
    frame
  )
}
