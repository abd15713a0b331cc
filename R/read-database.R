# Databases: a table or a SELECT, over a connection that the user has opened, or
# of a SQLite file.

read_sqlite <- function(file, form) {
  need_package("RSQLite", "to read SQLite files")
  connection <- connect_sqlite(file$path)
  on.exit(DBI::dbDisconnect(connection))
  read_database(connection, form, shown = file$shown)
}

# A SELECT may come from anywhere: it must neither write nor load code.
connect_sqlite <- function(path) {
  DBI::dbConnect(
    RSQLite::SQLite(), path, flags = RSQLite::SQLITE_RO, synchronous = NULL,
    loadable.extensions = FALSE
  )
}

read_database <- function(connection, form, shown = NULL) {
  need_package("DBI", "to read databases")
  tables <- tryCatch(DBI::dbListTables(connection), error = identity)
  if (inherits(tables, "error")) {
    abort_backfill(
      "file", "The database cannot be read.",
      i = "{conditionMessage(tables)}"
    )
  }
  table <- form$table %||% (if (length(tables) == 1) tables)
  query <- !is.null(table) && is_select(table)
  if (is.null(table) || (!query && !table %in% tables)) {
    what <-
      if (
        is.null(table)
      ) "No table of the database is named." else
        sprintf("The database has no table %s.", quoted(table))
    abort_backfill(
      "file", "{what}",
      i = "Its tables are {in_words(quoted(tables))}.",
      ">" = "Name one, or give a SELECT: `table`."
    )
  }
  if (query) table <- reading_select(table)
  data <- tryCatch(
    reading_only(connection, fetch_rows(connection, table, query)),
    error = identity
  )
  if (inherits(data, "error")) {
    abort_backfill(
      "file", "The database does not answer as it should.",
      i = "{conditionMessage(data)}"
    )
  }
  source <- shown %||% (if (query) "query" else table)
  new_raw(
    lapply(as.list(data), in_one_encoding), nrow(data),
    list(enc2utf8(names(data))), source, identity
  )
}

# SQLite holds values of any type in any column; where one holds several, all of
# it is read as text, so that none becomes a 0.
fetch_rows <- function(connection, table, query) {
  mixed <- character()
  data <- withCallingHandlers(
    if (query) {
      DBI::dbGetQuery(connection, table)
    } else {
      DBI::dbReadTable(connection, table, check.names = FALSE)
    },
    warning = function(cnd) {
      found <- regmatches(
        conditionMessage(cnd),
        regexec("^Column `(.*)`: mixed type", conditionMessage(cnd))
      )[[1]]
      if (length(found) == 2) {
        mixed <<- c(mixed, found[[2]])
        rlang::cnd_muffle(cnd)
      }
    }
  )
  if (length(mixed) == 0) {
    return(data)
  }
  name <- as.character(DBI::dbQuoteIdentifier(connection, names(data)))
  from <- if (query) {
    sprintf("(%s\n)", table)
  } else {
    DBI::dbQuoteIdentifier(connection, table)
  }
  columns <- ifelse(
    names(data) %in% mixed, sprintf("CAST(%s AS TEXT) AS %s", name, name), name
  )
  DBI::dbGetQuery(
    connection,
    sprintf("SELECT %s FROM %s", paste(columns, collapse = ", "), from)
  )
}
