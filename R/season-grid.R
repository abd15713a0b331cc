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
cycle_grid <- function(x, rows, columns, stat = NULL, of = "value") {
  check_given()
  figures <- figures_in_time(x, of)
  sides <- c(positions_known, "date", "year")
  rows <- check_position(rows, "rows", sides)
  columns <- check_position(columns, "columns", setdiff(sides, rows))
  stat <- check_cell_statistic(
    stat, facts(x)$measures[unique(figures$keys$measure)], is_periods(x)
  )
  row <- figure_side(figures, rows, columns)
  column <- figure_side(figures, columns, rows)
  cells <- cells_of_sides(figures, list(row, column))
  if (cells > 1e8) {
    abort_backfill(
      "argument", "The grid would have {thousands(cells)} cells.",
      ">" = "Take fewer series, or a coarser side than the date."
    )
  }
  made <- cell_statistic(figures, list(row, column), stat)
  filled <- which(made$count > 0)
  place <- filled - 1L
  wide <- length(column$levels)
  tall <- length(row$levels)
  of_place <- function(levels, code) factor(levels[code + 1L], levels)
  out <- new_rows(
    vctrs::vec_slice(figures$keys, place %/% (tall * wide) + 1L),
    row = of_place(row$levels, place %/% wide %% tall),
    column = of_place(column$levels, place %% wide),
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
