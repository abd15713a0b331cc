# The records table: a tibble of the rows that were used, whose attribute
# "backfill" tells the roles of its columns (`when`, `series`, `measures`, and
# `known`, if any), the zone of its times, the account of the intake, in which
# month a fiscal year starts (`year_start`), the rules of dates that were
# `kept`, and a `mark` of what was read.

new_records <- function(
  data, when, series, measures, zone, account, known = NULL, year_start = NULL,
  kept = NULL
) {
  new_table(
    data, "records", needed = c(when, series, names(measures), known),
    list(
      when = when, series = series, measures = measures, zone = zone,
      account = account, known = known, year_start = year_start, kept = kept,
      mark = fingerprint_cpp(
        unname(as.list(data)[c(when, series, names(measures))])
      )
    )
  )
}

is_records <- function(x) inherits(x, "backfill_records")

# The lowest and the highest time, as ends_cpp() gives them.
check_records <- function(x) {
  check_given()
  if (!is_records(x)) {
    stop_no_records(x)
  }
  if (nrow(x) > (facts(x)$rows %||% Inf)) {
    stop_doubled(x)
  }
  when <- x[[facts(x)$when]]
  ends <- if (
    inherits(when, c("Date", "POSIXct")) &&
      typeof(when) %in% c("integer", "double")
  ) ends_cpp(when)
  if (!isTRUE(ends$known)) {
    abort_backfill(
      "input",
      "Column \"{facts(x)$when}\" must hold a date or a time in every row."
    )
  }
  invisible(ends)
}

stop_doubled <- function(x) {
  read <- facts(x)$rows
  abort_backfill(
    "input",
    "The table has {count_of(nrow(x), 'row')}, but {thousands(read)}",
    "{if (read == 1) 'was' else 'were'} read: some stand twice.",
    i = "A join by a key that is not unique doubles rows, and so their sums.",
    ">" = "Join by a unique key, as add_attributes() does, or make records of",
    "the new table with as_records()."
  )
}

stop_no_records <- function(x) {
  if (is_elsewhere(x)) {
    abort_backfill(
      "input", "`x` are records in a database, of which this is not made.",
      ">" = "Let a SELECT do it, in `table` of records_at(), or read the rows",
      "with read_records()."
    )
  }
  abort_backfill(
    "input", "`x` is {value_in_words(x)}, not a records table.",
    ">" = "Make one with read_records() from a file, or with as_records() from",
    "a data frame."
  )
}
