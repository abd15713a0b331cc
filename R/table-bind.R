# Tables below each other: what is known of them is put together where they can
# be one table, and they are refused where not.

#' @export
rbind.backfill_table <- function(..., deparse.level = 1) { # nolint
  tables <- Filter(Negate(is.null), list(...))
  if (!all(vapply(tables, inherits, NA, "backfill_table"))) {
    return(do.call(rbind, lapply(tables, function(x) {
      if (inherits(x, "backfill_table")) plain_tibble(x) else x
    })))
  }
  facts <- Reduce(facts_of_both, lapply(tables, facts))
  out <- vctrs::vec_rbind(!!!lapply(tables, plain_tibble))
  attr(out, "backfill") <- facts
  class(out) <- class(tables[[1]])
  out
}

# As bind_rows() of dplyr asks whether they can be one.
#' @exportS3Method vctrs::vec_ptype2
vec_ptype2.backfill_periods.backfill_periods <- function(x, y, ...) { # nolint
  one_of_both(x, y, ...)
}

#' @exportS3Method vctrs::vec_ptype2
vec_ptype2.backfill_records.backfill_records <- function(x, y, ...) { # nolint
  one_of_both(x, y, ...)
}

one_of_both <- function(x, y, ...) {
  out <- vctrs::tib_ptype2(plain_tibble(x), plain_tibble(y), ...)
  attr(out, "backfill") <- facts_of_both(facts(x), facts(y))
  class(out) <- class(x)
  out
}

#' @exportS3Method vctrs::vec_cast
vec_cast.backfill_periods.backfill_periods <- function(x, to, ...) { # nolint
  as_other(x, to, ...)
}

#' @exportS3Method vctrs::vec_cast
vec_cast.backfill_records.backfill_records <- function(x, to, ...) { # nolint
  as_other(x, to, ...)
}

as_other <- function(x, to, ...) {
  out <- vctrs::tib_cast(plain_tibble(x), plain_tibble(to), ...)
  attr(out, "backfill") <- facts(to)
  class(out) <- class(to)
  out
}

facts_of_both <- function(one, other) {
  unlike <- unlike_facts(one, other)
  if (!is.null(unlike)) {
    abort_backfill(
      "input", "The tables cannot be put below each other: {unlike}.",
      ">" = "Make them alike first, or put series beside each other with",
      "put_together() or join_records()."
    )
  }
  # What was found of the rows of one table is not so of both, nor what one
  # alone was narrowed to.
  one["layout"] <- NULL
  for (narrowed in c("kept", "asked")) {
    if (!identical(one[[narrowed]], other[[narrowed]])) one[narrowed] <- NULL
  }
  measured <- list(names(one$measures), names(other$measures))
  one$measures <- c(
    one$measures, other$measures[setdiff(names(other$measures),
                                         names(one$measures))]
  )
  one$added <- c(
    one$added, other$added[setdiff(names(other$added), names(one$added))]
  )
  # Parts of the same records.
  if (!is.null(one$mark) && identical(one$mark, other$mark)) {
    return(one)
  }
  one$sources <- unique(c(one$sources, other$sources))
  if (!is.null(one$span)) one$span <- range(one$span, other$span)
  one$enough <- least_enough(list(one$enough, other$enough))
  if (!is.null(one$cadences)) {
    one$cadences <- cadences_of_both(
      one$cadences, other$cadences, measured[[1]], measured[[2]]
    )
  }
  if (!is.null(one$account)) {
    one$account <- account_of_both(one$account, other$account)
    one$rows <- one$rows + other$rows
  }
  one
}

# What calendars that cut time alike have in common; a file of an earlier
# version may lack some.
cut_of_calendar <- function(own, ...) {
  fields <- c(
    "base", "count", "number", "unit", "week_start", "year_start", "weeks", ...
  )
  lapply(fields, function(field) own[[field]])
}

# Why they cannot be of one table, or NULL.
unlike_facts <- function(one, other) {
  both <- intersect(names(one$measures), names(other$measures))
  told <- c("kind", "unit", "use", "of", "per")
  measured <- Filter(function(name) {
    !identical(one$measures[[name]][told], other$measures[[name]][told])
  }, both)
  columns <- Filter(function(name) {
    parts <- c("words", "of", "unit")
    !identical(one$added[[name]][parts], other$added[[name]][parts])
  }, intersect(names(one$added), names(other$added)))
  if (!identical(one$what, other$what)) {
    sprintf("one is %s, the other %s", one$what, other$what)
  } else if (!setequal(one$series, other$series)) {
    "their series columns differ"
  } else if (!identical(
    cut_of_calendar(one$calendar, "zone"),
    cut_of_calendar(other$calendar, "zone")
  )) {
    "their calendars differ"
  } else if (!identical(one[c("zone", "when")], other[c("zone", "when")])) {
    "their times are not of one column and zone"
  } else if (length(measured) > 0) {
    sprintf(
      "%s is not of one kind, unit and statistic in both", quoted(measured[[1]])
    )
  } else if (length(columns) > 0) {
    glue("the column {quoted(columns[[1]])} is not the same figure in both")
  } else if (!is.null(one$account) &&
               !setequal(names(one$measures), names(other$measures))) {
    "their measures differ"
  }
}

# The least of several, where each was given.
least_enough <- function(each) {
  if (!any(vapply(each, is.null, NA))) min(unlist(each))
}

account_of_both <- function(one, other) {
  for (count in c("rows_read", "rows_used", "rows_merged", "blank_lines")) {
    one[[count]] <- one[[count]] + other[[count]]
  }
  for (table in c("sources", "set_aside")) {
    one[[table]] <- vctrs::vec_rbind(one[[table]], other[[table]])
  }
  one$notes <- unique(c(one$notes, other$notes))
  one
}
