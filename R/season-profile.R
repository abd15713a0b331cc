#' The profile of a cycle
#'
#' What a measure is at each position of a cycle: at each hour of the day, each
#' weekday, each month; with the number of figures behind each, their spread,
#' and a band that holds most of them. Of periods, or of records as they are.
#'
#' Periods that are not whole take no part. Hours are those of the local clock.
#' Of the day of the year there are 366 positions: 29 February has one of its
#' own, so that later dates have the same one in every year. Weeks are those of
#' ISO 8601, 1 to 53.
#'
#' @param x A periods table, from [roll_up()], or a records table, from
#'   [read_records()]. Counters must be rolled up first.
#' @param over The cycle's positions: `"hour"`, `"weekday"`, `"day of month"`,
#'   `"day of year"`, `"week"`, `"month"`, `"third"` (of a month) or
#'   `"quarter"`.
#' @param split What tells profiles of one series apart: another position, or
#'   `"weekend"`; the name of a column of `x`; or a vector with a value for each
#'   row of `x`, such as whether it is a holiday.
#' @param stat `"mean"`, `"median"`, `"total"` or a quantile such as `"90%"`.
#' @param band The share of the figures that lie within the band, above 0 and
#'   below 1: the rest lies half below and half above it.
#' @param of Of periods the name of the column, of records the names of the
#'   measures; by default all of them.
#' @return A tibble with a row for each series, measure, group of `split` and
#'   position: the series columns, `measure`, the group (a column of the name of
#'   `split`, or `group`), `position` (a factor), `value`, `n`, `spread`
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
#' sailings <- read_records(demo_file("sailings.csv"),
#'   when = "time", measures = c(north = "flow", south = "flow"), zone = "WET"
#' )
#' cycle_profile(sailings, over = "hour", split = "weekend")
#' @export
cycle_profile <- function(
  x, over, split = NULL, stat = "mean", band = 0.8, of = "value"
) {
  figures <- figures_in_time(x, of)
  check_one_of(over, setdiff(positions_known, "weekend"), "over")
  check_cell_statistic(stat, facts(x)$measures[unique(figures$keys$measure)])
  check_share(band, "band", below = TRUE)
  position <- position_factor(figures$when, over, figures$year_start)
  group <- split_groups(split, x, figures)
  groups <- max(1L, nlevels(group$factor))
  places <- nlevels(position)
  in_group <- if (is.null(split)) 1L else as.integer(group$factor)
  cell <- ((figures$line - 1L) * groups + in_group - 1L) * places +
    as.integer(position)
  made <- cell_statistic(
    figures, as.integer(cell), nrow(figures$keys) * groups * places, stat, band
  )
  out <- vctrs::vec_rep_each(figures$keys, groups * places)
  if (!is.null(split)) {
    check_new_name(group$name, out, "split")
    out[[group$name]] <- rep(
      rep(factor(levels(group$factor), levels(group$factor)), each = places),
      nrow(figures$keys)
    )
  }
  out$position <- rep(
    factor(levels(position), levels(position)), nrow(figures$keys) * groups
  )
  out <- tibble::tibble(
    out, value = made$value, n = made$count, spread = made$spread,
    lower = made$lower, upper = made$upper
  )
  if (over == "week" && all(out$n[out$position == "W53"] == 0)) {
    out <- out[out$position != "W53", ]
  }
  role <- facts(x)
  new_result(out, "profile", list(
    over = over, split = if (!is.null(split)) group$name, stat = stat,
    band = band, of = of, series = role$series,
    measures = role$measures, counted = figures$counted,
    sources = role$sources %||% role$account$sources$source
  ))
}

# list(name, factor), by row of the figures.
split_groups <- function(split, x, figures, call = caller_env()) {
  if (is.null(split)) {
    return(list())
  }
  if (isTRUE(split %in% positions_known)) {
    position <- position_factor(figures$when, split, figures$year_start, call)
    return(list(
      name = gsub(" ", "_", split), factor = droplevels(position)
    ))
  }
  values <- split
  name <- "group"
  # Of a table of one row a text may be its group.
  if (rlang::is_string(split) && (nrow(x) != 1 || split %in% names(x))) {
    check_columns(split, x, "The table", "split", call)
    values <- x[[split]]
    if (!split %in% facts(x)$series) name <- split
  }
  if (length(values) != nrow(x) || is.list(values)) {
    abort_backfill(
      "argument",
      sprintf("`split` has %s for %s.", count_of(length(values), "value"),
              count_of(nrow(x), "row")),
      call = call
    )
  }
  values <- values[figures$row]
  list(name = name, factor = droplevels(as.factor(values)))
}
