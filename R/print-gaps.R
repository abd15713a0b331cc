#' @export
print.backfill_gaps <- function(x, n = 20, ...) {
  calendar <- attr(x, "calendar")
  if (nrow(x) == 0) {
    writeLines("There are no gaps: every period has a value.")
    return(invisible(x))
  }
  longest <- x[which.max(x$periods), ]
  whose <- tibble::new_tibble(
    as.list(x)[setdiff(names(x), c("from", "to", "periods", "place"))],
    nrow = nrow(x)
  )
  series <- vctrs::vec_unique_count(whose)
  writeLines(c(wrapped(sprintf(
    "%s of %s without a value in %s; the longest has %s from %s to %s.",
    count_of(nrow(x), "gap"),
    count_of_periods(sum(x$periods), calendar), count_of(
      series, "series", "series"
    ),
    thousands(longest$periods), period_label(longest$from, calendar),
    period_label(longest$to, calendar)
  )), ""))
  shown <- tibble::new_tibble(as.list(x), nrow = nrow(x))
  shown$from <- period_label(shown$from, calendar)
  shown$to <- period_label(shown$to, calendar)
  print_lines(shown, character(), n)
  invisible(x)
}
