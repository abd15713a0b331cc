# Counters elsewhere: what each reading rose by since the one before. See
# src/kernels/counter.h for the same in memory.

#' @export
source_rises.backfill_records_at <- function(x, name, frame, use, how) {
  engine <- facts(x)$at$engine
  refuse_counter(x, engine, how)
  rows <- celled_at(x, frame, figure_at(x, name))
  if (is.finite(how$rollover)) {
    ends <- ask_grouped(engine, rows, NULL, c(low = "MIN(u)", high = "MAX(u)"))
    check_within_range(as.numeric(unlist(ends)), how)
  }
  rows <- with_rises(x, frame, with_slots(x, frame, rows), how)
  found <- if (how$spread) {
    spread_cells(x, frame, rows, name, use, how)
  } else {
    c(cells_at(x, frame, rows, name, use, "rise"), list(
      marks = list(partial = spanning_cells(x, frame, rows), imputed = 0)
    ))
  }
  found$falls <- falls_at(x, frame, rows, how)
  found
}

refuse_counter <- function(x, engine, how) {
  if (how$falls == "spread") {
    stop_inexact(engine, "spread the falls of a counter", paste(
      "each reading would have to be seen"
    ))
  }
  if (facts(x)$duplicates == "keep") {
    stop_inexact(engine, "difference the readings of a counter", paste(
      "several may have the same time (`duplicates` is \"keep\")"
    ))
  }
}

# Readings with the one before (columns that start with `b`), and `missing`, how
# many slots without a reading lie in between.
with_rises <- function(x, frame, rows, how = new_counting("")) {
  engine <- facts(x)$at$engine
  rows <- with_expected(x, frame, only_where(rows, "u IS NOT NULL"))
  rows <- engine$ordered$before(
    rows, key_names(frame$names), c("u", "p", "e", "t", "s", "slot", "until"),
    c("d", "since", "steps", "len", "mask", "fits")
  )
  shortest <- paste(
    "1.5 * CASE WHEN steps = 3 THEN 2419200 * len ELSE len END"
  )
  with_columns(rows, c(
    rise = rise_sql(how),
    missing = sprintf(
      paste(
        "CASE WHEN steps = 0 OR (t - bt < %s AND s - bs < %s) THEN 0",
        "WHEN mask = 127 THEN slot - bslot - 1 ELSE since - buntil END"
      ), shortest, shortest
    )
  ))
}

# What a reading rose by, see take_fall() in src/kernels/counter.h.
rise_sql <- function(how) {
  over <- if (is.finite(how$rollover)) sprintf(
    paste(
      "WHEN u < bu AND u + %1$.17g - bu <= %2$.17g",
      "THEN u + %1$.17g - bu"
    ), how$rollover, how$rollover / 2
  )
  taken <- function(what, where) {
    switch(what, count = sprintf("WHEN %s THEN u - bu", where),
           restart = sprintf("WHEN %s THEN u", where))
  }
  paste(c(
    "CASE WHEN u >= bu THEN u - bu", over,
    taken(how$resets, "u < bu / 2.0"), taken(how$falls, "u >= bu / 2.0"), "END"
  ), collapse = " ")
}

# With how many slots that are expected lie before the day of each reading
# (`since`), and before the next one (`until`), where some weekdays have none.
with_expected <- function(x, frame, rows) {
  engine <- facts(x)$at$engine
  bits <- vapply(0:6, function(bit) {
    bitwAnd(frame$cadences$weekdays, 2^bit) > 0
  }, logical(nrow(frame$cadences)))
  bits <- matrix(bits, ncol = 7)
  sums <- t(apply(bits, 1, cumsum))
  parameters <- lapply(1:7, function(i) as.numeric(sums[, i]))
  names(parameters) <- sprintf("n%d", 1:7)
  rows <- with_parameters(x, frame, rows, parameters)
  week <- floor_div_sql(engine, "d + 3", 7)
  prefix <- sprintf("WHEN w7 = %d THEN n%d", 1:6, 1:6)
  with_columns(rows, c(
    since = sprintf(
      "n7 * %s + CASE %s ELSE 0 END", week, paste(prefix, collapse = " ")
    ),
    until = sprintf(
      "n7 * %s + CASE %s ELSE n7 END", week,
      paste(sprintf("WHEN w7 = %d THEN n%d", 0:5, 1:6), collapse = " ")
    )
  ))
}

