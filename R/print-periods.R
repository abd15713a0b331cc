#' Print periods
#'
#' What the table says in sentences, then its rows, rounded for reading.
#'
#' @param x A periods table, from [roll_up()].
#' @param n How many rows to show; `Inf` for all.
#' @param ... Not used.
#' @return `x`, invisibly.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' print(roll_up(nights, every = "year"), n = 5)
#' @export
print.backfill_periods <- function(x, n = 20, ...) {
  writeLines(c(wrapped(describe(x)), ""))
  text <- periods_table(x, seq_len(min(n, nrow(x))))
  writeLines(c(cli::style_bold(text[[1]]), text[-1], more_rows(nrow(x) - n)))
  invisible(x)
}

# Some rows of the table as lines of text, the header first.
periods_table <- function(x, rows = seq_len(nrow(x))) {
  lines_of_cells(cells_of_periods(x, rows))
}

#' @export
table_cells.backfill_periods <- function(x, n = Inf) {
  cells_of_periods(x, seq_len(min(n, nrow(x))))
}

cells_of_periods <- function(x, rows) {
  role <- facts(x)
  shown <- vctrs::vec_slice(plain_tibble(x), rows)
  shown$period <- period_label(shown$period, role$calendar)
  units <- c(coverage = "coverage", unlist(lapply(role$added, `[[`, "unit")))
  text_cells(shown, units, rounded_alike(shown, role$series))
}

# The lines of one measure are rounded alike, but for those that would be left
# with hardly a digit: a price in a table of thousands.
rounded_alike <- function(shown, series) {
  line <- as.character(vctrs::vec_group_id(shown[c(series, "measure")]))
  decimals <- function(group) {
    vapply(
      split(shown$value, group), decimals_for, 0
    )[group]
  }
  ifelse(decimals(line) > decimals(shown$measure) + 1, line, shown$measure)
}
