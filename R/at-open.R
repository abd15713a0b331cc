# Databases by their address.

# An engine over a connection of its own.
open_at <- function(address) {
  parts <- regmatches(address, regexec("^([a-z]+):(.*)$", address))[[1]]
  switch(
    if (length(parts) == 3) parts[[2]] else "none",
    sqlite = open_sqlite(parts[[3]]), duckdb = open_duckdb(parts[[3]]),
    postgresql = , postgres = open_postgres(address), clickhouse = ,
    clickhouses = clickhouse_engine(address_parts(address)),
    abort_backfill(
      "argument", "`database` is {quoted(address_shown(address))}.",
      i = "It must be such as \"sqlite:FILE\", \"duckdb:FILE\",",
      "\"postgresql://HOST/BASE\" or \"clickhouse://HOST/BASE\"."
    )
  )
}

# How the addresses of databases begin that are files.
file_bases <- "^(sqlite|duckdb):"

open_sqlite <- function(path) {
  need_package("RSQLite", "to ask SQLite files")
  if (!file.exists(path) || file_format(path) != "sqlite") {
    abort_backfill("file", "{path} is not a SQLite file.")
  }
  ending_itself(sqlite_engine(connect_sqlite(path)))
}

# A SELECT may come from anywhere: it reads this file and no other, and loads no
# code.
open_duckdb <- function(path) {
  need_package("duckdb", "to ask DuckDB files")
  if (!file.exists(path)) {
    abort_backfill("file", "There is no file {path}.")
  }
  connection <- tryCatch(
    DBI::dbConnect(
      suppressMessages(duckdb::duckdb()), dbdir = path, read_only = TRUE,
      config = list(
        enable_external_access = "false", lock_configuration = "true"
      )
    ),
    error = function(cnd) {
      abort_backfill(
        "file", "{path} cannot be opened by DuckDB.",
        i = "{strsplit(conditionMessage(cnd), '\n')[[1]][[1]]}"
      )
    }
  )
  ending_itself(duckdb_engine(connection))
}

open_postgres <- function(address) {
  at <- address_parts(address)
  need_package("RPostgres", "to ask PostgreSQL")
  given <- Filter(Negate(is.null), list(
    host = at$host, port = at$port, user = at$user, dbname = at$base,
    sslmode = at$sslmode
  ))
  # The driver asks R for the session's zone, and R programs that may complain.
  if (!nzchar(Sys.getenv("TZ"))) {
    Sys.setenv(TZ = "UTC")
    on.exit(Sys.unsetenv("TZ"))
  }
  connection <- tryCatch(
    rlang::inject(DBI::dbConnect(
      RPostgres::Postgres(), !!!given, bigint = "numeric",
      check_interrupts = TRUE,
      # A SELECT may come from anywhere, and must not write.
      options = "-c default_transaction_read_only=on"
    )),
    error = function(cnd) {
      stop_unreached(
        "PostgreSQL", at, strsplit(conditionMessage(cnd), "\n")[[1]][[1]]
      )
    }
  )
  prefer_hashing(connection)
  ending_itself(postgres_engine(connection))
}

# A server that is down, or lets nobody in by that name and password, is no
# fault of the table that was asked for.
stop_unreached <- function(label, at, reason) {
  shut <- grepl("password|authenti|not allowed|pg_hba", reason, TRUE)
  abort_backfill(
    c("unreached", "database"),
    "{label} at {at$host %||% 'this machine'}",
    "{if (shut) 'lets nobody in so' else 'cannot be reached'}.",
    i = "{reason}",
    ">" = if (shut) {
      paste(
        "Name the user in the address, and leave the password to the",
        "environment: PGPASSWORD or ~/.pgpass, CLICKHOUSE_PASSWORD."
      )
    } else {
      "See whether it runs, and whether host and port are right."
    }
  )
}

# It takes periods for as many as there are times, and would sort all rows. From
# version 13 on groups that do not fit into memory go to disk.
prefer_hashing <- function(connection) {
  version <- DBI::dbGetQuery(connection, "SHOW server_version_num")[[1]]
  if (as.numeric(version) >= 130000) {
    for (setting in c(
      "enable_sort = off", "parallel_tuple_cost = 0", "parallel_setup_cost = 0"
    )) {
      DBI::dbExecute(connection, paste("SET", setting))
    }
  }
}

# list(scheme, host, port, user, base, sslmode), NULL where the address leaves
# one out. An address of version 6 stands in brackets.
address_parts <- function(address) {
  if (has_secret(address)) {
    abort_backfill(
      "argument", "The address in `database` has a password in it.",
      i = "It would be seen in lists of processes, in logs and in files.",
      ">" = "Leave it to the environment (PGPASSWORD, CLICKHOUSE_PASSWORD) or",
      "to ~/.pgpass."
    )
  }
  form <- paste0(
    "^([a-z]+)://(?:([^@/]*)@)?(\\[[0-9A-Fa-f:.]+\\]|[^:/?]*)(?::([0-9]+))?",
    "(?:/([^?]*))?(?:[?]sslmode=([a-z-]+))?$"
  )
  parts <- regmatches(address, regexec(form, address, perl = TRUE))[[1]]
  of_postgres <- startsWith(address, "postgres")
  if (length(parts) == 0 || nzchar(parts[[7]]) && !of_postgres) {
    abort_backfill(
      "argument", "`database` is {quoted(address_shown(address))}.",
      i = "It must be such as \"postgresql://USER@HOST:PORT/BASE\".",
      i = if (of_postgres) "Behind it may stand ?sslmode=require, and no more."
    )
  }
  given <- function(i) if (nzchar(parts[[i]])) utils::URLdecode(parts[[i]])
  list(
    scheme = parts[[2]], user = given(3), port = given(5), base = given(6),
    host = if (nzchar(parts[[4]])) gsub("^\\[|\\]$", "", given(4)),
    sslmode = given(7)
  )
}

# Of an address no more than what cannot hold a secret.
address_shown <- function(address) sub("(://|=|@).*", "\\1...", address)

# An engine whose connection ends once nothing refers to it.
ending_itself <- function(engine) {
  engine$keeper <- new.env(parent = emptyenv())
  close <- engine$close
  reg.finalizer(engine$keeper, function(keeper) close(), onexit = TRUE)
  engine
}
