# Times as an engine holds them.

# How a column holds times: its `kind`, "date", "instant" (seconds that pass) or
# "clock" (what the clock of the zone shows), and expressions: whole seconds
# since 1970, the same with their fractions, and the condition under which there
# is a time at all, NULL where there always is. `raw` is in the same order as
# the times and may be had for less; `of_raw()` makes exact seconds of the first
# or the last of it. `whole` is TRUE where no time has a fraction of a second.
new_moments <- function(
  kind, second, exact, usable, raw = exact, of_raw = identity,
  whole = kind == "date"
) {
  list(
    kind = kind, second = second, exact = exact, usable = usable, raw = raw,
    of_raw = of_raw, whole = whole
  )
}

# An expression where there is a time, NULL elsewhere.
if_usable <- function(moments, what) {
  if (is.null(moments$usable)) {
    return(what)
  }
  sprintf("CASE WHEN %s THEN %s END", moments$usable, what)
}

all_conditions <- function(...) {
  conditions <- c(...)
  if (length(conditions) > 0) {
    sprintf("(%s)", paste(conditions, collapse = " AND "))
  }
}

# What an engine calls the type of a column: the first row's, by `typed`.
type_there <- function(name, from, typed, ask) {
  type <- ask(sprintf(
    "SELECT %s(%s) AS type FROM %s AS q LIMIT 1", typed, name, from
  ))$type
  if (length(type) == 0) {
    abort_backfill("input", "The table has no rows.")
  }
  type
}

# `cast` is what would make a time of it.
stop_no_time <- function(name, type, cast) {
  abort_backfill(
    "when",
    "The column {column_in_words(name)} is of the type {type}, not of a time.",
    ">" = "Give a SELECT that casts it, such as {cast}."
  )
}

# A column in a message, whatever marks its engine puts around it.
column_in_words <- function(name) quoted(gsub("^[`\"]|[`\"]$", "", name))

# Numbers that count `unit`s, as `date_unit` of read_records(); without one they
# can be dates as eight digits alone.
counted_moments <- function(engine, name, from, usable, unit) {
  floored <- engine$floored
  real <- engine$real
  # A part of a day would be a time, and is not lost unseen.
  whole <- sprintf("%s = %s", real(name), floored(name))
  if (is.null(unit) && hold_digits(engine, name, from, usable)) {
    return(digit_moments(engine, floored(name), all_conditions(usable, whole)))
  }
  if (is.null(unit)) {
    abort_backfill(
      "when", "The column {column_in_words(name)} holds numbers.",
      ">" = "Say what they count: `date_unit` is \"second\", \"millisecond\",",
      "\"day\" or \"day 1904\".",
      choices = list(date_unit = "second")
    )
  }
  first <- c(day = -25569, "day 1904" = -24107)
  if (unit %in% names(first)) {
    day <- sprintf("(%s + (%d))", floored(name), first[[unit]])
    second <- sprintf("(%s * 86400)", day)
    return(new_moments(
      "date", second, real(second), all_conditions(usable, whole)
    ))
  }
  exact <- if (unit == "second") real(name) else
    sprintf("(%s / 1000.0)", real(name))
  new_moments("instant", floored(exact), exact, usable)
}

# Whether all numbers lie where 20310709 would.
hold_digits <- function(engine, name, from, usable) {
  ends <- unlist(engine$ask(sprintf(
    "SELECT MIN(%s) AS low, MAX(%s) AS high FROM %s AS q %s",
    engine$real(name), engine$real(name), from, all_of(usable)
  )))
  !anyNA(ends) && ends[["low"]] > 1.6e7 && ends[["high"]] < 2.5e7
}

# Dates as eight digits: the day by the count of the Julian period, in which the
# year starts in March, so that the leap day is its last.
digit_moments <- function(engine, n, usable) {
  div <- function(a, b) engine$div(a, as_digits(b))
  y <- div(n, 10000)
  m <- sprintf("(%s - 100 * %s)", div(n, 100), y)
  d <- sprintf("(%s - 100 * %s)", n, div(n, 100))
  early <- div(sprintf("14 - %s", m), 12)
  year <- sprintf("(%s + 4800 - %s)", y, early)
  day <- sprintf(
    "(%s + %s + 365 * %s + %s - %s + %s - 2472633)", d,
    div(sprintf("153 * (%s + 12 * %s - 3) + 2", m, early), 5), year,
    div(year, 4), div(year, 100), div(year, 400)
  )
  there <- sprintf(
    paste(
      "%s BETWEEN 1 AND 12 AND %s BETWEEN 1 AND CASE WHEN %s = 2 THEN 28 + %s",
      "WHEN %s IN (4, 6, 9, 11) THEN 30 ELSE 31 END"
    ),
    m, d, m, sprintf("(%s)", leap_sql(y)), m
  )
  second <- sprintf("(%s * 86400)", day)
  new_moments(
    "date", second, engine$real(second), all_conditions(usable, there)
  )
}

# Of times by the clock, where the local second lies that each offset of a zone
# holds from; `second` is whether a time that is shown twice is the second one.
clock_changes <- function(table, second) {
  before <- table$offset[-length(table$offset)]
  after <- table$offset[-1]
  at <- table$from[-1]
  c(-Inf, at + if (second) pmin(before, after) else pmax(before, after))
}

# The local seconds that a zone shows twice, and those that it never shows:
# list(from, to) of each.
clock_gaps <- function(table, twice) {
  before <- table$offset[-length(table$offset)]
  after <- table$offset[-1]
  at <- table$from[-1]
  these <- if (twice) after < before else after > before
  list(
    from = (at + pmin(before, after))[these],
    to = (at + pmax(before, after))[these]
  )
}
