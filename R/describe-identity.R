#' Check an identity
#'
#' Whether an equation between measures holds in every period: a total and its
#' parts, a stock and what came and went, a published figure and one's own.
#'
#' Only whole values are compared. Periods in which one of the measures has none
#' are not judged, and the reason says which. Tables of other files, such as
#' totals published elsewhere, are put beside with [put_together()] first, after
#' which each of their series is a measure.
#'
#' @section Chance: There is none in it: a period is broken where the two sides
#'   differ by more than the tolerance. Sides that differ by less than a
#'   thousand-millionth of the larger one are taken for equal, since decimal
#'   fractions are rounded.
#'
#' @inheritParams add_growth
#' @param identity The equation, with numbers, names of measures, `+ - * /` and
#'   brackets on both sides: a formula such as `active ~ opened - ended`, or a
#'   text such as `"active = opened - ended"`. Names with blanks stand in
#'   backquotes.
#' @param tolerance By how much the sides may differ, in their unit.
#' @return A tibble with a row for each series and period in which any of the
#'   measures has a row: the series columns, `period`, `left` and `right` (the
#'   sides), `difference` (left less right), `percent` (of the right side, where
#'   that is above zero), `held` (`NA` where not judged) and `reason` (why not).
#'   `summary()` of it has the broken ones, the furthest apart first.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_formula` for an identity that is not an equation, or has
#'   other parts than these; `backfill_error_argument`.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' monthly <- roll_up(add_measures(crossings, all = market + tide), "month")
#' check_identity(monthly, all ~ market + tide)
#' @concept reconcile
#' @concept accounting identity
#' @concept plausibility check
#' @export
check_identity <- function(x, identity, tolerance = 0) {
  x <- check_periods(x)
  sides <- sides_of_identity(identity)
  check_tolerance(tolerance)
  measures <- facts(x)$measures[unique(as.character(x$measure))]
  used <- intersect(names(measures), unlist(lapply(sides, all.vars)))
  if (length(used) == 0) {
    abort_backfill(
      "formula", "`identity` names no measure of the table.",
      i = "The measures are {in_words(names(measures))}."
    )
  }
  check_series_apart(x, c("left", "right", "difference", "held"))
  rows <- beside_each_other(x, used)
  side <- function(formula) {
    found <- evaluated(formula, rows$values, measures)
    rep_len(as.double(found), nrow(rows$keys))
  }
  left <- side(sides$left)
  right <- side(sides$right)
  difference <- left - right
  allowed <- tolerance + 1e-9 * pmax(abs(left), abs(right))
  out <- new_rows(
    rows$keys, left = left, right = right, difference = difference,
    percent = ifelse(right > 0, 100 * difference / right, NA_real_),
    held = abs(difference) <= allowed, reason = rows$lacking
  )
  out$reason[is.na(out$held) & out$reason == ""] <- "divided by zero"
  new_result(out, "identity", list(
    identity = paste(
      rlang::expr_text(sides$left), "=", rlang::expr_text(sides$right)
    ),
    tolerance = tolerance, calendar = facts(x)$calendar,
    series = facts(x)$series, measures = measures[used],
    sources = facts(x)$sources
  ), needed = c("period", "left", "right", "held"))
}

# list(left, right), from a formula or a text; nothing of it is run.
sides_of_identity <- function(identity) {
  read <- if (rlang::is_string(identity)) {
    tryCatch(rlang::parse_expr(identity), error = function(cnd) NULL)
  } else if (inherits(identity, "formula")) {
    as.call(as.list(identity))
  }
  equation <- is.call(read) && length(read) == 3 &&
    as.character(read[[1]])[[1]] %in% c("=", "~")
  if (!equation) {
    abort_backfill(
      "formula", "`identity` is {value_in_words(identity)}.",
      i = "It must be an equation, such as active ~ opened - ended.",
      choices = list(identity = "active = opened - ended")
    )
  }
  list(left = read[[2]], right = read[[3]])
}

check_tolerance <- function(tolerance) {
  if (!is_number(tolerance) || tolerance < 0) {
    abort_backfill(
      "argument",
      "`tolerance` is {value_in_words(tolerance)}; it must be 0 or an amount",
      "above."
    )
  }
}

# The whole values of measures by series and period: list(keys, values,
# lacking), where `lacking` says in words what a row lacks.
beside_each_other <- function(x, measures) {
  along <- along_series(x, "value")
  plain <- plain_tibble(x)[along$order, ]
  plain$value <- along$value
  plain <- plain[plain$measure %in% measures, ]
  columns <- c(facts(x)$series, "period")
  keys <- vctrs::vec_sort(vctrs::vec_unique(plain[columns]))
  values <- lapply(stats::setNames(measures, measures), function(measure) {
    of <- plain[plain$measure == measure, ]
    at <- vctrs::vec_match(keys, of[columns])
    standing <- as.character(of$standing)[at]
    lacks <- ifelse(
      is.na(at), "not there", ifelse(is.na(of$value[at]), standing, "")
    )
    list(value = of$value[at], lacks = lacks)
  })
  said <- lapply(measures, function(measure) {
    lacks <- values[[measure]]$lacks
    ifelse(lacks == "", "", sprintf("%s is %s", measure, lacks))
  })
  lacking <- do.call(paste, c(said, sep = "; "))
  list(
    keys = keys, values = lapply(values, `[[`, "value"),
    lacking = gsub("(^|; )(; )*$", "", gsub("(; )+", "; ", sub(
      "^(; )+", "", lacking
    )))
  )
}

#' @rdname check_identity
#' @param object What was checked, from `check_identity()`.
#' @param ... Not used.
#' @export
summary.backfill_identity <- function(object, ...) {
  broken <- plain_tibble(object)[object$held %in% FALSE, ]
  new_result(
    broken[order(-abs(broken$difference)), ], "broken", facts(object)
  )
}
