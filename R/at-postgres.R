# PostgreSQL, from version 12 on.

postgres_engine <- function(connection) {
  new_engine(
    "PostgreSQL", connection,
    whole = function(a) sprintf("CAST(%s AS bigint)", a),
    real = function(a) sprintf("CAST(%s AS float8)", a),
    figure = function(name) {
      sprintf("NULLIF(CAST(%s AS float8), CAST('NaN' AS float8))", name)
    },
    floored = function(a) sprintf("CAST(floor(%s) AS bigint)", a),
    when = postgres_when,
    key_text = function(name) sprintf("CAST(%s AS text)", name),
    log = "ln", look_up = join_values("v.column%d")
  )
}

epoch_of <- function(time) sprintf("date_part('epoch', %s)", time)

postgres_when <- function(engine, name, from, unit) {
  type <- engine$ask(sprintf(
    "SELECT CAST(pg_typeof(%s) AS text) AS type FROM %s", name,
    sprintf("(SELECT NULL AS none) AS n LEFT JOIN %s AS q ON FALSE", from)
  ))$type
  seconds <- epoch_of(name)
  timed <- function(kind) {
    new_moments(
      kind, sprintf("CAST(floor(%s) AS bigint)", seconds), exact = seconds,
      usable = sprintf("isfinite(%s)", name), raw = name, of_raw = epoch_of
    )
  }
  switch(
    type,
    date = new_moments(
      "date", exact = seconds, usable = sprintf("isfinite(%s)", name),
      raw = name, of_raw = epoch_of,
      second = sprintf("(CAST(%s - DATE '1970-01-01' AS bigint) * 86400)", name)
    ),
    "timestamp with time zone" = timed("instant"),
    "timestamp without time zone" = timed("clock"), smallint = , integer = ,
    bigint = , numeric = , real = ,
    "double precision" = counted_moments(
      engine, name, from, sprintf("%s IS NOT NULL", name), unit
    ),
    stop_no_time(name, type, "CAST(day AS date)")
  )
}
