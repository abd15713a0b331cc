#' Records where they live
#'
#' Names the records in a table of a database, or in what a `SELECT` gives,
#' without reading them. [roll_up()] then counts where the records are: the
#' database groups them by series and period, and only its totals come back. So
#' do [account()] and [keep_dates()]. Everything after works on the periods as
#' ever.
#'
#' The calendar is the package's own, whatever the database: its zones, fiscal
#' years, working days and holidays are written into the query as arithmetic of
#' whole numbers, so that the periods are those of the same records in memory.
#' Counts, slots and standings are the same, sums the same but for the order in
#' which the database adds. Nothing is written there: the right to read is
#' enough, and a connection made from an address can do no more.
#'
#' @section Databases: SQLite through RSQLite, DuckDB through duckdb (a `SELECT`
#'   over a connection of your own may name Parquet files; one made from an
#'   address reads no other file), PostgreSQL (12 and later) through RPostgres,
#'   and ClickHouse through its HTTP interface, which needs curl. The standard
#'   deviation, first, last, median and quantiles are exact: the database puts
#'   the values of each period in order. What cannot be done is refused: returns
#'   in a SQLite file that is named by its address, since such a connection
#'   loads no extension and has no logarithm then. For a counter ClickHouse
#'   holds the readings of each series in an array, about 330 bytes each. Where
#'   the rises of a counter are spread, the readings beside its gaps come back.
#'
#' @section Times: A column of dates, of times with a zone, of times without
#'   one, which the clock of `zone` shows, of days as eight digits (20310709),
#'   or of other numbers, with `date_unit`. In SQLite times are text of ISO 8601
#'   as well. What cannot be read is set aside and counted, as are serial days
#'   with a part of a day. A time that daylight saving repeats needs `repeated`,
#'   since a table has no order of rows.
#'
#' @section Passwords: An address with a password in it is refused. The drivers
#'   take it from the environment or from their own files: `PGPASSWORD` or
#'   `~/.pgpass` for PostgreSQL; `CLICKHOUSE_USER` and `CLICKHOUSE_PASSWORD` for
#'   ClickHouse.
#'
#' @param database A connection of RSQLite, duckdb or RPostgres; or an address:
#'   `"sqlite:FILE"`, `"duckdb:FILE"`, `"postgresql://USER@HOST:PORT/BASE"` or
#'   `"clickhouse://HOST:PORT/BASE"`.
#' @param table Name of a table, such as `"crossings"` or `"harbour.crossings"`,
#'   or a `SELECT`.
#' @param when Name of the column with the date or time.
#' @param measures,series,zone,date_unit,repeated,missing As in
#'   [read_records()]; `repeated` is `NULL`, `"first"` or `"second"`, and the
#'   codes for a missing value are numbers.
#' @param duplicates `"error"` where two records of one series and time are a
#'   mistake, which costs a pass over them, or `"keep"` where each is an event
#'   of its own.
#' @return Records that are not in memory, which print as what they are.
#' @section Errors: `backfill_error_database` where the database does not answer
#'   as it should, with what it said; `backfill_error_changed` where the table
#'   changed while it was counted; `backfill_error_column`,
#'   `backfill_error_when`, `backfill_error_duplicates`,
#'   `backfill_error_argument`; `backfill_error_engine` for what the database
#'   cannot do exactly.
#' @seealso [read_records()], which reads the rows of a database.
#' @examplesIf requireNamespace("RSQLite", quietly = TRUE)
#' base <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
#' inns <- data.frame(
#'   month = rep(c("2031-01-01", "2031-02-01", "2031-03-01"), 2),
#'   inn = rep(c("Anchor", "Lantern"), each = 3),
#'   guest_nights = c(2310, 2280, 2455, 1822, 1790, 1934)
#' )
#' DBI::dbWriteTable(base, "inns", inns)
#' nights <- records_at(base, "inns",
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' nights
#' roll_up(nights, every = "quarter")
#' DBI::dbDisconnect(base)
#' @export
records_at <- function(
  database, table, when, measures, series = NULL, zone = "UTC",
  date_unit = NULL, repeated = NULL, missing = NULL, duplicates = "error"
) {
  check_given()
  measures <- check_measures(measures)
  check_zone(zone)
  check_one_of(duplicates, c("error", "keep"), "duplicates")
  for (given in list(list(date_unit, "date_unit", names(date_units)),
                     list(repeated, "repeated", c("first", "second")))) {
    if (!is.null(given[[1]])) {
      check_one_of(given[[1]], given[[3]], given[[2]])
    }
  }
  if (!rlang::is_string(table) || !nzchar(table)) {
    abort_backfill(
      "argument", "`table` is {value_in_words(table)}; it must be one text."
    )
  }
  need_package("DBI", "to ask databases")
  engine <- if (rlang::is_string(database)) {
    open_at(database)
  } else {
    engine_of(database)
  }
  engine <- with_codes(engine, missing)
  from <- source_of_table(engine, table)
  there <- columns_there(engine, from, table)
  check_roles_there(there, when, measures, series)
  moments <- engine$when(engine, engine$name(when), from, date_unit)
  new_records_at(engine, from, table, names(there), moments, list(
    when = when, series = renamed_series(series), measures = measures,
    zone = zone, columns = series, repeated = repeated, duplicates = duplicates,
    coded = !is.null(missing)
  ))
}

