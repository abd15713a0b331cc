#' Write a result to a file
#'
#' A periods table, or another result such as a seasonal index, its worksheet, a
#' profile or a ranking, with every column and row. Dates are ISO 8601, missing
#' values are blank, and numbers have as many digits as it takes to read back
#' exactly the same ones. In CSV a text that a spreadsheet would take for a
#' formula, as it starts with `=`, `+`, `-` or `@`, has an apostrophe before it.
#' The file is written beside its target and renamed into place, so that a
#' failure leaves nothing half-written behind.
#'
#' @param x A periods table, from [roll_up()], or another table that this
#'   package made.
#' @param file Path of the file, whose ending says what it is: `.csv`, `.json`
#'   (an array of objects) or `.xlsx` (a workbook). A file that is there is
#'   replaced, unless the records were read from it.
#' @return `x`, invisibly.
#' @section Errors: `backfill_error_input` where `x` is not a table of this
#'   package; `backfill_error_file` for another ending, where the folder is not
#'   there or cannot be written to, and where `file` is the one that the records
#'   came from.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' file <- tempfile(fileext = ".csv")
#' write_periods(roll_up(nights, every = "quarter"), file)
#' readLines(file, n = 3)
#' @export
write_periods <- function(x, file) {
  if (!inherits(x, "backfill_table")) {
    abort_backfill(
      "input",
      sprintf(
        "`x` is %s, not a periods table or another result.", value_in_words(x)
      ),
      ">" = "roll_up() makes a periods table."
    )
  }
  check_output(file, sources_of(x))
  check_table_type(file)
  write_beside(
    file, function(path) put_table(x, path, file_type(file)), current_env()
  )
  invisible(x)
}

check_table_type <- function(file, call = caller_env()) {
  type <- file_type(file)
  if (!type %in% c("csv", "json", "xlsx")) {
    abort_backfill(
      "file", sprintf("%s ends in none of .csv, .json and .xlsx.", file),
      call = call
    )
  }
  if (type == "json") need_package("jsonlite", "to write JSON", call = call)
  if (type == "xlsx") {
    need_package("writexl", "to write a workbook", call = call)
  }
}

# Rows as CSV, JSON or a workbook.
put_table <- function(x, path, type) {
  if (inherits(x, "backfill_flags")) {
    x <- with_reasons(x)
  }
  if (type == "csv") {
    put_csv(harmless(exact_text(x)), path)
  } else if (type == "json") {
    writeLines(rows_json(x), path, useBytes = TRUE)
  } else {
    columns <- lapply(
      as.list(x),
      function(column) {
        if (inherits(column, "POSIXct")) {
          instant_text(column)
        } else {
          column
        }
      }
    )
    writexl::write_xlsx(tibble::new_tibble(columns, nrow = nrow(x)), path)
  }
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
# it, as spreadsheets mark text themselves.
harmless <- function(columns) {
  for (name in names(columns)) {
    text <- columns[[name]]
    if (is.character(text) || is.factor(text)) {
      text <- as.character(text)
      formula <- grepl("^[=+@\t\r-]", text) & is.na(suppressWarnings(
        as.numeric(text)
      ))
      if (any(formula)) {
        text[formula] <- paste0("'", text[formula])
        columns[[name]] <- text
      }
    }
  }
  columns
}

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

# The table's columns, with numbers as text in the fewest digits (15 to 17) that
# read back the same.
exact_text <- function(x) {
  lapply(as.list(plain_tibble(x)), function(column) {
    if (inherits(column, "POSIXct")) {
      return(instant_text(column))
    }
    if (!is.double(column) || is.object(column)) {
      return(column)
    }
    text <- rep(NA_character_, length(column))
    left <- which(!is.na(column))
    for (digits in 15:17) {
      text[left] <- plain_formatC(
        column[left], digits = digits, format = "g", width = 1
      )
      left <- left[as.numeric(text[left]) != column[left]]
    }
    text
  })
}
