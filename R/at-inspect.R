# How records in a database are to be counted there, guessed from some of them.

# An inspection as inspect_file() gives it; `known` are arguments of
# records_at().
inspect_at <- function(database, table, known) {
  engine <- open_at(database)
  from <- source_of_table(engine, table)
  columns_there(engine, from, table)
  some <- engine$ask(sprintf("SELECT * FROM %s AS q LIMIT 20000", from))
  raw <- new_raw(some, nrow(some), list(names(some)), table, identity)
  check_rows(raw)
  guess <- guess_rows(raw)
  taken <- intersect(names(guess$arguments), names(formals(records_at)))
  guess$arguments <- utils::modifyList(
    guess$arguments[taken], known %||% list()
  )
  guess$known <- names(known)
  guess$files <- 1L
  settled <- settle_guess(guess, function(...) {
    records <- records_at(database, table, ...)
    account(records) # which asks for them
    records
  })
  first <- sprintf("%s, %s", code_text(database), code_text(table))
  structure(
    c(settled[c("columns", "arguments", "records", "problem", "notes")], list(
      file = table, call = call_lines("records_at", first, settled$arguments),
      shell = shell_lines(
        c(
          paste("--database", quoted_word(database)),
          paste("--table", quoted_word(table))
        ), settled$arguments
      )
    )),
    class = "backfill_inspection"
  )
}

# The names of its tables.
tables_at <- function(database) {
  sort(as.character(open_at(database)$tables()), method = "radix")
}
