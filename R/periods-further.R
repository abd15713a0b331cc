# Periods rolled up to longer ones: the same figures and standings as from the records.

# See frame_of_records(). Each row of the table stands for one reading at the start of its period.
frame_of_periods <- function(x, calendar, by, cadence, enough, call = caller_env()) {
  if (!is.null(cadence)) {
    abort_backfill("argument", "`cadence` is given, but a periods table has that of its records.", call = call)
  }
  if (nrow(x) == 0) {
    abort_backfill("input", "The periods table has no rows.", call = call)
  }
  role <- roles(x)
  by <- check_by(by, names(x), role$series, call)
  along <- along_series(x, "value", call)
  ends <- c(min(along$number), max(along$number))
  shorter <- along$calendar
  bounds <- boundaries(seq(ends[[1]], ends[[2]] + 1), shorter)
  instants <- bounds$instant[c(1, length(bounds$instant))]
  if (shorter$workdays && !calendar$workdays) {
    calendar[c("workdays", "weekdays", "holidays")] <- shorter[c("workdays", "weekdays", "holidays")]
  }
  calendar <- lay_calendar(calendar, shorter$zone, instants[[1]], instants[[2]])
  check_fits(seq(ends[[1]], ends[[2]]), bounds, shorter, calendar, call)
  series <- series_index(x, union(role$series, by))
  columns <- table_columns(instants[[1]], instants[[2]] - 1, calendar)
  check_size(columns, nrow(series$names), call)
  number <- columns$first + seq_len(columns$count) - 1
  known <- known_slots(number, calendar, ends, shorter, role, series$names)
  # Readings of whole periods fill no slots of their own; how much is covered follows from the periods' coverage.
  count <- nrow(series$names)
  list(
    when = x$period, series = series$index, scale = unit_of_times(x$period), calendar = calendar, columns = columns,
    cadences = new_cadences(rep("none", count), words = "irregular"),
    surveys = vctrs::data_frame(records = rep(0, count), lowest = 0, highest = 0, in_order = TRUE),
    irregular = is.na(known$longer[1, ]), groups = group_series(series$names, by), names = series$names,
    expected = as.vector(known$longer),
    expected_before = known$shorter[cbind(along_numbers(along) - ends[[1]] + 1, series$index)],
    made_of = count_shorter(number, calendar, shorter),
    reach = reach_of(boundaries(c(number, max(number) + 1), calendar), instants),
    enough = enough %||% role$enough, enough_before = role$enough, known_cadences = role$cadences,
    sources = role$sources
  )
}

# The period numbers in the order of the table's rows.
along_numbers <- function(along) {
  number <- along$number
  number[along$order] <- along$number
  number
}

# Each of the shorter periods must lie in one of the longer.
check_fits <- function(number, bounds, shorter, calendar, call) {
  from <- bounds$instant[-length(bounds$instant)]
  # A working day starts on the day itself, whatever days off before it count in it.
  to <- if (shorter$unit == "working day") from else bounds$instant[-1] - 1
  apart <- which(number_of_instants_cpp(from, calendar) != number_of_instants_cpp(to, calendar))
  if (length(apart) > 0) {
    abort_backfill(
      "every",
      sprintf("The %s %s does not fit into one %s.", period_noun(shorter),
              period_label(period_start(number[[apart[[1]]]], shorter), shorter), period_noun(calendar)),
      ">" = "Choose a length that these periods make up, or roll the records up anew.", call = call
    )
  }
}

# How many slots of their cadences the series of the table should have, in each of the longer and of the shorter
# periods: matrices of periods by series, NA where that is irregular or not known.
known_slots <- function(number, calendar, ends, shorter, role, names) {
  fine <- role$cadences
  series <- if (length(role$series) == 0) rep(1L, nrow(fine$cadences)) else
    vctrs::vec_match(fine$names[role$series], names[role$series])
  slots_of <- function(number, calendar) {
    slots <- expected_slots(number, calendar, fine$cadences)
    each <- slots[, vctrs::vec_match(fine$cadences, vctrs::vec_unique(fine$cadences)), drop = FALSE]
    out <- matrix(NA_real_, nrow(slots), nrow(names))
    there <- sort(unique(series))
    out[, there] <- t(rowsum(t(each[, !is.na(series), drop = FALSE]), series[!is.na(series)], reorder = TRUE))
    out
  }
  list(longer = slots_of(number, calendar), shorter = slots_of(seq(ends[[1]], ends[[2]]), shorter))
}

# Of how many shorter periods each of the longer is made up.
count_shorter <- function(number, calendar, shorter) {
  bounds <- boundaries(c(number, number[length(number)] + 1), calendar)
  shorter <- lay_calendar(shorter, shorter$zone, bounds$instant[[1]], bounds$instant[[length(bounds$instant)]])
  diff(number_of_instants_cpp(bounds$instant, shorter))
}

# The share of each period that lies between two instants.
reach_of <- function(bounds, instants) {
  from <- bounds$instant[-length(bounds$instant)]
  to <- bounds$instant[-1]
  (pmin(to, instants[[2]]) - pmax(from, instants[[1]])) / (to - from)
}