# An engine to which the codes for missing values are no figures.
with_codes <- function(engine, codes) {
  if (is.null(codes)) {
    return(engine)
  }
  number <- code_numbers(codes)
  if (length(number) < length(codes) || length(codes) == 0) {
    abort_backfill(
      "argument",
      "`missing` is {value_in_words(codes)}; in a database it must be numbers."
    )
  }
  plain <- engine$figure
  engine$figure <- function(name) {
    figure <- plain(name)
    sprintf(
      "CASE WHEN %s IN (%s) THEN NULL ELSE %s END", figure,
      listed(as_digits(number)), figure
    )
  }
  engine$lacks <- function(name) sprintf("%s IS NULL", engine$figure(name))
  engine
}

# Records elsewhere: an attribute "backfill" with the roles as a records table
# has them, the `columns` of the series there, and `at`, list(engine, from,
# table, there, moments, keep): the rows as SQL, the columns there, and the
# rules of keep_dates().
new_records_at <- function(engine, from, table, there, moments, roles) {
  roles$at <- list(
    engine = engine, from = from, table = table, there = there,
    moments = moments,
    keep = list()
  )
  roles$sources <- c(if (is_select(table)) "query" else table, engine$file)
  structure(list(table = table), class = "backfill_records_at",
            backfill = roles)
}

# A SELECT in brackets, or a name, of which a dot parts the schema, and whose
# parts may stand in quotation marks as SQL has them.
source_of_table <- function(engine, table) {
  if (is_select(table)) {
    return(sprintf("(%s\n)", reading_select(table)))
  }
  marked <- "^(\"([^\"]|\"\")+\"|[^\".]+)([.](\"([^\"]|\"\")+\"|[^\".]+))*$"
  parts <- if (grepl(marked, table)) {
    found <- regmatches(
      table, gregexpr("\"([^\"]|\"\")+\"|[^\".]+", table)
    )[[1]]
    gsub("\"\"", "\"", sub("^\"(.*)\"$", "\\1", found))
  } else {
    strsplit(table, ".", fixed = TRUE)[[1]]
  }
  paste(engine$name(parts), collapse = ".")
}

columns_there <- function(engine, from, table) {
  tryCatch(
    engine$ask(sprintf("SELECT * FROM %s AS q LIMIT 0", from)),
    backfill_error_database = function(cnd) {
      if (inherits(cnd, "backfill_error_unreached")) {
        rlang::cnd_signal(cnd)
      }
      abort_backfill(
        "database",
        if (is_select(table)) {
          "The SELECT in `table` cannot be run."
        } else {
          "`table` is {quoted(table)}, which cannot be read."
        },
        i = "{reason_of(cnd)}",
        i = if (!is_select(table)) "{table_meant(engine, table)}"
      )
    }
  )
}

# Which table may be meant; NULL where none is near, or none can be listed.
table_meant <- function(engine, table) {
  known <- tryCatch(
    as.character(engine$tables()), error = function(cnd) character()
  )
  word_meant(table, known) %||% if (length(known) > 0) sprintf(
    "%s %s.", if (length(known) == 1) "Its table is" else "Its tables are",
    in_words(quoted(known), 8)
  )
}

check_roles_there <- function(there, when, measures, series) {
  if (!rlang::is_string(when)) {
    abort_backfill(
      "argument", "`when` is {value_in_words(when)}; it must name a column."
    )
  }
  counted <- counted_names(measures)
  if (length(counted) > 0) {
    abort_backfill(
      "argument",
      "\"{counted[[1]]}\" counts the rows, which is done where records are",
      "read.",
      ">" = "Name a column of figures and roll up with `use = \"count\"`, or",
      "read the table by read_records()."
    )
  }
  wanted <- list(
    when = when, series = series, measures = names(plain_measures(measures))
  )
  for (argument in names(wanted)) {
    check_columns(wanted[[argument]], there, "The table", argument)
  }
}

#' @export
check_source.backfill_records_at <- function(x) x
