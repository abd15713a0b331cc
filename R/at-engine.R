# What the engines that records lie in can say. Each is made by a constructor of
# its own, as list(label, ...):
#   ask(sql)      the rows that a SELECT gives, as a data frame
#   tables()      the names of its tables
#   close()       ends the connection; file: where it lies, if in one
#   name, text    a name, or a text, quoted
#   div(a, b)     the quotient of whole numbers, none of them below 0
#   whole, real   an expression as a whole number of 64 bits, as a double
#   floored       the whole number below an expression
#   figure(name)  a column of figures as doubles, NULL where there is none
#   lacks(name)   the condition that there is none
#   odd(name)     the condition that a column holds something else than numbers,
#                 NULL where its type or an error of the engine rules that out
#   when          how a column holds times: a function of the engine, the
#                 column's name, `from` and `unit`, see new_moments()
#   log           the name of the natural logarithm, NULL where it has none
#   look_up(steps, keys, values)  steps with whole numbers by the texts in the
#                 columns that the keys are named after
#   put_together  makes one SELECT of steps, see new_steps()
#   ordered       how it puts values in order, see ordered_by_windows
# Expressions are texts of SQL. Whatever comes from a user's table or arguments
# goes through `name` and `text`.

# An engine over a connection of DBI, which quotes as its driver knows.
new_engine <- function(label, connection, figure, ...) {
  list(
    label = label,
    ask = function(sql) ask_connection(connection, sql, label),
    tables = function() DBI::dbListTables(connection),
    close = function() DBI::dbDisconnect(connection),
    name = function(x) {
      as.character(
        DBI::dbQuoteIdentifier(connection, enc2utf8(as.character(x)))
      )
    },
    text = function(x) {
      as.character(DBI::dbQuoteString(connection, enc2utf8(as.character(x))))
    },
    div = function(a, b) sprintf("((%s) / (%s))", a, b),
    figure = figure,
    lacks = function(name) sprintf("%s IS NULL", figure(name)),
    put_together = named_in_turn, ordered = ordered_by_windows, ...
  )
}

# Rows as plain columns: whole numbers of 64 bits become doubles. SQLite would
# make a 0 of text in a column that starts with numbers.
ask_connection <- function(connection, sql, label) {
  data <- tryCatch(
    withCallingHandlers(
      reading_only(connection, DBI::dbGetQuery(connection, sql)),
      warning = function(cnd) {
        if (grepl("mixed type", conditionMessage(cnd))) {
          stop(cnd)
        }
        rlang::cnd_muffle(cnd)
      }
    ),
    error = function(cnd) {
      again_if_interrupted(cnd)
      stop_engine(label, conditionMessage(cnd))
    },
    warning = function(cnd) {
      abort_backfill(
        "column",
        "A column that tells series or groups apart holds numbers and text.",
        ">" = "Give a SELECT that makes one of them: CAST(name AS TEXT)."
      )
    }
  )
  long <- vapply(data, inherits, NA, "integer64")
  if (any(long)) {
    need_package("bit64", "to read 64-bit integers")
    data[long] <- lapply(data[long], bit64::as.double.integer64)
  }
  vctrs::new_data_frame(lapply(as.list(data), in_one_encoding), nrow(data))
}

# Drivers make errors of interrupts, which whoever catches errors would pass
# over.
again_if_interrupted <- function(cnd) {
  said <- c(
    "user request", "interrupted by user", "aborted by an application callback",
    "Operation was aborted"
  )
  if (any(vapply(said, grepl, NA, conditionMessage(cnd), fixed = TRUE))) {
    rlang::interrupt()
  }
}

stop_engine <- function(label, reason) {
  too_large <- grepl("out of range|overflow", reason)
  abort_backfill(
    "database", "{label} does not answer as it should.",
    i = if (nzchar(reason)) "{sub('\n.*', '', reason)}" else "It says nothing.",
    ">" = if (too_large) {
      paste(
        "A sum is larger than a number can be. Read the rows with",
        "read_records(), which withholds such a sum and keeps the others."
      )
    } else {
      "Nothing was changed there; once it answers, ask again."
    }
  )
}

# What the engine said.
reason_of <- function(cnd) {
  sub("^\\S+ ", "", strsplit(conditionMessage(cnd), "\n")[[1]][[2]])
}

# The engine of an open connection.
engine_of <- function(connection) {
  if (inherits(connection, "SQLiteConnection")) {
    return(sqlite_engine(connection))
  }
  if (inherits(connection, "PqConnection")) {
    return(postgres_engine(connection))
  }
  if (inherits(connection, "duckdb_connection")) {
    return(duckdb_engine(connection))
  }
  abort_backfill(
    "argument",
    "`database` is {value_in_words(connection)}, in which nothing can be",
    "counted.",
    i = "It must be a connection of RSQLite, duckdb or RPostgres, or an",
    "address such as \"sqlite:FILE\", \"duckdb:FILE\",",
    "\"postgresql://HOST/BASE\" or \"clickhouse://HOST/BASE\".",
    ">" = "read_records() reads the rows of any connection of DBI."
  )
}

# Steps as a list of queries with names, in which a parser need not go deep.
# `first` says how the first of them is to be made.
named_in_turn <- function(steps, first = "") {
  before <- sprintf("q%d", seq_along(steps) - 1)
  texts <- vapply(steps, step_text, "")
  steps <- mapply(sub, "@", before, texts, MoreArgs = list(fixed = TRUE))
  last <- length(steps)
  if (last == 1) {
    return(steps[[1]])
  }
  paste(
    "WITH", listed(sprintf(
      "q%d AS %s(%s)", seq_len(last - 1), c(first, rep("", last - 2)),
      steps[-last]
    )),
    steps[[last]]
  )
}

listed <- function(x) paste(x, collapse = ", ")
