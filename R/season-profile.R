#' The profile of a cycle
#'
#' What a measure is at each position of a cycle: at each hour of the day, each
#' weekday, each month; with the number of figures in each, their spread,
#' and a band that holds most of them. Of periods, or of records as they are.
#'
#' Periods that are not whole take no part. Hours are those of the local clock.
#' Of the day of the year there are 366 positions: 29 February has one of its
#' own, so that later dates have the same one in every year. Weeks are those of
#' ISO 8601, 1 to 53.
#'
#' @param x A periods table, from [roll_up()], or a records table, from
#'   [read_records()]. Counters must be rolled up first.
#' @param position The cycle's positions: `"hour"`, `"weekday"`,
#'   `"day of month"`, `"day of year"`, `"week"`, `"month"`, `"third"` (of a
#'   month) or `"quarter"`.
#' @param apart What tells profiles of one series apart: another position, or
#'   `"weekend"`; the name of a column of `x`; or a vector with a value for each
#'   row of `x`, such as whether it is a holiday.
#' @param stat `"mean"`, `"median"`, `"sum"` or a quantile such as `"90%"`; by
#'   default the mean, of counted records (a `"count"`) their number.
#' @param holds The share of the figures that lie within the band, above 0 and
#'   below 1: the rest lies half below and half above it.
#' @param of Of periods the name of the column, of records the names of the
#'   measures; by default all of them.
#' @return A tibble with a row for each series, measure, group of `apart` and
#'   position: the series columns, `measure`, the group (a column of the name of
#'   `apart`, or `group`), `position` (a factor), `value`, `n`, `sd`
#'   (standard deviation), `lower` and `upper` (the ends of the band).
#' @section Errors: `backfill_error_input` where `x` is neither;
#'   `backfill_error_use` for the readings of a counter;
#'   `backfill_error_column`, `backfill_error_argument`. A total of a level, and
#'   a mean of a ratio, come with a warning of class `backfill_warning_use`.
#' @references Quantiles: Hyndman, R. J. and Fan, Y. (1996). Sample quantiles in
#'   statistical packages. *The American Statistician* 50, 361-365, definition
#'   7.
#' @seealso [cycle_grid()] for two positions at once, [seasonal_index()].
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' cycle_profile(crossings, "hour", apart = "weekday")
#' @export
cycle_profile <- function(
  x, position, apart = NULL, stat = NULL, holds = 0.8, of = "value"
) {
  check_given()
  figures <- figures_in_time(x, of)
  position <- check_position(position, "position")
  stat <- check_cell_statistic(
    stat, facts(x)$measures[unique(figures$keys$measure)], is_periods(x)
  )
  at <- figure_side(figures, position)
  group <- if (is.null(apart)) one_side() else groups_apart(apart, x, figures)
  made <- cell_statistic(figures, list(group, at), stat, holds)
  groups <- length(group$levels)
  places <- length(at$levels)
  out <- vctrs::vec_rep_each(figures$keys, groups * places)
  if (!is.null(apart)) {
    check_new_name(group$name, out, "apart")
    out[[group$name]] <- rep(
      rep(factor(group$levels, group$levels), each = places),
      nrow(figures$keys)
    )
  }
  out$position <- rep(
    factor(at$levels, at$levels), nrow(figures$keys) * groups
  )
  out <- new_rows(
    out, value = made$value, n = made$count, sd = made$spread,
    lower = made$lower, upper = made$upper
  )
  if (position == "week" && all(out$n[out$position == "W53"] == 0)) {
    out <- out[out$position != "W53", ]
  }
  role <- facts(x)
  new_result(out, "profile", list(
    at = position, apart = if (!is.null(apart)) group$name,
    apart_by = if (rlang::is_string(apart)) apart, stat = stat,
    holds = holds, of = of, series = role$series,
    measures = role$measures, counted = figures$counted,
    sources = role$sources %||% role$account$sources$source
  ))
}

# list(name, levels, code), see figure_side().
groups_apart <- function(apart, x, figures, argument = "apart") {
  if (isTRUE(apart %in% positions_known)) {
    side <- figure_side(figures, apart)
    return(c(list(name = gsub(" ", "_", apart)), levels_in_use(figures, side)))
  }
  column <- group_column(apart, x, figures)
  if (!is.null(column)) {
    return(column)
  }
  values <- apart
  name <- "group"
  # Of a table of one row a text may be its group.
  if (rlang::is_string(apart) && (nrow(x) != 1 || apart %in% names(x))) {
    check_columns(apart, x, "The table", argument)
    values <- x[[apart]]
    if (!apart %in% facts(x)$series) name <- apart
  }
  if (length(values) != nrow(x) || is.list(values)) {
    abort_backfill(
      "argument",
      "`{argument}` has {count_of(length(values), 'value')} for",
      "{count_of(nrow(x), 'row')}."
    )
  }
  values <- droplevels(as.factor(values[figures$row]))
  c(list(name = name), side_of_factor(values))
}

# Groups by a column of figures that are not here; NULL of those that are.
group_column <- function(apart, x, figures) UseMethod("group_column", x)

#' @export
group_column.default <- function(apart, x, figures) NULL

# A side without the levels at which nothing lies.
levels_in_use <- function(figures, side) UseMethod("levels_in_use")

#' @export
levels_in_use.backfill_figures <- function(figures, side) {
  used <- sort(unique(side$code))
  list(levels = side$levels[used], code = match(side$code, used))
}