# The cells where rises over slots without a reading are spread: of these the
# pairs of readings come here, to be spread as the kernel does it, and nothing
# is added up of them there.
spread_cells <- function(x, frame, rows, name, use, how) {
  rows <- with_columns(rows, c(
    unspread = "CASE WHEN missing >= 1 THEN 0.0 * rise ELSE rise END"
  ))
  found <- cells_at(x, frame, rows, name, use, "unspread")
  spread <- spread_rises(x, frame, rows, how)
  own <- share_cells(spread$own, frame)
  shares <- share_cells(spread$shares, frame)
  found$cells <- add_cells(add_cells(found$cells, own), shares)
  c(found, list(marks = list(
    partial = logical(length(shares$records)), imputed = shares$records
  )))
}

# list(own, shares), each the series, instants and amounts of what is put into
# the slots of the readings that close a gap, and into those without one.
spread_rises <- function(x, frame, rows, how) {
  pairs <- ask_steps(facts(x)$at$engine, selected(
    rows, "SELECT %s FROM @ AS q WHERE rise IS NOT NULL AND missing >= 1",
    listed(c(key_names(frame$names), "be", "e", "bu", "u"))
  ))
  series <- series_numbers(frame$names, pairs)
  when <- moments_at(x, as.vector(rbind(
    as.numeric(pairs$be), as.numeric(pairs$e)
  )), frame)
  # Each pair by itself, as a series of two readings.
  found <- rises_found(
    list(when = when, series = rep(seq_along(series), each = 2),
         value = as.vector(rbind(as.numeric(pairs$bu), as.numeric(pairs$u)))),
    frame, how, integer(), vctrs::vec_slice(frame$cadences, series)
  )
  second <- seq_along(series) * 2
  closing <- as.numeric(when)[second] * frame$scale
  list(
    own = list(series = series, instant = closing, amount = found$rise[second]),
    shares = list(
      series = rep(series, each = 2)[found$shares$row],
      instant = found$shares$instant, amount = found$shares$amount
    )
  )
}

# The cells whose first rise began in another, with slots in between.
spanning_cells <- function(x, frame, rows) {
  engine <- facts(x)$at$engine
  over <- only_where(rows, "rise IS NOT NULL AND missing >= 1 AND bp <> p")
  found <- ask_grouped(
    engine, over, c(key_names(frame$names), "p"), c(n = "COUNT(*)")
  )
  out <- logical(nrow(frame$names) * frame$columns$count)
  out[places_at(frame, found)] <- TRUE
  out
}

# Where readings fell, as rises_of() gives it.
falls_at <- function(x, frame, rows, how) {
  engine <- facts(x)$at$engine
  keys <- key_names(frame$names)
  found <- ask_steps(engine, selected(
    rows, "SELECT %s FROM @ AS q WHERE u < bu",
    listed(c(keys, "be", "e", "bu", "u"))
  ))
  found <- found[order(series_numbers(frame$names, found), found$e), ]
  new_rows(
    series = series_numbers(frame$names, found), after = moments_at(
      x, found$be, frame
    ),
    before = moments_at(x, found$e, frame), from = as.numeric(found$bu),
    to = as.numeric(found$u), taken = taken_elsewhere(found, how)
  )
}

taken_elsewhere <- function(found, how) {
  to <- as.numeric(found$u)
  from <- as.numeric(found$bu)
  over <- to + how$rollover - from
  taken <- ifelse(to < from / 2, how$resets, how$falls)
  ifelse(is.finite(over) & over <= how$rollover / 2, "rollover", taken)
}
