#' The account of an intake: what was read, used and set aside
#'
#' Rows read are always rows used plus rows set aside.
#'
#' @param x A records table, from [read_records()] or [as_records()].
#' @return `intake()` gives the account, an object that prints as a short page; [as.data.frame()] turns it into one row
#'   per fact with the columns `fact` and `count`. `set_aside()` gives a tibble with one row for each row that was set
#'   aside: `source` (file), `line` (of the file, counted from 1), `column`, `text` (as it stood there) and `reason`.
#' @section Errors: `backfill_error_input` where `x` is no records table.
#' @examples
#' sailings <- read_records(demo_file("sailings.csv"),
#'   when = "time", measures = c(north = "flow", south = "flow"), zone = "WET"
#' )
#' intake(sailings)
#' set_aside(sailings)
#' @export
intake <- function(x) {
  check_records(x)
  roles(x)$account
}

#' @rdname intake
#' @export
set_aside <- function(x) {
  check_records(x)
  roles(x)$account$set_aside
}

# `missing` counts the blank values by measure; `rejected` is a tibble as set_aside() gives it; `when` is of the rows
# used.
new_account <- function(source, rows_read, rejected, missing, when) {
  structure(
    list(
      source = source, rows_read = rows_read, rows_used = rows_read - nrow(rejected), set_aside = rejected,
      missing = missing, first = if (length(when) > 0) min(when), last = if (length(when) > 0) max(when)
    ),
    class = "backfill_intake"
  )
}

new_rejected <- function(source = character(), line = integer(), column = character(), text = character(),
                         reason = character()) {
  tibble::tibble(source = source, line = line, column = column, text = text, reason = reason)
}

#' @export
as.data.frame.backfill_intake <- function(x, ...) {
  reasons <- table(x$set_aside$reason)
  data.frame(
    fact = c("rows read", "rows used", "rows set aside",
             sprintf("set aside: %s", names(reasons)), sprintf("%s missing", names(x$missing))),
    count = as.integer(c(x$rows_read, x$rows_used, nrow(x$set_aside), reasons, x$missing))
  )
}