# list(parts, falls), as parts_of_records() gives it.
parts_of_periods <- function(x, planned, frame, absent, together, call = caller_env()) {
  measures <- roles(x)$measures
  rows <- split(seq_len(nrow(x)), x$measure)
  narrowed <- function(name) {
    frame$when <- frame$when[rows[[name]]]
    frame$series <- frame$series[rows[[name]]]
    frame
  }
  value_of <- function(name) x$value[rows[[name]]]
  own_statistic <- function(name) {
    carried <- carried_cells(measures[[name]], value_of(name), x$n[rows[[name]]], narrowed(name))
    statistic_of(carried$cells, carried$use)
  }
  together <- lapply(together, function(how) if (how %in% c("sum", "mean")) how else own_statistic(how))
  judged <- function(name) {
    judge_periods(vctrs::vec_slice(plain_tibble(x), rows[[name]]), frame$expected_before[rows[[name]]], narrowed(name),
                  identical(c(absent, roles(x)$absent)[[name]], "zero"))
  }
  parts <- Map(function(measure, name) {
    if (measure$use == "parts") {
      check_ratio_parts(measure, name, names(rows), call)
      return(new_part(ratio_values(own_statistic(measure$of), own_statistic(measure$per), frame),
                      join_parts(judged(measure$of), judged(measure$per))))
    }
    value <- value_of(measure$from)
    own <- measures[[measure$from]]
    if (identical(measure$use, own$use)) {
      check_carried(measure, name, call)
      carried <- carried_cells(own, value, x$n[rows[[name]]], narrowed(name))
      measure$use <- carried$use
    } else {
      carried <- list(cells = roll_values(value, narrowed(measure$from), measure$use))
    }
    parts <- one_part(narrowed(measure$from)$when, narrowed(measure$from)$series, value)
    new_part(cell_values(measure, carried$cells, parts, frame, together),
             lack_weights(judged(measure$from), measure, carried$cells, frame, together))
  }, planned, names(planned))
  list(parts = parts, falls = roles(x)$falls)
}

# The cells of a value for each row of the frame.
roll_values <- function(value, frame, use = "sum") roll_cells(one_part(frame$when, frame$series, value), frame, use)

# list(cells, use): cells of the periods' values whose statistic `use` is what the records would give.
carried_cells <- function(measure, value, n, frame) {
  use <- measure$use
  if (use == "mean") {
    # Each mean counts as often as it has records; one that was filled in, once.
    weight <- pmax(n, 1)
    weight[is.na(value)] <- NA
    cells <- roll_values(value * weight, frame)
    weights <- roll_values(weight, frame)
    cells$records <- weights$sum
    cells$merged$records <- weights$merged$sum
    return(list(cells = cells, use = use))
  }
  if (use == "compound") {
    value <- logged(measure)(value)
  }
  list(cells = roll_values(value, frame, use), use = if (use %in% c("count", "slots")) "sum" else use)
}

# How whole the longer periods are by how whole the shorter ones in them are; `expected` is how many slots each of the
# `rows` should have.
judge_periods <- function(rows, expected, frame, zero) {
  added <- function(amount) roll_values(as.double(amount), frame)$sum
  covered <- rows$coverage * expected
  standing <- as.integer(rows$standing)
  slots <- added(covered)
  imputed <- added(ifelse(standing == 4L, expected - covered, NA))
  filled <- added(standing == 4L)
  broken <- added(standing >= 5L)
  # Partial for another reason than its coverage.
  marked <- added(standing == 2L & !is.na(rows$coverage) & rows$coverage >= frame$enough_before)
  there <- added(rep(1, nrow(rows)))
  by_coverage <- (slots + imputed) / frame$expected >= frame$enough - 1e-9 & marked == 0
  # An empty period whose coverage is known lacks something; without a cadence it may be as it should.
  by_standing <- there == rep_len(frame$made_of, length(there)) & added(standing == 2L) == 0 &
    added(standing == 3L & !is.na(rows$coverage)) == 0
  whole <- by_coverage
  unknown <- is.na(by_coverage) | zero
  whole[unknown] <- by_standing[unknown]
  out <- 2L - (whole & broken == 0)
  out[out == 1L & filled > 0] <- 4L
  out[added(!is.na(rows$value)) == 0] <- 3L
  covered <- slots / frame$expected
  covered[is.nan(covered)] <- NA
  join_judged(list(standing = out, n = as.integer(added(rows$n)), coverage = covered, slots = slots), frame)
}

check_ratio_parts <- function(measure, name, there, call) {
  gone <- setdiff(c(measure$of, measure$per), there)
  if (length(gone) > 0) {
    abort_backfill("input", sprintf("The ratio %s is made of %s, which the table has not.", quoted(name),
                                    in_words(quoted(gone))),
                   ">" = "Keep the rows of both parts, or roll the records up anew.", call = call)
  }
}

check_carried <- function(measure, name, call) {
  if (measure$use == "sd" || !is.na(quantile_share(measure$use))) {
    abort_backfill("input", sprintf("%s holds the %s of records, which cannot be made of those of shorter periods.",
                                    quoted(name), if (measure$use == "sd") "standard deviation" else measure$use),
                   ">" = "Roll the records up anew, or leave these rows out.", call = call)
  }
}
