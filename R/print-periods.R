#' Print periods
#'
#' What the table says in sentences, then its rows, rounded for reading.
#'
#' @param x A periods table, from [roll_up()].
#' @param n How many rows to show; `Inf` for all.
#' @param ... Not used.
#' @return `x`, invisibly.
#' @examples
#' nights <- read_records(demo_file("guest-nights.csv"),
#'   when = "month", series = "island", measures = c(guest_nights = "flow")
#' )
#' print(roll_up(nights, every = "year"), n = 5)
#' @export
print.backfill_periods <- function(x, n = 20, ...) {
  cat(wrapped(describe_periods(x)), sep = "\n")
  cat("\n")
  shown <- utils::head(plain_tibble(x), n)
  text <- format_table(reading_columns(shown, roles(x)$every), reading_units(x))
  cat(cli::style_bold(text[[1]]), text[-1], sep = "\n")
  if (nrow(x) > nrow(shown)) {
    cat(sprintf("... %s; print(x, n = Inf) shows all.\n", count_of(nrow(x) - nrow(shown), "more row")))
  }
  invisible(x)
}

# Sentences broken at the width of the terminal.
wrapped <- function(sentences) {
  unlist(lapply(sentences, strwrap, width = min(cli::console_width(), 100), exdent = 2))
}

reading_columns <- function(data, every) {
  data$period <- period_label(data$period, every)
  data
}

reading_units <- function(x) {
  added <- unlist(lapply(roles(x)$added, `[[`, "unit"))
  c(coverage = "share", added)
}
