#' @export
print.backfill_calendar <- function(x, ...) {
  writeLines(sprintf(
    "A calendar of %s.",
    sub(period_noun(x), period_noun(x, 2), plain_format(x), fixed = TRUE)
  ))
  invisible(x)
}
