# The cells of records elsewhere: what the engine adds up of each series and
# period, put where roll_cells() puts what it adds up of records in memory.

#' @export
source_cells.backfill_records_at <- function(x, name, frame, use) {
  only <- only_open(x, name, frame)
  if (!is_compounded(x, name, use)) {
    rows <- celled_at(x, frame, figure_at(x, name), only)
    return(cells_at(x, frame, rows, name, use))
  }
  fraction <- fraction_at(x, name)
  lost <- only_where(timed_at(x, frame, fraction, NULL), "v < -1")
  impossible <- ask_grouped(
    facts(x)$at$engine, lost, NULL, c(n = "COUNT(*)")
  )$n
  if (impossible > 0) warn_impossible(impossible)
  rows <- celled_at(x, frame, logarithm_at(x, fraction), only)
  cells_at(x, frame, rows, name, use)
}

is_compounded <- function(x, name, use) {
  facts(x)$measures[[name]]$kind == "return" && "compound" %in% use
}

# Rows with their period and what is added up; `only` leaves figures out.
celled_at <- function(x, frame, value, only = NULL) {
  engine <- facts(x)$at$engine
  rows <- with_period(
    engine, timed_at(x, frame, value), frame$calendar, days_over(frame)
  )
  with_columns(rows, c(
    u = if (is.null(only)) "v" else sprintf("CASE WHEN %s THEN v END", only)
  ))
}

fraction_at <- function(x, name) {
  figure <- figure_at(x, name)
  if (identical(facts(x)$measures[[name]]$unit, "%")) {
    return(sprintf("(%s / 100.0)", figure))
  }
  figure
}

# See changes_of(): growth that is compounded is added up as logarithms, without
# losing the digits of small ones: Kahan's way to the logarithm of 1 + x. That
# of a loss of all is taken for -1e300, which leaves nothing either.
logarithm_at <- function(x, one) {
  engine <- facts(x)$at$engine
  if (is.null(engine$log)) {
    stop_inexact(engine, "compound returns", "it has no natural logarithm")
  }
  sprintf(
    paste(
      "CASE WHEN %s < -1 THEN NULL WHEN 1.0 + %s = 0.0 THEN -1e300",
      "WHEN 1.0 + %s = 1.0 THEN %s",
      "ELSE %s(1.0 + %s) * %s / ((1.0 + %s) - 1.0) END"
    ),
    one, one, one, one, engine$log, one, one, one
  )
}

# Readings on days off say nothing of working days.
only_open <- function(x, name, frame) {
  measure <- facts(x)$measures[[name]]
  if (
    frame$calendar$unit == "working day" && !joins_next_day(measure)
  ) {
    open_sql("d", frame$calendar)
  }
}

stop_inexact <- function(engine, what, why) {
  abort_backfill(
    "engine", "{engine$label} cannot {what} exactly: {why}.",
    ">" = "Read the rows with read_records(), whose roll-up can, or leave the",
    "measure out."
  )
}

# `figure` is the column that is added up: u, of all rows that were surveyed, or
# what counters rose by.
cells_at <- function(x, frame, rows, name, use, figure = "u") {
  engine <- facts(x)$at$engine
  keys <- key_names(frame$names)
  together <- !all(is_irregular(frame$cadences)) && one_in_a_slot(x, frame)
  columns <- statistics_sql(figure, needs_order(use), if (together) {
    fills_slot(frame, figure)
  })
  found <- ask_grouped(
    engine, if (together) with_slots(x, frame, rows) else rows, c(keys, "p"),
    columns
  )
  at <- places_at(frame, found)
  if (figure == "u" || anyNA(at)) check_unchanged(frame, found, at)
  size <- nrow(frame$names) * frame$columns$count
  placed <- function(values, none) {
    out <- rep(none, size)
    out[at] <- ifelse(is.na(values), none, values)
    out
  }
  if (any(abs(found$total) == Inf, na.rm = TRUE)) {
    stop_inexact(engine, sprintf("add up %s", name), paste(
      "a value is infinite, or a sum beyond the largest number"
    ))
  }
  records <- placed(found$n, 0)
  if (any(add_groups(records, frame) > .Machine$integer.max)) {
    stop_inexact(engine, sprintf("count %s", name), paste(
      "a period has more than 2,147,483,647 records"
    ))
  }
  cells <- list(
    sum = placed(found$total, 0), records = as.integer(records),
    slots = if (together) {
      as.integer(placed(found$slots, 0))
    } else {
      slots_at(x, frame, rows, figure)
    }
  )
  if (needs_order(use)) {
    cells$lowest <- placed(found$lowest, NA_real_)
    cells$highest <- placed(found$highest, NA_real_)
    cells <- c(cells, further_at(x, frame, rows, use))
  }
  if (frame$groups$count > 0) {
    cells$merged <- merged_cells(cells, frame)
  }
  cells[c("first_at", "last_at")] <- NULL
  list(cells = cells, quantiles = function(cells, share, frame) {
    quantiles_at(x, frame, rows, share)
  })
}

