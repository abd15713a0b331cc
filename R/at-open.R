# Databases by their address.

# An engine over a connection of its own.
open_at <- function(address, call = caller_env()) {
  parts <- regmatches(address, regexec("^([a-z]+):(.*)$", address))[[1]]
  switch(
    if (length(parts) == 3) parts[[2]] else "none",
    sqlite = open_sqlite(parts[[3]], call),
    postgresql = open_postgres(address, call),
    clickhouse = clickhouse_engine(address_parts(address, call)),
    abort_backfill(
      "argument", sprintf(
        "`database` is %s.", quoted(without_password(address))
      ),
      i = paste(
        "It must be such as \"sqlite:FILE\", \"postgresql://HOST/BASE\" or",
        "\"clickhouse://HOST/BASE\"."
      ),
      call = call
    )
  )
}

open_sqlite <- function(path, call) {
  need_package("RSQLite", "to ask SQLite files", call)
  if (!file.exists(path) || file_format(path) != "sqlite") {
    abort_backfill(
      "file", sprintf("%s is not a SQLite file.", path), call = call
    )
  }
  ending_itself(sqlite_engine(DBI::dbConnect(
    RSQLite::SQLite(), path, flags = RSQLite::SQLITE_RO, synchronous = NULL
  )))
}

open_postgres <- function(address, call) {
  at <- address_parts(address, call)
  need_package("RPostgres", "to ask PostgreSQL", call)
  connection <- tryCatch(
    DBI::dbConnect(
      RPostgres::Postgres(), host = at$host, port = at$port, user = at$user,
      dbname = at$base, bigint = "numeric", check_interrupts = TRUE
    ),
    error = function(cnd) {
      abort_backfill(
        "database", sprintf("PostgreSQL at %s cannot be reached.", at$host),
        i = strsplit(conditionMessage(cnd), "\n")[[1]][[1]], call = call
      )
    }
  )
  ending_itself(postgres_engine(connection))
}

# list(host, port, user, base), NULL where the address leaves one out.
address_parts <- function(address, call) {
  form <- "^[a-z]+://(([^@/]*)@)?([^:/]*)(:([0-9]+))?(/([^?]*))?$"
  parts <- regmatches(address, regexec(form, address))[[1]]
  if (length(parts) == 0) {
    abort_backfill(
      "argument", sprintf(
        "`database` is %s.", quoted(without_password(address))
      ),
      i = "It must be such as \"postgresql://USER@HOST:PORT/BASE\".",
      call = call
    )
  }
  if (grepl(":", parts[[3]], fixed = TRUE)) {
    abort_backfill(
      "argument", "The address in `database` has a password in it.",
      i = "It would be seen in lists of processes, in logs and in files.",
      ">" = paste(
        "Leave it to the environment (PGPASSWORD, CLICKHOUSE_PASSWORD) or to",
        "~/.pgpass."
      ),
      call = call
    )
  }
  given <- function(i) if (nzchar(parts[[i]])) utils::URLdecode(parts[[i]])
  list(
    user = given(3), host = given(4), port = given(6), base = given(8)
  )
}

# An engine whose connection ends once nothing refers to it.
ending_itself <- function(engine) {
  engine$keeper <- new.env(parent = emptyenv())
  close <- engine$close
  reg.finalizer(engine$keeper, function(keeper) close(), onexit = TRUE)
  engine
}
