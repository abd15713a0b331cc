#' Put periods, or series, across
#'
#' Makes a plain table, as a spreadsheet has it: a row for each series with its
#' periods side by side, or a row for each period with the series side by side.
#' Such a table has no standings, so values of periods that are not whole are
#' left out unless `partial` keeps them.
#'
#' @param x A periods table, from [roll_up()].
#' @param side What stands side by side, each in a column: `"periods"` or
#'   `"series"`.
#' @param of Name of the column to show.
#' @param partial `TRUE` keeps the values of partial periods.
#' @return A result, a tibble. With periods side by side: the series columns,
#'   `measure`, and a column for each period, named by its label. With series
#'   side by side: `period` (its start), and a column for each series and
#'   measure.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_column` where `of` is not a column of figures;
#'   `backfill_error_argument`.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' widen(roll_up(nights, every = "quarter"), side = "series")
#' widen(roll_up(nights, every = "year"), side = "periods", partial = TRUE)
#' @concept pivot
#' @export
widen <- function(x, side = "periods", of = "value", partial = FALSE) {
  check_given()
  x <- check_periods(x)
  check_not_empty(x)
  along <- along_series(x, of)
  all <- if (partial) as.double(x[[of]])[along$order] else along$value
  grid <- along_grid(along, all)
  ends <- range(along$number)
  start <- period_start(seq(ends[[1]], ends[[2]]), along$calendar)
  values <- matrix(grid$value, length(start))
  row <- along$order[!duplicated(along$series)]
  if (side == "series") {
    colnames(values) <- line_names(x)[row]
    beside <- new_rows(period = start)
  } else {
    values <- t(values)
    colnames(values) <- period_label(start, along$calendar)
    beside <- vctrs::vec_slice(keys_of(x), row)
  }
  out <- new_rows(
    beside, tibble::as_tibble(values, .name_repair = "minimal"),
    unique = FALSE
  )
  kept <- facts(x)[c("calendar", "measures", "sources")]
  # Nobody misses a column of a table of columns alike.
  new_result(
    out, "wide", c(kept, list(
      side = side, of = of, partial = partial, starts = start,
      keys = facts(x)$series
    )),
    needed = character()
  )
}
