#' @export
print.backfill_chunked <- function(x, ...) {
  role <- facts(x)
  measures <- sprintf(
    "%s (%s)", names(role$measures), vapply(role$measures, format, "")
  )
  read <-
    if (
      is.null(role$source$found)
    ) "not read yet; roll_up() reads them in chunks" else
      sprintf("%s used", count_of(collected(x)$account$rows_used, "row"))
  writeLines(wrapped(sprintf(
    "Records of %s: %s. Measures: %s.", in_words(basename(x$files)), read,
    in_words(measures)
  )))
  invisible(x)
}
