#' Add a running total
#'
#' The sum of a flow from the start of the year (or month, or quarter) up to
#' each period. With [add_lagged()] of it by a year, the year so far stands
#' beside the last one to the same date; [add_growth()] of it says by how much
#' it is ahead.
#'
#' A total that lacks a part is none: from a partial or empty period on nothing
#' is given (`NA`) until the next start, nor where the table does not reach back
#' to the start.
#'
#' @inheritParams add_growth
#' @param reset When the total starts again: a length of period or a
#'   [calendar()] that those of the table fit into, or `"never"`; it starts then
#'   with the series' first whole value.
#' @param name Name of the new column.
#' @return The table with one column more, in the unit of `of`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table or
#'   has no flow, `backfill_error_every` where its periods do not fit into those
#'   of `reset`, `backfill_error_column`.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- add_running_total(roll_up(nights, every = "month"))
#' add_lagged(monthly, lag = "1 year", of = "running_total")
#' @export
add_running_total <- function(
  x, reset = "year", of = "value", name = "running_total"
) {
  x <- check_periods(x)
  check_new_name(name, x)
  along <- along_series(x, of)
  flow <- flows_of(x)[along$order]
  never <- identical(reset, "never")
  longer <- if (!never) as_calendar(reset, argument = "reset", of = x)
  start <- if (never) NA_real_ else starts_of_stretches(along, longer)[flow]
  made <- running_total_cpp(
    along$series[flow], along$number[flow], along$value[flow], start
  )
  total <- rep(NA_real_, length(flow))
  total[flow] <- made$value
  span <- if (never) "all periods" else paste("the", period_noun(longer))
  note <- new_note(
    "running total", of, paste("running total of {of} over", span),
    made = list(reset = reset),
    withheld = c(
      "the measure is not a flow" = sum(!flow),
      "the table does not reach back to the start" = as.integer(
        made$counts[[2]]
      ),
      "a period since the start is not whole" = as.integer(made$counts[[3]])
    )
  )
  add_column(x, name, total, along, note)
}

# Whether each row is of a flow, or of a count.
flows_of <- function(x) {
  kinds <- vapply(facts(x)$measures, `[[`, "", "kind")
  uses <- vapply(facts(x)$measures, `[[`, "", "use")
  flow <- kinds %in% c("flow", "counter") & uses %in%
    c("sum", "count", "slots") | uses %in% c("count", "slots")
  if (!any(flow[match(unique(x$measure), names(kinds))])) {
    abort_backfill(
      "input", "The table has no flow.",
      i = "Adding up levels or ratios over time makes no sense."
    )
  }
  unname(flow[match(x$measure, names(kinds))])
}

# The number of the first period of the longer one that each row lies in.
starts_of_stretches <- function(along, longer) {
  calendar <- along$calendar
  number <- seq(min(along$number), max(along$number))
  bounds <- boundaries_cpp(c(number, max(number) + 1), calendar)
  longer <- lay_calendar(
    longer, calendar$zone, min(bounds$instant), max(bounds$instant)
  )
  check_fits(number, bounds, calendar, longer)
  first <- period_start(
    period_number(period_start(number, calendar), longer), longer
  )
  period_number(first, calendar)[match(along$number, number)]
}
