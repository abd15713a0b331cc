# What gaps say.

#' @export
describe.backfill_gaps <- function(x, ...) {
  calendar <- facts(x)$calendar
  if (nrow(x) == 0) {
    return("There are no gaps: every period has a value.")
  }
  longest <- which.max(x$periods)
  series <- vctrs::vec_unique_count(keys_of(x))
  sprintf(
    "%s of %s without a value in %s; the longest has %s from %s to %s.",
    count_of(nrow(x), "gap"), count_of_periods(sum(x$periods), calendar),
    count_of(series, "series", "series"), thousands(x$periods[[longest]]),
    period_label(x$from[[longest]], calendar),
    period_label(x$to[[longest]], calendar)
  )
}
