#' A grid of two positions
#'
#' The two-way table of a measure: hours by dates, months by years, weekdays by
#' hours. Of periods, or of records as they are.
#'
#' @inheritParams cycle_profile
#' @param rows,columns What lies down and across: a position such as `"hour"`
#'   (see [cycle_profile()]), `"date"` or `"year"`. The year of weeks is that of
#'   ISO 8601.
#' @return A tibble with a row for each series, measure and cell that has
#'   figures: the series columns, `measure`, `row` and `column` (factors),
#'   `value` and `n`, the number of figures in it.
#' @section Errors: As those of [cycle_profile()].
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' grid <- cycle_grid(crossings, rows = "weekday", columns = "hour")
#' grid
#' autoplot(grid)
#' @concept heat map
#' @export
cycle_grid <- function(x, rows, columns, stat = "mean", of = "value") {
  figures <- figures_in_time(x, of)
  sides <- c(positions_known, "date", "year")
  rows <- check_position(rows, "rows", sides)
  columns <- check_position(columns, "columns", setdiff(sides, rows))
  check_cell_statistic(stat, facts(x)$measures[unique(figures$keys$measure)])
  row <- grid_side(figures, rows, columns)
  column <- grid_side(figures, columns, rows)
  cells <- as.double(nrow(figures$keys)) * nlevels(row) * nlevels(column)
  if (cells > 1e8) {
    abort_backfill(
      "argument", sprintf("The grid would have %s cells.", thousands(cells)),
      ">" = "Take fewer series, or a coarser side than the date."
    )
  }
  cell <- ((figures$line - 1L) * nlevels(row) + as.integer(row) - 1L) *
    nlevels(column) + as.integer(column)
  made <- cell_statistic(figures, as.integer(cell), cells, stat)
  filled <- which(made$count > 0)
  place <- filled - 1L
  of_place <- function(levels, code) factor(levels[code + 1L], levels)
  out <- tibble::tibble(
    vctrs::vec_slice(
      figures$keys, place %/% (nlevels(row) * nlevels(column)) + 1L
    ),
    row = of_place(levels(row), place %/% nlevels(column) %% nlevels(row)),
    column = of_place(levels(column), place %% nlevels(column)),
    value = made$value[filled], n = made$count[filled]
  )
  role <- facts(x)
  new_result(out, "grid", list(
    rows = rows, columns = columns, stat = stat, of = of, series = role$series,
    measures = role$measures,
    counted = figures$counted,
    sources = role$sources %||% role$account$sources$source
  ))
}

# The side of a grid as a factor; `other` is what lies on the other side.
grid_side <- function(figures, side, other, call = caller_env()) {
  if (!side %in% c("date", "year")) {
    return(position_factor(figures$when, side, figures$year_start, call))
  }
  times <- distinct_times_cpp(figures$when)
  when <- figures$when[times$first]
  day <- if (inherits(when, "Date")) when else as.Date(when, tz = zone_of(when))
  if (side == "year" && other == "week") {
    day <- day - (as.POSIXlt(day)$wday + 6) %% 7 + 3
  }
  label <- if (side == "date") day_label(day) else substr(day_label(day), 1, 4)
  factor(label, sort(unique(label)))[times$at]
}
