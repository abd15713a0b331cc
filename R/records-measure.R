#' Name the kind of a measure
#'
#' The kind says what happens to a measure when its records are rolled up to longer periods, so that a change of period
#' cannot make nonsense of it.
#'
#' | kind | example | over a longer period | an empty period |
#' |---|---|---|---|
#' | `"flow"` | boardings, kilograms sold | added up | `NA` |
#' | `"level"` | price, temperature, stock on hand | mean of the readings | `NA` |
#'
#' @param kind The kind: `"flow"` or `"level"`.
#' @param unit What is counted or measured, such as `"boardings"` or `"kg"`; a single string, or `NULL` where it is not
#'   known. It labels the axes of figures.
#' @return A measure, to be named in the `measures` argument of [read_records()].
#' @section Errors: `backfill_error_kind` for an unknown kind, `backfill_error_argument` for a unit that is no string.
#' @examples
#' measure("flow", unit = "boardings")
#' measure("level")
#' @export
measure <- function(kind, unit = NULL) {
  if (!rlang::is_string(kind) || !kind %in% measure_kinds) {
    abort_backfill(
      "kind",
      sprintf("The kind of a measure is %s.", value_in_words(kind)),
      i = "It must be \"flow\" (added up over time, such as sales) or \"level\" (averaged, such as a price)."
    )
  }
  if (!is.null(unit) && !rlang::is_string(unit)) {
    abort_backfill("argument", "`unit` must be a single string, such as \"boardings\".")
  }
  structure(list(kind = kind, unit = unit), class = "backfill_measure")
}

measure_kinds <- c("flow", "level")

#' @export
format.backfill_measure <- function(x, ...) {
  if (is.null(x$unit)) x$kind else paste0(x$kind, " in ", x$unit)
}

# The `measures` argument as a named list of measures: c(name = "flow") and list(name = measure("flow")) mean the same.
check_measures <- function(measures, call = caller_env()) {
  if (inherits(measures, "backfill_measure") || length(measures) == 0 || !rlang::is_named(measures)) {
    abort_backfill(
      "argument",
      "`measures` must name at least one column and its kind.",
      ">" = "Write it as c(boardings = \"flow\") or list(boardings = measure(\"flow\", unit = \"people\")).",
      call = call
    )
  }
  if (anyDuplicated(names(measures))) {
    twice <- names(measures)[duplicated(names(measures))]
    abort_backfill("argument", sprintf("`measures` names %s more than once.", in_words(unique(twice))), call = call)
  }
  lapply(as.list(measures), function(x) {
    if (inherits(x, "backfill_measure")) x else measure(x)
  })
}
