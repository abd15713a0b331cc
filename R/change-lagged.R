#' Add an earlier or later value
#'
#' Puts the value that the same series had some periods earlier beside each
#' value. The earlier value is found by its period and not by its row. Beside
#' the running total of a year this gives last year's total to the same date.
#'
#' The figure is `NA` where the table does not reach so far, and where that
#' period is partial or empty.
#'
#' @inheritParams add_growth
#' @param lag How far back: a number of periods or a length of time such as
#'   `"1 year"`, by the rules of [add_growth()]. With a minus sign (`-1`,
#'   `"-1 year"`) the value of a later period, which is marked as a target since
#'   it tells the future.
#' @param name Name of the new column. By default that of `of`, with the length:
#'   `"value_1_year_before"`, or `"value_1_month_ahead"`.
#' @return The table with one column more, in the unit of `of`.
#' @section Errors: as of [add_growth()].
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' add_lagged(roll_up(nights, every = "month"), lag = "1 year")
#' @export
add_lagged <- function(x, lag = 1, of = "value", name = NULL) {
  x <- check_periods(x)
  ahead <- if (is.numeric(lag)) {
    isTRUE(lag < 0)
  } else {
    rlang::is_string(lag) && startsWith(trimws(lag), "-")
  }
  size <- if (!ahead) lag else if (is.numeric(lag)) -lag else
    sub("^ *- *", "", lag)
  along <- along_counted(x, of)
  distance <- check_distance(
    size, along$calendar, "lag", closed = !is.null(along$opened)
  )
  column <- check_new_name(
    name %||% paste(
      of, gsub("[ -]", "_", distance$words),
      if (ahead) {
        "ahead"
      } else {
        "before"
      },
      sep = "_"
    ),
    x
  )
  row <- rows_off(along, distance, if (ahead) 1 else -1)
  value <- along$value[row]
  closed <- closed_rows(along, distance)
  note <- new_note(
    "lagged", of,
    paste("{of}", distance$words, if (ahead) "ahead" else "before"),
    made = list(size = size, ahead = ahead),
    target = ahead,
    unit = facts(x)$added[[of]]$unit,
    withheld = with_closed(stats::setNames(
      c(sum(is.na(row)) - closed, sum(is.na(value) & !is.na(row))),
      c(
        if (ahead) {
          "the table does not reach so far ahead"
        } else {
          "the table does not reach back so far"
        },
        "that period is not whole"
      )
    ), closed)
  )
  add_column(x, column, value, along, note)
}
