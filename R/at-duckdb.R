# DuckDB, in a file or in memory; its SELECTs may read files of Parquet as well.

duckdb_engine <- function(connection) {
  engine <- new_engine(
    "DuckDB", connection,
    whole = function(a) sprintf("CAST(%s AS BIGINT)", a),
    real = function(a) sprintf("CAST(%s AS DOUBLE)", a),
    figure = function(name) {
      sprintf("NULLIF(CAST(%s AS DOUBLE), CAST('NaN' AS DOUBLE))", name)
    },
    floored = function(a) sprintf("CAST(floor(%s) AS BIGINT)", a),
    when = duckdb_when,
    key_text = function(name) sprintf("CAST(%s AS VARCHAR)", name),
    log = "ln", look_up = join_values("v.col%d", 0),
    file = if (file.exists(connection@driver@dbdir)) connection@driver@dbdir
  )
  engine$div <- function(a, b) sprintf("((%s) // (%s))", a, b)
  engine
}

duckdb_when <- function(engine, name, from, unit) {
  type <- type_there(name, from, "typeof", engine$ask)
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
      engine, name, from, sprintf("isfinite(CAST(%s AS DOUBLE))", name), unit
    ))
  }
  stop_no_time(name, type, "CAST(day AS DATE)")
}
