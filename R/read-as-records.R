#' Make records of a data frame
#'
#' The same as [read_records()] for rows that are in memory already: dates may
#' be text, numbers, `Date` or `POSIXct`, and measures numbers or text. Rows
#' that cannot be used are set aside with their row number as the line.
#'
#' @param x A data frame; a time series of base R (`ts`) of months, quarters or
#'   years; or a matrix whose row names are dates. Of the latter two `when`
#'   names the column of dates that is made, and the columns keep their names;
#'   one without a name gets that of its measure.
#' @inheritParams read_records
#' @param zone As in [read_records()]. A `POSIXct` column tells an instant,
#'   which `zone` leaves as it is; `zone` decides on which local day it falls.
#' @return A records table, as from [read_records()].
#' @section Errors: As [read_records()], and `backfill_error_input` where `x` is
#'   none of these.
#' @examples
#' as_records(
#'   data.frame(date = c("2031-04-01", "2031-04-02"), landed = c(120.5, 98)),
#'   when = "date", measures = list(landed = measure("flow", unit = "kg"))
#' )
#' boardings <- ts(c(820, 910, 1105), start = c(2031, 4), frequency = 12)
#' as_records(boardings, "month", c(boardings = "flow"))
#' @export
as_records <- function(
  x, when, measures, series = NULL, zone = "UTC", layout = "rows",
  date_order = NULL, date_unit = NULL, pivot_year = 1969, year_start = NULL,
  repeated = "order", hour_ending = NULL, spans = "start", missing = NULL,
  decimal_mark = NULL, duplicates = "error", strict = FALSE, rename = NULL,
  known = NULL
) {
  check_given()
  x <- frame_of_object(x, when, measures)
  asked <- new_reading(when, measures, series, zone, layout, check_rules(list(
    date_order = date_order, date_unit = date_unit, pivot_year = pivot_year,
    year_start = year_start, repeated = repeated, hour_ending = hour_ending,
    spans = spans, missing = missing, decimal_mark = decimal_mark,
    duplicates = duplicates,
    strict = strict
  )), known)
  raw <- new_raw(
    lapply(as.list(x), in_one_encoding), nrow(x),
    header = list(enc2utf8(names(x))), source = "data frame", line = identity
  )
  rename_as_read(build_records(raw, asked), rename)
}

# Texts that are the same in different encodings are the same text. `stop_odd`
# is told of one that is not in UTF-8.
in_one_encoding <- function(x, stop_odd = stop_odd_text) {
  if (!is.character(x) && !is.factor(x)) {
    return(x)
  }
  same <- enc2utf8(if (is.factor(x)) levels(x) else x)
  odd <- !validUTF8(same)
  if (any(odd)) stop_odd(quoted(iconv(same[odd][[1]], "latin1", "UTF-8")))
  if (is.factor(x)) factor(same[as.integer(x)], unique(same)) else same
}

stop_odd_text <- function(text) {
  abort_backfill(
    "input", "The table holds text that is not in UTF-8: {text}.",
    ">" = "Convert it first with iconv()."
  )
}

# The columns of a file whose format knows of no encoding but UTF-8.
file_columns <- function(columns, file) {
  lapply(as.list(columns), in_one_encoding, function(text) {
    abort_backfill(
      "file", "{basename(file$shown)} holds text that is not in UTF-8: {text}.",
      i = "It is damaged, or was written by a program that does not keep to",
      "its format."
    )
  })
}

# What every reader gives: columns as they were read, and where each row came
# from. `header` has a character vector per header row, `line` turns rows into
# lines of `source`, `rejected` are rows that were set aside already, and
# `as_text` reads some columns once more as text, where their figures may have
# been misread.
new_raw <- function(
  data, rows, header, source, line, rejected = new_rejected(), blank = 0,
  notes = character(), as_text = NULL
) {
  names <- header[[length(header)]]
  list(
    data = stats::setNames(as.list(data), names), rows = rows, header = header,
    at = function(rows) {
      list(
        source = rep(source, length(rows)), line = as.integer(line(rows))
      )
    },
    rejected = rejected, blank = blank, notes = notes, as_text = as_text,
    sources = new_rows(
      source = source, rows = as.integer(rows + nrow(rejected))
    )
  )
}
