#' Make records of a data frame
#'
#' The same as [read_records()] for rows that are in memory already: dates may be text in ISO 8601, `Date` or `POSIXct`,
#' and measures numbers or text. Rows that cannot be used are set aside with their row number as the line.
#'
#' @param x A data frame, one record per row.
#' @param when,measures,series,zone As in [read_records()]. A `POSIXct` column tells an instant, which `zone` leaves as
#'   it is; `zone` decides on which local day it falls.
#' @return A records table, as from [read_records()].
#' @section Errors: As [read_records()], and `backfill_error_input` where `x` is no data frame.
#' @examples
#' as_records(
#'   data.frame(date = c("2031-04-01", "2031-04-02"), landed = c(120.5, 98)),
#'   when = "date", measures = list(landed = measure("flow", unit = "kg"))
#' )
#' @export
as_records <- function(x, when, measures, series = NULL, zone = "UTC") {
  if (!is.data.frame(x)) {
    abort_backfill("input", sprintf("`x` is %s; a data frame is expected.", value_in_words(x)))
  }
  measures <- check_roles(x, when, measures, series, zone, where = "The data frame")
  data <- plain_tibble(tibble::as_tibble(as.list(x), .name_repair = "minimal"))
  build_records(data, when, measures, series, zone, source = "data frame", line_of = identity)
}

# Checks the arguments that give columns their roles, and returns the measures as a named list.
check_roles <- function(data, when, measures, series, zone, where, call = caller_env()) {
  twice <- unique(names(data)[duplicated(names(data))])
  if (length(twice) > 0) {
    abort_backfill("column", sprintf("%s has more than one column named %s.", where, in_words(twice)),
                   ">" = "Give each column a name of its own.", call = call)
  }
  if (!rlang::is_string(when)) {
    abort_backfill("argument", sprintf("`when` is %s; it must name one column.", value_in_words(when)), call = call)
  }
  if (!is.null(series) && !is.character(series)) {
    abort_backfill("argument", sprintf("`series` is %s; it must name columns.", value_in_words(series)), call = call)
  }
  measures <- check_measures(measures, call)
  check_columns(when, data, where, "when", call)
  check_columns(names(measures), data, where, "measures", call)
  check_columns(series, data, where, "series", call)
  roles <- c(when, series, names(measures))
  if (anyDuplicated(roles)) {
    abort_backfill("argument",
                   sprintf("Column %s has two roles.", in_words(unique(roles[duplicated(roles)]))),
                   i = "A column is the date, part of the series, or a measure.", call = call)
  }
  check_zone(zone, call)
  measures
}

# From columns as read to a records table: dates and numbers are made of text, and rows where that fails set aside.
# `line_of` turns rows of `data` into lines of the source.
build_records <- function(data, when, measures, series, zone, source, line_of, call = caller_env()) {
  rows_read <- nrow(data)
  if (rows_read == 0) {
    abort_backfill("file", sprintf("%s has a header but no rows.", basename(source)), call = call)
  }
  # Notes what could not be read of a column, each row with its text and reason.
  rejects <- function(column, read, class, expected) {
    text <- as.character(data[[column]][read$bad])
    text[is.na(text)] <- ""
    found <- new_rejected(rep(source, length(read$bad)), read$bad, rep(column, length(read$bad)), text, read$reason)
    if (length(read$bad) * 2 >= rows_read) {
      found$line <- line_of(found$line)
      stop_unreadable(found, rows_read, class, expected, call)
    }
    found
  }
  moments <- read_when(data[[when]], zone, if (length(series) > 0) data[series])
  rejected <- list(rejects(
    when, moments, "when", "Dates are expected as in ISO 8601, such as 2031-04-09, 2031-04-09 07:30 or 2031-04."
  ))
  for (name in names(measures)) {
    number <- read_number(data[[name]])
    rejected <- c(rejected, list(rejects(
      name, number, "number", "Plain numbers are expected, such as 1250, -3.5 or 1.2e6."
    )))
    data[[name]] <- number$value
  }
  data[[when]] <- moments$when

  # A row is set aside once, for the first thing that is wrong with it.
  rejected <- vctrs::vec_rbind(!!!rejected)
  rejected <- rejected[order(rejected$line), ]
  rejected <- rejected[!duplicated(rejected$line), ]
  if (nrow(rejected) > 0) {
    data <- vctrs::vec_slice(data, -rejected$line)
    rejected$line <- line_of(rejected$line)
  }
  missing <- vapply(names(measures), function(name) sum(is.na(data[[name]])), 0L)
  account <- new_account(source, rows_read, rejected, missing, data[[when]])
  new_records(data, when, series, measures, zone, account)
}

# A few bad rows are set aside; a column of which half or more cannot be read is not what the user took it for.
stop_unreadable <- function(rejected, rows_read, class, expected, call) {
  fit <- rows_read - nrow(rejected)
  shown <- utils::head(rejected, 3)
  abort_backfill(
    class,
    sprintf("Column \"%s\" of %s cannot be read: %s of its %s.", shown$column[[1]], basename(shown$source[[1]]),
            if (fit == 0) "none" else paste("only", fit), count_of(rows_read, "row fits", "rows fit")),
    i = expected,
    rlang::set_names(
      sprintf("Line %d: %s, %s.", shown$line, encodeString(shown$text, quote = "\""), shown$reason), "x"
    ),
    call = call
  )
}
