#' Keep a result in a file
#'
#' `write_periods()` writes a periods table, or another result such as a
#' seasonal index, its worksheet, a profile or a ranking, with every column and
#' row. `read_periods()` reads it back as what it was: the same kinds, units,
#' calendar, standings and notes on its calculations, so that every verb gives
#' the same as before.
#'
#' Dates are ISO 8601, missing values are blank (`null` in JSON), and numbers in
#' CSV, JSON and Parquet have as many digits as it takes to read back exactly
#' the same ones; a workbook keeps 16. In CSV a text that a spreadsheet would
#' take for a formula, as it starts with `=`, `+`, `-` or `@`, has an apostrophe
#' before it, which `read_periods()` takes off. The file is written beside its
#' target and renamed into place, so that a failure leaves nothing half-written
#' behind.
#'
#' @section Where the facts are: Beside `NAME.csv`, in `NAME.csv-metadata.json`,
#'   which describes the columns by the standard for CSV on the Web; in the
#'   second sheet of a workbook; in the file's own metadata in Parquet; in the
#'   first line of JSON Lines, an object whose one key is a term of ours and
#'   whose value has the `class`, the sort of each of the `columns`, the number
#'   of `rows` and the `facts`, and below which each line is a row. JSON has the
#'   rows alone and is not read back. A CSV file that was changed after it was
#'   written is read with a warning.
#'
#' @param x A periods table, from [roll_up()], or another table that this
#'   package made.
#' @param file Path of the file, whose ending says what it is: `.csv`, `.json`
#'   (an array of objects), `.jsonl` (JSON Lines, as commands hand on to each
#'   other), `.xlsx` (a workbook) or `.parquet`. A file that is there is
#'   replaced, unless the records were read from it.
#' @param metadata `FALSE` leaves out the file of metadata beside a CSV file,
#'   which then cannot be read back.
#' @return `write_periods()`: `x`, invisibly. `read_periods()`: the table, of
#'   the class that it had.
#' @section Errors: `backfill_error_input` where `x` is not a table of this
#'   package; `backfill_error_file` for another ending, where the folder is not
#'   there or cannot be written to, where `file` is the one that the records
#'   came from, and where what is read was not written by this package or is
#'   damaged.
#' @references W3C (2015). *Metadata Vocabulary for Tabular Data*.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' file <- tempfile(fileext = ".csv")
#' write_periods(roll_up(nights, every = "quarter"), file)
#' readLines(file, n = 3)
#' add_growth(read_periods(file))
#' @export
write_periods <- function(x, file, metadata = TRUE) {
  check_given()
  if (!inherits(x, "backfill_table")) {
    abort_backfill(
      "input",
      "`x` is {value_in_words(x)}, not a periods table or another result.",
      ">" = "roll_up() makes a periods table."
    )
  }
  check_flag(metadata, "metadata")
  check_output(file, sources_of(x))
  check_table_type(file)
  if (has_metadata_beside(file, metadata)) {
    check_output(metadata_file(file), sources_of(x))
  }
  write_table(x, file, metadata)
  invisible(x)
}

table_types <- c("csv", "json", "jsonl", "xlsx", "parquet")

check_table_type <- function(file) {
  type <- file_type(file)
  if (!type %in% table_types) {
    abort_backfill(
      "file", "{file} ends in none of {in_words(paste0('.', table_types))}."
    )
  }
  if (type == "xlsx") {
    need_package("writexl", "to write a workbook")
    need_package("zip", "to write a workbook")
  }
  if (type == "parquet") {
    need_package("nanoparquet", "to write Parquet")
  }
}

# A pipe has nothing beside it.
has_metadata_beside <- function(file, metadata = TRUE) {
  metadata && file_type(file) == "csv" && file_kind_cpp(file) != "other"
}

# The metadata is put in place first; until its table is, the sum in it tells
# that it is of another.
write_table <- function(x, file, metadata = TRUE) {
  put <- function(path) put_table(x, path, file_type(file))
  metadata <- metadata && inherits(x, "backfill_table")
  if (!has_metadata_beside(file, metadata)) {
    return(write_beside(file, put))
  }
  put_both <- function(path) {
    put(path)
    write_beside(
      metadata_file(file),
      function(at) put_metadata(x, at, basename(file), path)
    )
  }
  write_beside(file, put_both)
}

put_metadata <- function(x, path, shown, table) {
  writeLines(
    table_metadata(x, shown, unname(tools::md5sum(table))), path,
    useBytes = TRUE
  )
}

# Rows as CSV, JSON, lines of it, a workbook or Parquet.
put_table <- function(x, path, type) {
  columns <- written_columns(x)
  switch(
    type, csv = put_csv(columns, path),
    json = writeLines(rows_json(columns), path, useBytes = TRUE),
    jsonl = put_lines(columns, c(own_facts(x), rows = nrow(columns)), path),
    xlsx = put_workbook(columns, own_facts(x), path),
    parquet = put_parquet(columns, own_facts(x), path)
  )
}
