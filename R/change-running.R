#' Add the highest, lowest or mean so far
#'
#' Running extremes and means: what the highest, the lowest or the average value
#' of each series has been up to each period. A period whose value is that of
#' the running highest set a record.
#'
#' Periods without a whole value have none (`NA`), and later ones pass over
#' them: the highest so far is that of the whole periods.
#'
#' @inheritParams add_growth
#' @param stat `"highest"`, `"lowest"` or `"mean"`.
#' @param reset When it starts again: a length of period that those of the table
#'   fit into, such as `"year"`, or `"never"`.
#' @param name Name of the new column, by default `running_` and the statistic.
#' @return The table with one column more, in the unit of `of`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table,
#'   `backfill_error_every` where its periods do not fit into those of `reset`,
#'   `backfill_error_column`, `backfill_error_argument`.
#' @seealso [add_running_total()] for sums, [add_moving()] for windows.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- add_running(roll_up(nights, every = "month"), "highest")
#' monthly[which(monthly$value == monthly$running_highest), ]
#' @concept cumulative maximum
#' @concept record high
#' @export
add_running <- function(
  x, stat = "highest", reset = "never", of = "value", name = NULL
) {
  check_given()
  x <- check_periods(x)
  name <- name %||% paste0("running_", stat)
  check_new_name(name, x)
  along <- along_series(x, of)
  never <- identical(reset, "never")
  longer <- if (!never) as_calendar(reset, argument = "reset", of = x)
  made <- running_statistic_cpp(
    along$series, along$value,
    if (never) NA_real_ else starts_of_stretches(along, longer),
    match(stat, c("highest", "lowest", "mean")) - 1L
  )
  since <- if (never) "" else sprintf(" of the %s", period_noun(longer))
  note <- new_note(
    "running statistic", of,
    sprintf("%s {of}%s so far", stat, since),
    unit = facts(x)$added[[of]]$unit,
    made = list(stat = stat, reset = reset),
    withheld = c("the period is not whole" = sum(is.na(along$value)))
  )
  add_column(x, name, made, along, note)
}
