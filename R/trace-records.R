# The records behind the values of a trace.

# list(rows, first, last, worked): the records of each value step, a table with
# the `step` of each; and by step the times of the first and the last, and what
# they give.
records_behind <- function(records, x, out) {
  steps <- which(out$column == "value")
  role <- facts(records)
  when <- records[[role$when]]
  calendar <- lay_calendar_over(
    facts(x)$calendar, vctrs::vec_c(when, out$period), role$zone
  )
  number <- period_number(when, calendar)
  wanted <- period_number(out$period, calendar)
  found <- lapply(steps, function(step) {
    records_of_step(records, x, out[step, ], number, wanted[[step]])
  })
  for (k in seq_along(steps)) check_behind(found[[k]], out[steps[[k]], ], x)
  ends <- function(which) {
    vctrs::vec_c(!!!lapply(found, function(rows) {
      if (length(rows) > 0) {
        vctrs::vec_slice(when, rows[[which(length(rows))]])
      } else {
        when[NA_integer_]
      }
    }))
  }
  list(
    steps = steps, first = ends(function(n) 1), last = ends(identity),
    worked = vapply(seq_along(steps), function(k) {
      worked_of_records(records, x, out[steps[[k]], ], found[[k]])
    }, ""),
    rows = tibble::tibble(
      step = rep(steps, lengths(found)),
      vctrs::vec_slice(plain_tibble(records), unlist(found))
    )
  )
}

# Its records with a value, in order of time.
records_of_step <- function(records, x, one, number, wanted) {
  measure <- facts(x)$measures[[one$measure]]
  rows <- which(number == wanted)
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
      "trace", sprintf(
        "The value of %s has %s behind it, but `records` has %s in it.",
        period_label(one$period, facts(x)$calendar),
        count_of(one$n, "record"), thousands(length(rows))
      ),
      ">" = "Give the records that the table was rolled up from.", call = NULL
    )
  }
}

# The arithmetic of a flow or a level, where it gives the value.
worked_of_records <- function(records, x, one, rows, most = 1000) {
  measure <- facts(x)$measures[[one$measure]]
  from <- measure$from %||% one$measure
  if (
    length(rows) == 0 || length(rows) > most || is.null(records[[from]]) ||
      !measure$kind %in% counted_kinds
  ) {
    return(NA_character_)
  }
  value <- as.double(records[[from]][rows])
  text <- statistic_text(value, measure$use)
  gives <- if (is.na(text)) NA else worked_out(text)
  same <- !is.na(gives) && isTRUE(all.equal(gives, one$figure))
  if (same) text else NA_character_
}

with_records <- function(out, behind, x) {
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
