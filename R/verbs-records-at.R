# The arguments of records_at(): its own, and those that it has in common with
# read_records().

declare_records_at <- function() {
  shared <- c(
    "table", "when", "measures", "series", "zone", "date_unit", "repeated",
    "missing", "duplicates"
  )
  of_files <- declare_read_records()$arguments
  new_verb(
    "records_at", "a database", "records",
    "Name the records in a table of a database, which stay there.",
    database = verb_argument(type_text("ADDRESS"), paste(
      "Take the records from a database instead of files, and count there:",
      "sqlite:FILE, duckdb:FILE, postgresql://USER@HOST/BASE or",
      "clickhouse://HOST/BASE, without a password. --table names the table."
    )),
    !!!of_files[shared]
  )
}