# What is asked for of each cell; with `fills`, the condition that a record
# fills a slot of its own, that too.
statistics_sql <- function(figure, extremes, fills) {
  of_figure <- c(
    n = "COUNT(%s)", total = "SUM(%s)",
    if (extremes) c(lowest = "MIN(%s)", highest = "MAX(%s)")
  )
  c(
    rows = "COUNT(*)", gsub("%s", figure, of_figure, fixed = TRUE),
    if (!is.null(fills)) c(slots = sprintf("SUM(%s)", as_one(fills)))
  )
}

# Where each row of a result goes, series by series.
places_at <- function(frame, found, names = frame$names) {
  column <- found$p - frame$columns$first + 1
  at <- (series_numbers(names, found) - 1) * frame$columns$count + column
  at[column < 1 | column > frame$columns$count] <- NA
  at
}

# The table may have been written to since it was surveyed.
check_unchanged <- function(frame, found, at) {
  series <- series_numbers(frame$names, found)
  counted <- vapply(
    split(found$rows, factor(series, seq_len(nrow(frame$names)))), sum, 0
  )
  if (anyNA(at) || !identical(unname(counted), frame$census$rows)) {
    abort_backfill(
      "changed",
      "The table was changed while it was counted: it held",
      "{count_of(sum(frame$census$rows), 'record')} first, and",
      "{thousands(sum(found$rows))} a moment later.",
      ">" = "Ask again once nobody writes to it."
    )
  }
}

# Distinct slots of the cadence in which there is a figure. One that reaches
# over two periods counts in that of its first figure.
slots_at <- function(x, frame, rows, figure) {
  out <- integer(nrow(frame$names) * frame$columns$count)
  if (all(is_irregular(frame$cadences))) {
    return(out)
  }
  engine <- facts(x)$at$engine
  keys <- key_names(frame$names)
  rows <- only_where(with_slots(x, frame, rows), fills_slot(frame, figure))
  filled <- grouped(rows, c(keys, "slot"), c(earliest = "MIN(p)"))
  found <- ask_grouped(engine, filled, c(keys, "earliest"), c(n = "COUNT(*)"))
  found$p <- found$earliest
  out[places_at(frame, found)] <- as.integer(found$n)
  out
}

# The condition that a figure fills the slot that its row lies in.
fills_slot <- function(frame, figure) {
  open <- open_sql("d", frame$calendar)
  of_days <- "(steps IN (1, 2) AND len <= 86400)"
  paste(c(
    sprintf("%s IS NOT NULL AND slot IS NOT NULL AND fits = 1", figure),
    if (!is.null(open)) sprintf("(NOT %s OR (%s))", of_days, open)
  ), collapse = " AND ")
}

# Whether no slot can have two records: no two are of one time, no clock shows a
# time twice, and the slots are as long as what all distances have in common.
one_in_a_slot <- function(x, frame) {
  each <- frame$surveys
  common <- cbind(each$passed, each$step, each$months)
  length <- frame$cadences$length
  steps <- frame$cadences$steps
  unchanged <- length(frame$zone$offset) == 1 &&
    length(clock_by(frame)$offset) == 1
  facts(x)$duplicates == "error" && unchanged &&
    ncol(common) == 3 && all(each$whole_seconds) && all(
      steps == 0L | length == common[cbind(seq_along(steps), pmax(steps, 1L))]
    )
}

# Cells of series as those of the groups that they are in, as the kernel of the
# roll-up merges them.
merged_cells <- function(cells, frame) {
  added <- function(values) add_groups(values, frame)
  out <- list(
    sum = added(cells$sum), records = as.integer(added(cells$records)),
    slots = as.integer(added(cells$slots))
  )
  if (is.null(cells$lowest)) {
    return(out)
  }
  count <- frame$columns$count
  cell <- rep((frame$groups$of - 1) * count, each = count) + seq_len(count)
  extreme <- function(values, at, latest) {
    of_extreme(values, at, cell, length(out$sum), latest)
  }
  out$lowest <- extreme(cells$lowest, cells$lowest, FALSE)
  out$highest <- extreme(cells$highest, cells$highest, TRUE)
  if (!is.null(cells$first)) {
    out$first <- extreme(cells$first, cells$first_at, FALSE)
    out$last <- extreme(cells$last, cells$last_at, TRUE)
    there <- cells$records > 0
    mean <- ifelse(there, cells$sum / cells$records, 0)
    whole <- (out$sum / out$records)[cell]
    squares <- ifelse(cells$records < 2, 0, cells$sd^2 * (cells$records - 1))
    off <- ifelse(there, cells$records * (mean - whole)^2, 0)
    out$sd <- deviation_of(list(
      n = out$records, squares = added(squares + off)
    ))
  }
  out
}

# The values at the earliest time of each cell, or at the latest, of several the
# first, or the last, in the order of the series.
of_extreme <- function(values, at, cell, size, latest) {
  there <- which(!is.na(values))
  order <- there[order(
    cell[there], if (latest) -at[there] else at[there],
    if (latest) -there else there
  )]
  first <- order[!duplicated(cell[order])]
  out <- rep(NA_real_, size)
  out[cell[first]] <- values[first]
  out
}
