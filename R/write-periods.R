#' Keep a result in a file
#'
#' `write_periods()` writes a periods table, or another result such as a
#' seasonal index, its worksheet, a profile or a ranking, with every column and
#' row. `read_periods()` reads it back as what it was: the same kinds, units,
#' calendar, standings and notes on its calculations, so that every verb gives
#' the same as before.
#'
#' Dates are ISO 8601, missing values are blank, and numbers in CSV, JSON and
#' Parquet have as many digits as it takes to read back exactly the same ones; a
#' workbook keeps 16. In CSV a text that a spreadsheet would take for a formula,
#' as it starts with `=`, `+`, `-` or `@`, has an apostrophe before it, which
#' `read_periods()` takes off. The file is written beside its target and renamed
#' into place, so that a failure leaves nothing half-written behind.
#'
#' @section Where the facts are: Beside `NAME.csv`, in `NAME.csv-metadata.json`,
#'   which describes the columns by the standard for CSV on the Web; in the
#'   second sheet of a workbook; in the file's own metadata in Parquet. JSON has
#'   the rows alone and is not read back. A CSV file that was changed after it
#'   was written is read with a warning.
#'
#' @param x A periods table, from [roll_up()], or another table that this
#'   package made.
#' @param file Path of the file, whose ending says what it is: `.csv`, `.json`
#'   (an array of objects), `.xlsx` (a workbook) or `.parquet`. A file that is
#'   there is replaced, unless the records were read from it.
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
  if (!inherits(x, "backfill_table")) {
    abort_backfill(
      "input",
      sprintf(
        "`x` is %s, not a periods table or another result.", value_in_words(x)
      ),
      ">" = "roll_up() makes a periods table."
    )
  }
  check_flag(metadata, "metadata")
  check_output(file, sources_of(x))
  check_table_type(file)
  if (has_metadata_beside(file, metadata)) {
    check_output(metadata_file(file), sources_of(x))
  }
  write_table(x, file, metadata, current_env())
  invisible(x)
}

table_types <- c("csv", "json", "xlsx", "parquet")

check_table_type <- function(file, call = caller_env()) {
  type <- file_type(file)
  if (!type %in% table_types) {
    abort_backfill(
      "file", sprintf(
        "%s ends in none of %s.", file, in_words(paste0(".", table_types))
      ),
      call = call
    )
  }
  if (type == "xlsx") {
    need_package("writexl", "to write a workbook", call = call)
    need_package("zip", "to write a workbook", call = call)
  }
  if (type == "parquet") {
    need_package("nanoparquet", "to write Parquet", call = call)
  }
}

# A pipe has nothing beside it.
has_metadata_beside <- function(file, metadata = TRUE) {
  metadata && file_type(file) == "csv" && file_kind_cpp(file) != "other"
}

# The metadata is put in place first; until its table is, the sum in it tells
# that it is of another.
write_table <- function(x, file, metadata = TRUE, call = caller_env()) {
  put <- function(path) put_table(x, path, file_type(file))
  metadata <- metadata && inherits(x, "backfill_table")
  if (!has_metadata_beside(file, metadata)) {
    return(write_beside(file, put, call))
  }
  put_both <- function(path) {
    put(path)
    write_beside(
      metadata_file(file),
      function(at) put_metadata(x, at, basename(file), path), call
    )
  }
  write_beside(file, put_both, call)
}

put_metadata <- function(x, path, shown, table) {
  writeLines(
    table_metadata(x, shown, unname(tools::md5sum(table))), path,
    useBytes = TRUE
  )
}

# Rows as CSV, JSON, a workbook or Parquet.
put_table <- function(x, path, type) {
  columns <- written_columns(x)
  switch(
    type, csv = put_csv(harmless(exact_text(columns)), path),
    json = writeLines(rows_json(columns), path, useBytes = TRUE),
    xlsx = put_workbook(columns, own_facts(x), path),
    parquet = put_parquet(columns, own_facts(x), path)
  )
}

# A file has columns for reading that a table makes when it is asked.
written_columns <- function(x) {
  plain_tibble(if (inherits(x, "backfill_flags")) with_reasons(x) else x)
}

