#' Write periods to a CSV file
#'
#' One row per series, measure and period, with every column of the table. Dates are ISO 8601, missing values are blank,
#' and numbers have as many digits as it takes to read back exactly the same ones. The file is written beside its target
#' and renamed into place, so that a failure leaves nothing half-written behind.
#'
#' @param x A periods table, from [roll_up()].
#' @param file Path of the file. A file that is there is replaced, unless the records were read from it.
#' @return `x`, invisibly.
#' @section Errors: `backfill_error_input` where `x` is no periods table; `backfill_error_file` where the folder is not
#'   there or cannot be written to, and where `file` is the one that the records came from.
#' @examples
#' nights <- read_records(demo_file("guest-nights.csv"),
#'   when = "month", series = "island", measures = c(guest_nights = "flow")
#' )
#' file <- tempfile(fileext = ".csv")
#' write_periods(roll_up(nights, every = "quarter"), file)
#' readLines(file, n = 3)
#' @export
write_periods <- function(x, file) {
  check_periods(x)
  check_output(file, roles(x)$sources)
  write_beside(file, function(path) {
    data.table::fwrite(exact_text(x), path, quote = "auto", na = "")
  })
  invisible(x)
}

# Instants with their offset from UTC, by ISO 8601.
instant_text <- function(x) {
  sub("(..)$", ":\\1", format(x, "%Y-%m-%dT%H:%M:%S%z"))
}

# The table's columns, with numbers as text in the fewest digits (15 to 17) that read back the same.
exact_text <- function(x) {
  columns <- lapply(as.list(plain_tibble(x)), function(column) {
    if (inherits(column, "POSIXct")) {
      return(instant_text(column))
    }
    if (!is.double(column) || is.object(column)) {
      return(column)
    }
    text <- rep(NA_character_, length(column))
    left <- which(!is.na(column))
    for (digits in 15:17) {
      text[left] <- formatC(column[left], digits = digits, format = "g", width = 1)
      left <- left[as.numeric(text[left]) != column[left]]
    }
    text
  })
  data.table::setDT(columns)[]
}
