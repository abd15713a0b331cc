# What a table of periods, or series, side by side says.

#' @export
describe.backfill_wide <- function(x, ...) {
  about <- facts(x)
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  noun <- period_noun(about$calendar, 2)
  figures <- if (about$of == "value") "values" else about$of
  c(
    sprintf(
      "%s with %s side by side.", sentence_case(gsub("_", " ", figures)),
      if (about$side == "periods") noun else "series"
    ),
    if (!about$partial) {
      sprintf("Those of %s that are not whole are left out.", noun)
    }
  )
}
