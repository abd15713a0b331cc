#' @export
print.backfill_gaps <- function(x, n = 20, ...) {
  calendar <- attr(x, "calendar")
  if (nrow(x) == 0) {
    writeLines("There are no gaps: every period has a value.")
    return(invisible(x))
  }
  longest <- x[which.max(x$periods), ]
  whose <- tibble::new_tibble(as.list(x)[setdiff(names(x), c("from", "to", "periods", "place"))], nrow = nrow(x))
  series <- vctrs::vec_unique_count(whose)
  writeLines(c(wrapped(sprintf(
    "%s of %s without a value in %s; the longest has %s from %s to %s.", count_of(nrow(x), "gap"),
    count_of_periods(sum(x$periods), calendar), count_of(series, "series", "series"),
    format(longest$periods, big.mark = ","), period_label(longest$from, calendar), period_label(longest$to, calendar)
  )), ""))
  shown <- tibble::new_tibble(as.list(x[seq_len(min(n, nrow(x))), ]), nrow = min(n, nrow(x)))
  shown$from <- period_label(shown$from, calendar)
  shown$to <- period_label(shown$to, calendar)
  text <- format_table(shown)
  writeLines(c(cli::style_bold(text[[1]]), text[-1]))
  if (nrow(x) > n) {
    writeLines(sprintf("... %s; print(x, n = Inf) shows all.", count_of(nrow(x) - n, "more row")))
  }
  invisible(x)
}
