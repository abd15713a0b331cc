# DuckDB, in a file or in memory; its SELECTs may read files of Parquet as well.

duckdb_engine <- function(connection) {
  ask <- function(sql) ask_connection(connection, sql, "DuckDB")
  engine <- new_engine(
    "DuckDB", connection,
    whole = function(a) sprintf("CAST(%s AS BIGINT)", a),
    real = function(a) sprintf("CAST(%s AS DOUBLE)", a),
    figure = function(name) {
      sprintf("NULLIF(CAST(%s AS DOUBLE), CAST('NaN' AS DOUBLE))", name)
    },
    when = function(name, from, unit, call) {
      duckdb_when(name, from, unit, ask, call)
    },
    key_text = function(name) sprintf("CAST(%s AS VARCHAR)", name),
    log = "ln", look_up = join_values("v.col%d", 0),
    file = if (file.exists(connection@driver@dbdir)) connection@driver@dbdir
  )
  engine$div <- over_duckdb
  engine
}

over_duckdb <- function(a, b) sprintf("((%s) // (%s))", a, b)

duckdb_when <- function(name, from, unit, ask, call) {
  type <- type_there(name, from, "typeof", ask, call)
  seconds <- function(a) sprintf("(epoch_us(%s) / 1000000.0)", a)
  kind <- if (type == "DATE") "date" else
    if (type == "TIMESTAMP WITH TIME ZONE") "instant" else
      if (grepl("^TIMESTAMP", type)) "clock"
  if (!is.null(kind)) {
    return(new_moments(
      kind, sprintf("CAST(floor(%s) AS BIGINT)", seconds(name)),
      exact = sprintf("CAST(%s AS DOUBLE)", seconds(name)),
      usable = sprintf("isfinite(%s)", name), raw = name, of_raw = seconds
    ))
  }
  if (grepl("^(U?[A-Z]*INT|U?INTEGER|FLOAT|DOUBLE|DECIMAL.*)$", type)) {
    return(counted_moments(
      name, unit, sprintf("isfinite(CAST(%s AS DOUBLE))", name),
      list(
        ask = ask, div = over_duckdb,
        floored = function(a) sprintf("CAST(floor(%s) AS BIGINT)", a),
        real = function(a) sprintf("CAST(%s AS DOUBLE)", a)
      ), from, call
    ))
  }
  stop_no_time(name, type, "CAST(day AS DATE)", call)
}
