# The records behind the values of a trace.

# list(rows, first, last, worked): the records of each value step, a table with
# the `step` of each; and by step the times of the first and the last, and what
# they give.
records_behind <- function(records, x, out) {
  # The figure of a result has no standing, and no records but by its parts.
  steps <- which(out$column == "value" & !is.na(out[["standing"]]))
  role <- facts(records)
  when <- records[[role$when]]
  calendar <- lay_calendar_over(
    facts(x)$calendar, vctrs::vec_c(when, out$period), role$zone
  )
  of_period <- vctrs::vec_group_loc(period_number(when, calendar))
  at <- match(period_number(out$period[steps], calendar), of_period$key)
  found <- lapply(seq_along(steps), function(k) {
    rows <- if (is.na(at[[k]])) integer() else of_period$loc[[at[[k]]]]
    one <- lapply(out, `[[`, steps[[k]])
    own <- records_of_step(records, x, one, rows)
    check_behind(own, one, x)
    check_given_by(own, one, records, x)
    own
  })
  end <- function(place) {
    vctrs::vec_slice(when, vapply(found, function(rows) {
      if (length(rows) > 0) rows[[place(length(rows))]] else NA_integer_
    }, 0L))
  }
  list(
    steps = steps, first = end(function(n) 1), last = end(identity),
    worked = vapply(seq_along(steps), function(k) {
      worked_of_records(
        records, x, lapply(out, `[[`, steps[[k]]), found[[k]]
      )
    }, ""),
    rows = new_rows(
      !!!stats::setNames(
        list(rep(steps, lengths(found))), unused_name("step", records)
      ),
      vctrs::vec_slice(plain_tibble(records), unlist(found))
    )
  )
}

# Those of the rows that are of the step's series and have a value, in order of
# time.
records_of_step <- function(records, x, one, rows) {
  measure <- facts(x)$measures[[one$measure]]
  for (name in intersect(facts(x)$series, names(records))) {
    rows <- rows[
      as.character(records[[name]][rows]) == as.character(one[[name]])
    ]
  }
  from <- measure$from %||% one$measure
  if (from %in% names(records)) {
    rows <- rows[!is.na(records[[from]][rows])]
  }
  rows[order(as.numeric(records[[facts(records)$when]][rows]))]
}

# Kinds whose records are counted as they stand.
counted_kinds <- c("flow", "level")

check_behind <- function(rows, one, x) {
  measure <- facts(x)$measures[[one$measure]]
  counted <- measure$kind %in% counted_kinds && measure$use != "slots" &&
    facts(x)$calendar$unit != "working day" &&
    !one$standing %in% c("imputed", "projected")
  if (counted && length(rows) != one$n) {
    abort_backfill(
      "trace",
      "The value of {period_label(one$period, facts(x)$calendar)} has",
      "{count_of(one$n, 'record')} behind it, but `records` has",
      "{thousands(length(rows))} in it.",
      ">" = "Give the records that the table was rolled up from."
    )
  }
}

# Levels of several places may be averaged, and partial ends enlarged.
given_as_they_are <- function(measure, one, x) {
  measure$use %in% names(given_by_records) &&
    measure$kind %in% counted_kinds &&
    one$standing %in% c("complete", "partial") &&
    !identical(facts(x)$partial, "scale") &&
    (measure$kind == "flow" || is.null(facts(x)$joined))
}

# What records give whichever way they were rolled up.
given_by_records <- list(sum = sum, highest = max, lowest = min)

# A value that was changed by hand since is none that its records give.
check_given_by <- function(rows, one, records, x) {
  measure <- facts(x)$measures[[one$measure]]
  figures <- as.double(records[[measure$from %||% one$measure]])[rows]
  statistic <- given_by_records[[measure$use]]
  if (length(figures) == 0 || !given_as_they_are(measure, one, x)) {
    return()
  }
  gives <- statistic(figures)
  if (abs(gives - one$figure) > 1e-9 * sum(abs(figures))) {
    abort_backfill(
      "trace",
      "The value of {period_label(one$period, facts(x)$calendar)} is",
      "{format(one$figure, digits = 10)}, but its records give",
      "{format(gives, digits = 10)}.",
      i = "It was changed since, or the records are not those of the table."
    )
  }
}

# The arithmetic of records, where it gives the value.
worked_of_records <- function(records, x, one, rows, most = 1000) {
  measure <- facts(x)$measures[[one$measure]]
  from <- measure$from %||% one$measure
  if (
    length(rows) == 0 || length(rows) > most || is.null(records[[from]])
  ) {
    return(NA_character_)
  }
  if (measure$kind == "counter" && measure$use == "sum") {
    rows <- c(reading_before(records, x, one, rows[[1]], from), rows)
  }
  value <- as.double(records[[from]][rows])
  text <- switch(
    paste(measure$kind, measure$use),
    "counter sum" = rises_text(value),
    "return compound" = worked_text("prod(1 + x) - 1", x = value),
    statistic_text(value, measure$use)
  )
  gives <- if (is.na(text)) NA else worked_out(text)
  same <- !is.na(gives) && isTRUE(all.equal(gives, one$figure))
  if (same) text else NA_character_
}

# The last reading of the series before a row.
reading_before <- function(records, x, one, row, from) {
  when <- as.numeric(records[[facts(records)$when]])
  earlier <- records_of_step(
    records, x, one, which(when < when[[row]])
  )
  earlier[length(earlier)]
}

# What readings rose by: the last one less the one before the first.
rises_text <- function(value) {
  ends <- put_in(value[c(length(value), 1)])
  paste(ends, collapse = " - ")
}

with_records <- function(out, behind) {
  if (is.null(behind)) {
    return(out)
  }
  at <- match(seq_len(nrow(out)), behind$steps)
  out$worked <- ifelse(
    is.na(at) | is.na(behind$worked[at]), out$worked, behind$worked[at]
  )
  out$first_record <- behind$first[at]
  out$last_record <- behind$last[at]
  out
}

#' @rdname trace_value
#' @param object A trace, from `trace_value()`.
#' @param ... Not used.
#' @export
summary.backfill_trace <- function(object, ...) {
  records <- facts(object)$records
  if (is.null(records)) {
    abort_backfill(
      "input", "The trace has no records.",
      ">" = "Give them: trace_value(x, period, records = ...)."
    )
  }
  new_result(
    records, "trace_records",
    facts(object)[c("calendar", "series", "measures", "sources")]
  )
}
