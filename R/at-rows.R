# The rows of records elsewhere, as SQL: the columns that a query may name are
# k1, k2, ... (the series), v (a figure), e (the time with its fraction) and own
# (its whole second) as the table has it, t (seconds that pass since 1970), zs
# and zd (second and day by the clock of the records' zone), s and d (the same
# by the clock that cuts periods).

# A query in steps, each of what the one before gives: rows of a table (its
# `columns`, `from` and `where`), further `columns` beside those there, those
# `where` something holds, `columns` of groups `by` others, and any other SELECT
# as a `text` that calls the step before @. `has` says what steps have put in.
new_steps <- function(columns, from, where = NULL, there = NULL) {
  structure(
    list(list(
      of = "table", columns = columns, from = from, where = where,
      there = there
    )),
    has = character()
  )
}

add_step <- function(steps, of, ...) {
  structure(c(steps, list(list(of = of, ...))), has = attr(steps, "has"))
}

now_has <- function(steps, what) {
  structure(steps, has = c(attr(steps, "has"), what))
}

with_columns <- function(steps, columns) {
  add_step(steps, "columns", columns = columns)
}

only_where <- function(steps, ...) {
  conditions <- c(...)
  if (length(conditions) == 0) {
    return(steps)
  }
  add_step(steps, "where", where = conditions)
}

grouped <- function(steps, by, columns) {
  add_step(steps, "groups", by = by, columns = columns)
}

selected <- function(steps, text, ...) {
  add_step(steps, "text", text = sprintf(text, ...))
}

named_columns <- function(columns) {
  listed(ifelse(
    columns == names(columns), columns,
    sprintf("%s AS %s", columns, names(columns))
  ))
}

all_of <- function(conditions) {
  if (length(conditions) > 0) {
    paste("WHERE", paste(sprintf("(%s)", conditions), collapse = " AND "))
  }
}

# A step as a SELECT.
step_text <- function(step) {
  switch(
    step$of,
    table = paste(
      "SELECT", named_columns(step$columns), "FROM", step$from, "AS q",
      all_of(step$where)
    ),
    columns = paste("SELECT *,", named_columns(step$columns), "FROM @ AS q"),
    where = paste("SELECT * FROM @ AS q", all_of(step$where)),
    groups = paste(
      "SELECT", named_columns(c(
        stats::setNames(step$by, step$by), step$columns
      )), "FROM @ AS q",
      if (length(step$by) > 0) paste("GROUP BY", listed(step$by))
    ),
    text = step$text
  )
}

# What a query gives.
ask_steps <- function(engine, steps) engine$ask(engine$put_together(steps))

# The same of groups; numbers come as doubles.
ask_grouped <- function(engine, steps, by, columns) {
  ask_steps(engine, grouped(steps, by, vapply(columns, engine$real, "")))
}

# The usable rows with their times; `names` are columns there that tell rows
# apart, `values` are figures as SQL, by the names that queries call them.
usable_at <- function(x, names, values = NULL) {
  at <- facts(x)$at
  columns <- c(
    keyed(column_at(x, names)), e = at$moments$exact, own = at$moments$second,
    values
  )
  new_steps(columns, at$from, c(at$moments$usable, at$valued), at$there)
}

keyed <- function(columns) {
  stats::setNames(columns, key_names(columns))
}

key_names <- function(columns) sprintf("k%d", seq_along(columns))

# The same with their local times, without the rows that keep_dates() left out
# and those whose time never was; `apart` are columns there. `frame` is an
# outline or what became of it, see source_outline() and roll_frame(); its clock
# counts the days.
timed_at <- function(
  x, frame, value = NULL, apart = there_as(x, names(frame$names))
) {
  rows <- placed_in_time(x, usable_at(x, apart, c(v = value)), frame$zone)
  rows <- only_where(rows, never_at(x, frame$zone), kept_at(x))
  clock <- clock_by(frame)
  if (same_clock(clock, frame$zone, frame)) {
    return(with_columns(rows, c(s = "zs", d = "zd")))
  }
  rows <- with_columns(rows, c(
    s = sprintf("t + %s", piecewise_sql("t", clock$from, clock$offset))
  ))
  with_columns(rows, c(
    d = floor_div_sql(facts(x)$at$engine, "s", 86400)
  ))
}

# The table of the clock by which periods are cut, which may be another than
# that of the records' zone.
clock_by <- function(frame) frame$calendar$table %||% frame$clock

# Whether two tables show the same over all records; each reaches further.
same_clock <- function(a, b, frame) {
  within <- function(table) {
    ends <- frame$ends * if (frame$dates) 86400 else 1
    change <- table$from > ends[[1]] & table$from <= ends[[2]]
    c(table$from[change], table$offset[change],
      table$offset[findInterval(ends[[1]], table$from)])
  }
  identical(a, b) || identical(within(a), within(b))
}

# With instants, and what the clock of the records' zone shows.
placed_in_time <- function(x, rows, zone) {
  at <- facts(x)$at
  if (at$moments$kind == "clock") {
    from <- clock_changes(zone, identical(facts(x)$repeated, "second"))
    rows <- with_columns(rows, c(zs = "own"))
    rows <- with_columns(rows, c(
      t = sprintf("zs - (%s)", piecewise_sql("zs", from, zone$offset))
    ))
  } else {
    rows <- with_columns(rows, c(t = "own"))
    rows <- with_columns(rows, c(
      zs = sprintf("t + %s", piecewise_sql("t", zone$from, zone$offset))
    ))
  }
  with_columns(rows, c(zd = floor_div_sql(at$engine, "zs", 86400)))
}

# The condition that a time is one that the clock shows; NULL where all are.
never_at <- function(x, zone) {
  gaps <- clock_gaps(zone, twice = FALSE)
  if (facts(x)$at$moments$kind == "clock" && length(gaps$from) > 0) {
    sprintf("%s = 0", within_sql("zs", gaps))
  }
}

# 1 within any of the stretches, which come in order, 0 outside.
within_sql <- function(at, gaps) {
  ends <- as.numeric(rbind(gaps$from, gaps$to))
  piecewise_sql(at, c(-Inf, ends), c(0, rep(c(1, 0), length(gaps$from))))
}

# Instants of times that an engine gave, which are the clock's where the table
# has no zone.
instants_at <- function(x, second, zone) {
  if (facts(x)$at$moments$kind != "clock") {
    return(second)
  }
  from <- clock_changes(zone, identical(facts(x)$repeated, "second"))
  second - zone$offset[findInterval(second, from)]
}

# The local days of all records, with a week to spare.
days_over <- function(frame) {
  ends <- frame$ends * if (frame$dates) 86400 else 1
  floor(instant_to_local(ends, clock_by(frame)) / 86400) + c(-8, 8)
}

# A figure of a measure as SQL.
figure_at <- function(x, name) {
  facts(x)$at$engine$figure(column_at(x, name))
}
