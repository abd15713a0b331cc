#' Rebase series to a common start
#'
#' Each series as a multiple of its own value in one period, which becomes 100,
#' so that series of unlike size can be seen on one axis:
#' \eqn{100\,x_t / x_b}{100 x[t] / x[b]}.
#'
#' Nothing is given (`NA`) for partial and empty periods, and for a series whose
#' value in that period is not whole, or is zero or negative.
#'
#' @inheritParams add_growth
#' @param start_value What the value of that period becomes.
#' @param at The period that series start from: a date or time in it. By default
#'   the first in which all of them have a whole value.
#' @param name Name of the new column.
#' @return The table with one column more.
#' @section Errors: `backfill_error_input` where `x` is not a periods table or
#'   its series have no period in common, `backfill_error_argument` where `at`
#'   lies outside the table, `backfill_error_column`.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' add_rebased(roll_up(nights, every = "year"), at = "2030-01-01")
#' @export
add_rebased <- function(
  x, start_value = 100, at = NULL, of = "value", name = "rebased"
) {
  x <- check_periods(x)
  if (!is_number(start_value) || start_value == 0) {
    abort_backfill(
      "argument",
      "`start_value` is {value_in_words(start_value)}; it must be a number",
      "such as 100."
    )
  }
  check_new_name(name, x)
  check_not_empty(x)
  along <- along_series(x, of)
  base_number <- if (is.null(at)) common_start(along) else number_at(at, along)
  at_base <- which(along$number == base_number)
  base <- along$value[at_base][match(along$series, along$series[at_base])]
  usable <- !is.na(base) & base > 0
  value <- ifelse(usable, start_value * (along$value / base), NA_real_)
  base_label <- period_label(
    period_start(base_number, along$calendar), along$calendar
  )
  note <- new_note(
    "rebased", of,
    sprintf("{of} with %s = %s", base_label, plain_format(start_value)),
    made = list(start_value = start_value, at = base_number),
    withheld = c(
      "the series has no whole value to start from" = sum(is.na(base)),
      "the start is zero or negative" = sum(!is.na(base) & !usable),
      "the period is not whole" = sum(usable & is.na(along$value))
    )
  )
  add_column(x, name, value, along, note)
}

# The number of the first period in which each series has a figure; of those
# that have one at all.
common_start <- function(along) {
  known <- !is.na(along$value)
  first <- min(along$number)
  count <- tabulate(along$number[known] - first + 1)
  shared <- which(count == length(unique(along$series[known]))) + first - 1
  if (length(shared) == 0) {
    abort_backfill(
      "input", "There is no period in which all series have a whole value.",
      ">" = "Name one with `at`; series without a value there are left out."
    )
  }
  min(shared)
}

# The number of the period of the table that holds a date or time.
number_at <- function(at, along, argument = "at") {
  moment <- as_moments(at, argument, along$calendar$zone)
  if (length(moment) != 1 || is.na(moment)) {
    abort_backfill("argument", "`{argument}` must be one date or time.")
  }
  # On either side of the clock's table of offsets its ends go on.
  number <- period_number(moment, along$calendar)
  if (!number %in% along$number) {
    if (number >= min(along$number) && number <= max(along$number)) {
      abort_backfill(
        "argument",
        "`{argument}` is {moments_in_words(moment)}, of which the table has no",
        "row, or expects nothing."
      )
    }
    ends <- period_label(
      period_start(range(along$number), along$calendar), along$calendar
    )
    abort_backfill(
      "argument",
      "`{argument}` is {moments_in_words(moment)}, which lies outside the",
      "table: it reaches from {ends[[1]]} to {ends[[2]]}."
    )
  }
  number
}
