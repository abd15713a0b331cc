#' Latest figures
#'
#' The latest whole value of each series on a day, how old it is, and its change
#' from the period before and from a year before.
#'
#' A period counts once it is over: on 2031-08-14 the latest month is July.
#' Partial, empty and projected periods are passed over, and the sentence names
#' the series whose latest whole value is older than that of others.
#'
#' @inheritParams add_growth
#' @param on The day, a date or a text such as `"2031-08-14"`. By default the
#'   end of the table.
#' @param n How many series of each measure to give, those with the highest
#'   latest values. By default all, in the order of the table.
#' @return A tibble with a row for each series and measure that has a whole
#'   value by then: the series columns, `measure`, `period`, `value`,
#'   `standing`, `age` (how many periods have ended since), `before` (the value
#'   of the period before), `change` and `percent` from that, `year_before`,
#'   `year_change` and `year_percent` (from the same period a year before; `NA`
#'   where periods have none). Percentages of figures of zero or less are `NA`;
#'   of a column of changes, such as growth, all are, since a percentage of a
#'   percentage means nothing.
#' @section Errors: `backfill_error_input` where `x` is not a periods table, or
#'   no period has a whole value by then; `backfill_error_column`,
#'   `backfill_error_argument`.
#' @seealso [rank_series()] for shares of the total in one period.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' latest(monthly)
#' latest(monthly, on = "2031-08-14", n = 2)
#' @concept current value
#' @concept year on year
#' @export
latest <- function(x, on = NULL, n = NULL, of = "value") {
  check_given()
  x <- check_periods(x)
  along <- along_counted(x, of)
  over <- last_over(on, along)
  known <- which(!is.na(along$value) & along$number <= over)
  if (length(known) == 0) {
    stop_no_latest(on, along)
  }
  rows <- known[!duplicated(along$series[known], fromLast = TRUE)]
  measure <- keys_at(x, along, rows)$measure
  if (!is.null(n)) {
    order <- order(
      match(measure, unique(measure)), -along$value[rows], method = "radix"
    )
    first <- order[place_within(measure[order]) <= n]
    rows <- rows[first]
  }
  standing <- column_along(x$standing, along)
  in_percent <- ranked_as(NULL, x, of) == "percent"
  year <- year_before_rows(along)
  out <- new_rows(
    keys_at(x, along, rows),
    period = period_start(along$number[rows], along$calendar),
    value = along$value[rows], standing = standing[rows],
    age = as.integer(over - along$number[rows]),
    change_of_rows(
      along, rows, movements(along)$first, in_percent,
      c("before", "change", "percent")
    ),
    change_of_rows(
      along, rows, year, in_percent,
      c("year_before", "year_change", "year_percent")
    )
  )
  new_result(out, "latest", list(
    several = several_measures(x),
    of = of, over = over, closed = !is.null(along$opened),
    yearly = !is.null(year),
    lacking = length(unique(along$series)) -
      length(unique(along$series[known])),
    path = path_to(x, along, rows), unit = facts(x)$added[[of]]$unit,
    calendar = facts(x)$calendar, series = facts(x)$series,
    measures = facts(x)$measures, sources = facts(x)$sources
  ), needed = c("measure", "period", "value"))
}

# The number of the last period that is over at the end of a day.
last_over <- function(on, along) {
  if (is.null(on)) {
    return(max(c(along$number, -Inf)))
  }
  moment <- as_moments(on, "on", along$calendar$zone)
  if (length(moment) != 1 || is.na(moment)) {
    abort_backfill("argument", "`on` must be one date or time.")
  }
  next_one <- if (inherits(moment, "Date")) moment + 1 else moment
  period_number(next_one, along$calendar) - 1
}

stop_no_latest <- function(on, along) {
  if (all(is.na(along$value))) {
    abort_backfill("input", "No period has a whole value.")
  }
  first <- min(along$number[!is.na(along$value)])
  starts <- period_start(first, along$calendar)
  abort_backfill(
    "argument", "No period with a whole value is over on {value_in_words(on)}.",
    i = "The first one is {period_label(starts, along$calendar)}."
  )
}

# The row of the same period a year before each, or NULL where periods have
# none of their own, as years have not.
year_before_rows <- function(along) {
  distance <- tryCatch(
    check_distance("1 year", along$calendar, "on"),
    backfill_error_over = function(cnd) NULL
  )
  if (!is.null(distance) && !distance$one) rows_off(along, distance)
}

change_of_rows <- function(along, rows, base, in_percent, names) {
  before <- if (is.null(base)) NA_real_ else along$value[base[rows]]
  change <- along$value[rows] - before
  percent <- percent_above_zero(change, if (in_percent) before else NA)
  out <- list(before, change, percent)
  tibble::new_tibble(
    stats::setNames(lapply(out, rep_len, length(rows)), names),
    nrow = length(rows)
  )
}

# The figures that led there, two years of them or 24, for its small line.
path_to <- function(x, along, rows) {
  back <- 2 * (known_cycle(along$calendar)$length %||% 12)
  back <- max(min(back, 60), 24)
  last <- along$number[rows][match(along$series, along$series[rows])]
  near <- which(along$number <= last & along$number > last - back)
  new_rows(
    keys_at(x, along, near),
    period = period_start(along$number[near], along$calendar),
    value = along$value[near]
  )
}
