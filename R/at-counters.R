# Counters elsewhere: what each reading rose by since the one before, by window
# functions. See src/kernels/counter.h for the same in memory.

#' @export
source_rises.backfill_records_at <- function(x, name, frame, use, spread) {
  engine <- facts(x)$at$engine
  refuse_counter(x, engine, spread)
  rows <- with_slots(x, frame, celled_at(x, frame, figure_at(x, name)))
  rows <- with_rises(x, frame, rows)
  found <- cells_at(x, frame, rows, name, use, "rise")
  c(found, list(
    marks = list(
      partial = spanning_cells(x, frame, rows), imputed = 0
    ),
    falls = falls_at(x, frame, rows)
  ))
}

refuse_counter <- function(x, engine, spread) {
  if (is.null(engine$ordered$lag)) {
    stop_inexact(engine, "difference the readings of a counter", paste(
      "it has no window functions"
    ))
  }
  if (spread) {
    stop_inexact(engine, "spread the rises of a counter", paste(
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
with_rises <- function(x, frame, rows) {
  engine <- facts(x)$at$engine
  rows <- with_expected(x, frame, only_where(rows, "u IS NOT NULL"))
  before <- c("u", "p", "e", "t", "s", "slot", "until") # LAG of each
  over <- engine$ordered$lag(key_names(frame$names))
  rows <- with_columns(rows, stats::setNames(
    sprintf("LAG(%s) %s", before, over), paste0("b", before)
  ))
  shortest <- paste(
    "1.5 * CASE WHEN steps = 3 THEN 2419200 * len ELSE len END"
  )
  with_columns(rows, c(
    rise = "CASE WHEN u >= bu THEN u - bu END",
    missing = sprintf(
      paste(
        "CASE WHEN steps = 0 OR (t - bt < %s AND s - bs < %s) THEN 0",
        "WHEN mask = 127 THEN slot - bslot - 1 ELSE since - buntil END"
      ), shortest, shortest
    )
  ))
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

# The cells whose first rise began in another, with slots in between.
spanning_cells <- function(x, frame, rows) {
  engine <- facts(x)$at$engine
  over <- only_where(rows, "u >= bu AND missing >= 1 AND bp <> p")
  found <- ask_grouped(
    engine, over, c(key_names(frame$names), "p"), c(n = "COUNT(*)")
  )
  out <- logical(nrow(frame$names) * frame$columns$count)
  out[places_at(frame, found)] <- TRUE
  out
}

# Where readings fell, as rises_of() gives it.
falls_at <- function(x, frame, rows) {
  engine <- facts(x)$at$engine
  keys <- key_names(frame$names)
  found <- ask_steps(engine, selected(
    rows, "SELECT %s FROM @ AS q WHERE u < bu",
    listed(c(keys, "be", "e", "bu", "u"))
  ))
  found <- found[order(series_numbers(frame$names, found), found$e), ]
  tibble::tibble(
    series = series_numbers(frame$names, found), after = moments_at(
      x, found$be, frame
    ),
    before = moments_at(x, found$e, frame), from = as.numeric(found$bu),
    to = as.numeric(found$u)
  )
}