put_workbook <- function(columns, facts, path) {
  instants <- vapply(columns, inherits, NA, "POSIXct")
  columns[instants] <- lapply(columns[instants], instant_text)
  writexl::write_xlsx(
    list(table = columns, about = text_in_cells(facts_json(facts))), path
  )
  without_date(path)
}

# A workbook tells when it was made, so that no two would be alike.
without_date <- function(path) {
  folder <- tempfile("workbook-")
  on.exit(unlink(folder, recursive = TRUE))
  zip::unzip(path, exdir = folder)
  core <- file.path(folder, "docProps", "core.xml")
  text <- readLines(core, warn = FALSE)
  writeLines(sub("<dcterms:.*</dcterms:[a-z]+>", "", text), core)
  files <- zip::zip_list(path)$filename
  Sys.setFileTime(
    file.path(folder, files), as.POSIXct("1980-01-01 12:00:00")
  )
  zip::zip(path, files, root = folder, include_directories = FALSE)
}

# A cell holds no more than 32,767 characters.
text_in_cells <- function(text, most = 32000) {
  from <- seq(1, nchar(text), most)
  data.frame(metadata = substring(text, from, from + most - 1))
}

put_parquet <- function(columns, facts, path) {
  nanoparquet::write_parquet(
    columns, path, metadata = c(backfill = facts_json(facts))
  )
}

facts_json <- function(facts) {
  as.character(jsonlite::toJSON(
    facts, auto_unbox = TRUE, null = "null", na = "null", digits = NA
  ))
}

# A file that is cut where a line ends looks whole, so its last row is looked
# for.
put_csv <- function(columns, path) {
  write <- function(columns, path, ...) {
    data.table::fwrite(
      columns, path, ..., quote = "auto", na = "", verbose = FALSE
    )
  }
  write(columns, path)
  rows <- length(columns[[1]])
  if (rows > 0) {
    alone <- tempfile()
    on.exit(unlink(alone))
    write(lapply(columns, `[`, rows), alone, col.names = FALSE)
    last <- last_bytes(alone, Inf)
    if (!identical(last_bytes(path, length(last)), last)) {
      stop("Write error: the file does not end with its last row.")
    }
  }
}

# Text that a spreadsheet would take for a formula, with an apostrophe before
# it, as spreadsheets mark text themselves; text that looks so marked has one
# more, so that taking one off gives the same text again.
harmless <- function(columns) {
  columns <- lapply(columns, function(column) {
    texts <- is.character(column) || is.factor(column)
    if (texts) marked_as_text(as.character(column)) else column
  })
  names(columns) <- marked_as_text(names(columns))
  columns
}

marked_as_text <- function(text) {
  formula <- grepl("^'*[=+@\t\r-]", text) &
    is.na(suppressWarnings(as.numeric(text)))
  text[formula] <- paste0("'", text[formula])
  text
}

# What was marked, as it was.
unmarked <- function(text) sub("^'('*[=+@\t\r-])", "\\1", text)

# Rows as JSON objects, with the same digits as in CSV, which are more than the
# serialiser gives by itself.
rows_json <- function(x) {
  columns <- exact_text(x)
  for (
    name in names(columns)[
      vapply(x, function(column) is.double(column) && !is.object(column), NA)
    ]
  ) {
    text <- columns[[name]]
    columns[[name]] <- structure(
      ifelse(is.na(text) | !is.finite(x[[name]]), "null", text), class = "json"
    )
  }
  jsonlite::toJSON(
    tibble::new_tibble(as.list(columns), nrow = nrow(x)), json_verbatim = TRUE,
    na = "null"
  )
}

# Instants with their offset from UTC, by ISO 8601.
instant_text <- function(x) {
  sub("(..)$", ":\\1", format(x, "%Y-%m-%dT%H:%M:%S%z"))
}

# The table's columns, with numbers as text that reads back the same.
exact_text <- function(x) {
  lapply(as.list(plain_tibble(x)), function(column) {
    if (inherits(column, "POSIXct")) {
      return(instant_text(column))
    }
    if (!is.double(column) || is.object(column)) {
      return(column)
    }
    text_of_doubles(column)
  })
}
