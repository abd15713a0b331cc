# How a result prints: what it says, then its rows, rounded for reading. A sort
# of result has methods of its own where the rules here do not fit.

# What a table says, in sentences.
describe <- function(x, ...) UseMethod("describe")

# Columns that are not shown, as few need them.
columns_left <- function(x) UseMethod("columns_left")

# The unit of each column that is not a plain figure, see format_cells().
column_units <- function(x) UseMethod("column_units")

# Its first rows as text for reading, see new_cells().
table_cells <- function(x, n = Inf) UseMethod("table_cells")

#' @export
print.backfill_result <- function(x, n = 24, ...) {
  said <- wrapped(describe(x))
  writeLines(c(
    said, if (length(said) > 0 && nrow(x) > 0) "", result_lines(x, n)
  ))
  invisible(x)
}

result_lines <- function(x, n = Inf, all = "print(x, n = Inf) shows all") {
  if (nrow(x) == 0) {
    return(character())
  }
  cells <- table_cells(x, n)
  text <- lines_of_cells(cells)
  left <- (cells$rows %||% nrow(x)) - n
  c(
    cli::style_bold(text[[1]]), text[-1], more_rows(left, all, cells$beside)
  )
}

#' @export
describe.backfill_result <- function(x, ...) {
  if (nrow(x) == 0) "There are no rows."
}

#' @export
columns_left.backfill_result <- function(x) character()

#' @export
column_units.backfill_result <- function(x) {
  c(
    share = "share", explained = "share", removed = "share",
    r_squared = "share", positions_p = "p", season_p = "p",
    ranks_p = "p", drift_p = "p",
    drift_p_other = "p", p = "p", outside_p = "p",
    shape_share = "share", shape_p = "p", ljung_box_p = "p", q = "p",
    percent = "%", percent_per_year = "%",
    mape = "% of",
    mape_last_cycle = "% of", mape_other = "% of"
  )
}

#' @export
table_cells.backfill_result <- function(x, n = Inf) {
  shown <- first_rows_of(x, n)
  group <- if ("measure" %in% names(shown)) as.character(shown$measure)
  kept <- setdiff(names(shown), columns_left(x))
  text_cells(with_labels(shown, x)[kept], column_units(x), group)
}

first_rows_of <- function(x, n) {
  plain_tibble(x)[seq_len(min(n, nrow(x))), ]
}

# Its periods by their labels.
with_labels <- function(shown, x) {
  starts <- c(
    "period", "from", "to", "start", "end", "largest_at", "first", "last",
    "lowest_at", "highest_at", "onset", "earliest_onset", "latest_onset",
    "earliest_end", "latest_end"
  )
  for (column in intersect(starts, names(shown))) {
    if (inherits(shown[[column]], c("Date", "POSIXct"))) {
      shown[[column]] <- period_label(shown[[column]], facts(x)$calendar)
    }
  }
  shown
}

# The name of each row's line.
lines_of_result <- function(x) {
  names_of_lines(keys_of(x), facts(x)$several)
}
