# SQLite: values of any type in any column, times as text or as numbers.

sqlite_engine <- function(connection) {
  ask <- function(sql) ask_connection(connection, sql, "The SQLite database")
  engine <- new_engine(
    "The SQLite database", connection,
    whole = function(a) sprintf("CAST(%s AS INTEGER)", a),
    real = function(a) sprintf("CAST(%s AS REAL)", a),
    figure = function(name) sprintf("CAST(%s AS REAL)", name),
    odd = function(name) {
      sprintf("typeof(%s) NOT IN ('integer', 'real', 'null')", name)
    },
    floored = function(a) {
      sprintf("(CAST(%s AS INTEGER) - (%s < CAST(%s AS INTEGER)))", a, a, a)
    },
    when = sqlite_when,
    key_text = function(name) sprintf("CAST(%s AS TEXT)", name),
    log = natural_log(ask), look_up = join_values("column%d"),
    file = if (file.exists(connection@dbname)) connection@dbname
  )
  if (numeric_version(RSQLite::rsqliteVersion()[[1]]) >= "3.35") {
    engine$put_together <- with_times_read_once
  }
  engine
}

# A time that is text would be read anew wherever a query names what is made of
# it, dozens of times a row.
with_times_read_once <- function(steps) {
  text <- any(grepl("strftime", steps[[1]]$columns, fixed = TRUE))
  named_in_turn(steps, if (text) "MATERIALIZED " else "")
}

# Which of its names the natural logarithm has here, if any.
natural_log <- function(ask) {
  for (name in c("ln", "log")) {
    found <- tryCatch(
      ask(sprintf("SELECT %s(2.0) AS x", name))$x,
      backfill_error_database = function(cnd) NA
    )
    if (isTRUE(abs(found - log(2)) < 1e-9)) {
      return(name)
    }
  }
}

# By a join with rows of VALUES, whose columns the engine calls by the form
# `names`, counted on from `first`.
join_values <- function(names, first = 1) {
  force(names)
  force(first)
  function(steps, keys, values) {
    columns <- c(keys, values)
    rows <- do.call(paste, c(unname(columns), sep = ", "))
    selected(
      steps,
      "SELECT * FROM @ AS q JOIN (SELECT %s FROM (VALUES %s) AS v) AS j %s",
      listed(sprintf(
        "%s AS %s", sprintf(names, seq_along(columns) - 1 + first),
        names(columns)
      )),
      listed(sprintf("(%s)", rows)), sprintf("USING (%s)", listed(names(keys)))
    )
  }
}

sqlite_when <- function(engine, name, from, unit) {
  look <- engine$ask(sprintf(
    "SELECT %s AS x, typeof(%s) AS type FROM %s AS q WHERE %s IS NOT NULL %s",
    sprintf("CAST(%s AS TEXT)", name), name, from, name, "LIMIT 1000"
  ))
  if (nrow(look) == 0) {
    abort_backfill(
      "input", "The column {column_in_words(name)} has no time in any row."
    )
  }
  if (mean(look$type == "text") < 0.5) {
    return(counted_moments(
      engine, name, from, sprintf("typeof(%s) IN ('integer', 'real')", name),
      unit
    ))
  }
  text_moments(name, look$x)
}

# Times of ISO 8601: dates, times with an offset, or times of a clock, as most
# of the first rows are. SQLite reads 30 February as 2 March, hence the look
# back.
text_moments <- function(name, texts) {
  offset <- grepl("(Z|[+-][0-9]{2}:[0-9]{2})$", substring(texts, 11))
  kind <- names(which.max(table(ifelse(
    nchar(texts) == 10, "date", ifelse(offset, "instant", "clock")
  ))))
  day <- sprintf("substr(%s, 1, 10)", name)
  digits <- "[0-9][0-9][0-9][0-9]-[0-9][0-9]-[0-9][0-9]"
  ends <- sprintf(
    "(substr(%s, 11) GLOB '*Z' OR substr(%s, 11) GLOB '*[+-]*')", name, name
  )
  form <- switch(
    kind, date = sprintf("length(%s) = 10", name),
    instant = sprintf("length(%s) > 10 AND %s", name, ends),
    clock = sprintf("length(%s) > 10 AND NOT %s", name, ends)
  )
  second <- sprintf("CAST(strftime('%%s', %s) AS INTEGER)", name)
  new_moments(
    kind, second,
    exact = sprintf(
      "(%s + CASE WHEN instr(%s, '.') > 0 THEN %s - %s ELSE 0.0 END)", second,
      name, sprintf("CAST(strftime('%%f', %s) AS REAL)", name),
      sprintf("CAST(strftime('%%S', %s) AS INTEGER)", name)
    ),
    usable = sprintf(
      "(typeof(%s) = 'text' AND %s GLOB '%s' AND %s AND %s)", name, day, digits,
      form, sprintf(
        paste(
          "strftime('%%Y-%%m-%%d', julianday(%s)) = %s AND",
          "strftime('%%s', %s) IS NOT NULL"
        ), day, day, name
      )
    )
  )
}
