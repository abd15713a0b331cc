# What is asked of a database over any connection: one statement that reads, in
# a transaction that cannot write or that is rolled back.

is_select <- function(table) {
  grepl("^\\s*(select|with)\\b", bare_sql(table), ignore.case = TRUE)
}

# The SELECT in `table`, without what ends it.
reading_select <- function(table) {
  bare <- bare_sql(table)
  end <- regexpr(";", bare, fixed = TRUE)
  if (end > 0 && grepl("\\S", substring(bare, end + 1))) {
    stop_statement("more than one statement")
  }
  writes <- paste0(
    "[()]\\s*(insert|update|delete|merge|replace|truncate)\\s+[a-z\"`\\[]|",
    "\\binto\\b"
  )
  if (grepl(writes, bare, ignore.case = TRUE, perl = TRUE)) {
    stop_statement("a statement that writes")
  }
  # Databases do not agree where such a text or comment ends.
  if (grepl("\\\\'|/[*]!", table)) {
    stop_statement(
      "a quotation mark behind a backslash, or a comment that some run"
    )
  }
  if (end > 0) substr(table, 1, end - 1) else table
}

stop_statement <- function(held) {
  abort_backfill(
    "argument", "`table` holds {held}.",
    i = "Reading must not change anything in a database.",
    ">" = "Give the name of a table, or one SELECT."
  )
}

# SQL with texts, names in quotes and comments blanked out.
bare_sql <- function(sql) {
  marked <- gregexpr(
    paste0(
      "(?s)'(?:[^']|'')*'|\"(?:[^\"]|\"\")*\"|`[^`]*`|",
      "\\$([A-Za-z_]*)\\$.*?\\$\\1\\$|--[^\\n]*|/\\*.*?\\*/"
    ),
    sql, perl = TRUE
  )
  regmatches(sql, marked) <- lapply(regmatches(sql, marked), function(text) {
    strrep(" ", nchar(text))
  })
  sql
}

# Runs `code`, which asks the connection, where it can change nothing.
reading_only <- function(connection, code) {
  put_back <- begin_reading(connection)
  on.exit(for (sql in put_back) works(DBI::dbExecute(connection, sql)))
  code
}

# Begins, and gives the statements that end it.
begin_reading <- function(connection) {
  tell <- function(sql) DBI::dbExecute(connection, sql)
  if (inherits(connection, "SQLiteConnection")) {
    was <- DBI::dbGetQuery(connection, "PRAGMA query_only")[[1]]
    tell("PRAGMA query_only = 1")
    return(paste("PRAGMA query_only =", was))
  }
  if (!inherits(connection, "PqConnection")) {
    begun <- works(DBI::dbBegin(connection))
    return(if (begun) "ROLLBACK")
  }
  # In a transaction of the user's own only a part of it can be ended.
  if (in_transaction(tell("SAVEPOINT backfill_reading"))) {
    tell("SET LOCAL transaction_read_only = on")
    return(paste(
      c("ROLLBACK TO SAVEPOINT", "RELEASE SAVEPOINT"), "backfill_reading"
    ))
  }
  tell("BEGIN READ ONLY")
  "ROLLBACK"
}

# Whether a savepoint could be set. A connection that is lost would be made anew
# in silence by the next statement.
in_transaction <- function(code) {
  tryCatch(
    {
      code
      TRUE
    },
    error = function(cnd) {
      lost <- "terminat|closed|lost|connection"
      if (grepl(lost, conditionMessage(cnd), ignore.case = TRUE)) stop(cnd)
      FALSE
    }
  )
}

works <- function(code) {
  tryCatch(
    {
      code
      TRUE
    },
    error = function(cnd) FALSE
  )
}
