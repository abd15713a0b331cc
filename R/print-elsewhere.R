# Records in a database, as what they are.

#' @export
print.backfill_records_at <- function(x, ...) {
  role <- facts(x)
  measures <- vapply(role$measures, `[[`, "", "kind")
  cat(wrapped(sprintf(
    "The records of %s in %s, none of them read: %s by %s%s.",
    if (is_select(role$at$table)) "a SELECT" else role$at$table,
    sub("^The", "the", role$at$engine$label),
    in_words(sprintf("%s (%s)", names(measures), measures)), role$when,
    if (length(role$series) > 0) {
      sprintf(", of each %s", in_words(role$series))
    } else {
      ""
    }
  )), "roll_up() counts them there; account() tells what they are.", sep = "\n")
  invisible(x)
}
