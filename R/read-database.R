# Databases: a table or a SELECT, over a connection that the user has opened, or of a SQLite file.

read_sqlite <- function(file, form, call) {
  need_package("RSQLite", "to read SQLite files", call)
  connection <- DBI::dbConnect(RSQLite::SQLite(), file$path, flags = RSQLite::SQLITE_RO, synchronous = NULL)
  on.exit(DBI::dbDisconnect(connection))
  read_database(connection, form, call, shown = file$shown)
}

read_database <- function(connection, form, call, shown = NULL) {
  need_package("DBI", "to read databases", call)
  tables <- tryCatch(DBI::dbListTables(connection), error = identity)
  if (inherits(tables, "error")) {
    abort_backfill("file", "The database cannot be read.", i = conditionMessage(tables), call = call)
  }
  table <- form$table %||% (if (length(tables) == 1) tables)
  query <- !is.null(table) && grepl("^\\s*(select|with)\\s", table, ignore.case = TRUE)
  if (is.null(table) || (!query && !table %in% tables)) {
    what <- if (is.null(table)) "Which table of the database is to be read is not said." else
      sprintf("The database has no table %s.", quoted(table))
    abort_backfill("file", what, i = sprintf("Its tables are %s.", in_words(quoted(tables))),
                   ">" = "Name one, or give a SELECT: `table`.", call = call)
  }
  data <- tryCatch(
    if (query) DBI::dbGetQuery(connection, table) else DBI::dbReadTable(connection, table, check.names = FALSE),
    error = identity
  )
  if (inherits(data, "error")) {
    abort_backfill("file", "The database does not answer as it should.", i = conditionMessage(data), call = call)
  }
  source <- shown %||% (if (query) "query" else table)
  new_raw(lapply(as.list(data), in_one_encoding), nrow(data), list(enc2utf8(names(data))), source, identity)
}
