# A figure of a result, such as an index or a ranking, which has a row and a
# column there, and the table that the result was made of.

trace_result <- function(x, row, column, made_of, records) {
  check_traced_row(row, x)
  check_result_column(column, x)
  check_made_of(made_of)
  one <- plain_tibble(x)[row, ]
  working <- working_of(x, one, column, made_of)
  step <- list(
    row = NA_integer_, column = column, depth = 0L,
    figure = as.double(one[[column]]), formula = working$beside,
    worked = as.character(working$text)
  )
  if (is.na(step$figure)) step$worked <- NA_character_
  check_worked(step)
  where <- row_in_words(one, x)
  if (is_records(made_of)) {
    check_none_given(
      list(records = records), "those of this figure are in `made_of`"
    )
    return(trace_of_records(x, step, working$rows, where, made_of))
  }
  parts <- working$parts %||% traced_parts(
    made_of, working$rows, working$column, 1L
  )
  steps <- c(list(step), parts)
  out <- table_of_steps(steps, made_of, c("standing", "n", "coverage"))
  out <- with_keys_of(out, one)
  used <- vapply(steps, `[[`, 0L, "row")[out$column == "value"]
  new_trace(out, made_of, records, list(
    where = where, of = column,
    points = points_of_trace(made_of, line_names(made_of), used)
  ))
}

# What a figure of a row of a result was made of, as new_working() gives it:
# `rows` of the table, and in words what the figure is. `parts` are steps to be
# given in place of these rows.
working_of <- function(x, one, column, table) UseMethod("working_of")

#' @export
working_of.default <- function(x, one, column, table) {
  abort_backfill(
    "trace",
    "Figures of this kind of result",
    "({gsub('_', ' ', sub('^backfill_', '', class(x)[[1]]))}) are not traced.",
    ">" = "Trace those of the result or the periods that it was made of."
  )
}

# The places along time of the line that a row of a result is of.
places_of_line <- function(one, along, table) {
  keys <- keys_of(table)
  own <- vctrs::vec_in(keys, vctrs::vec_cast(one[names(keys)], keys))
  which(column_along(own, along))
}

# Of these those of some periods.
places_in_time <- function(own, period, along) {
  places <- own[match(
    period_number(period, along$calendar), along$number[own]
  )]
  places[!is.na(places)]
}

known_of <- function(places, along) places[!is.na(along$value[places])]

# The result's own row has its series, where it is of one.
with_keys_of <- function(out, one) {
  for (name in intersect(setdiff(names(out), trace_columns), names(one))) {
    if (identical(class(out[[name]]), class(one[[name]]))) {
      out[[name]][[1]] <- one[[name]]
    }
  }
  out
}

# A profile or a grid of records has nothing between it and them.
trace_of_records <- function(x, step, rows, where, records) {
  when <- records[[facts(records)$when]]
  rows <- rows[order(as.numeric(when[rows]))]
  end <- function(place) {
    if (length(rows) > 0) when[rows[[place]]] else when[NA_integer_]
  }
  out <- new_rows(
    depth = 0L, column = step$column, figure = step$figure,
    n = length(rows), formula = step$formula, worked = step$worked,
    first_record = end(1), last_record = end(length(rows))
  )
  new_result(out, "trace", list(
    series = character(), measures = facts(x)$measures,
    sources = facts(x)$sources, where = where, of = step$column,
    records = new_rows(
      step = rep(1L, length(rows)), vctrs::vec_slice(
        plain_tibble(records), rows
      )
    )
  ))
}

# "Hearth, January": what tells a row from others, which stands in its columns
# before the first figure.
row_in_words <- function(one, x) {
  figures <- vapply(one, function(column) {
    is.double(column) && !inherits(column, c("Date", "POSIXt"))
  }, NA) | names(one) %in% c("n", "partial")
  kept <- one[seq_len(match(TRUE, c(figures, TRUE)) - 1)]
  left <- c(
    "rank", "spell", if ("period" %in% names(kept)) c("from", "to"),
    if (length(facts(x)$measures) == 1) "measure"
  )
  kept <- kept[setdiff(names(kept), left)]
  said <- unlist(Map(key_in_words, kept, names(kept), list(facts(x)$calendar)))
  said <- pair_in_words(said, c("from", "to"), " to ")
  said <- pair_in_words(said, c("first", "second"), " and ")
  in_words(said, last = ", ")
}

key_in_words <- function(key, name, calendar) {
  if (inherits(key, c("Date", "POSIXt"))) {
    if (is.null(calendar)) format(key) else period_label(key, calendar)
  } else if (is.numeric(key) && !is.object(key)) {
    sprintf("%s %s", name, plain_format(key))
  } else {
    as.character(key)
  }
}

pair_in_words <- function(said, pair, between) {
  if (!all(pair %in% names(said))) {
    return(said)
  }
  said[[pair[[1]]]] <- paste(said[pair], collapse = between)
  said[setdiff(names(said), pair[[2]])]
}

# Columns of numbers that tell rows apart.
row_numbers <- c(
  "rank", "lag", "horizon", "ahead", "season", "year", "spell"
)

check_traced_row <- function(row, x) {
  if (nrow(x) == 0) {
    abort_backfill("input", "The result has no rows.")
  }
  check_whole(row, "row", 1, nrow(x), "a row of the result")
}

check_result_column <- function(column, x) {
  figures <- names(x)[vapply(plain_tibble(x), function(one) {
    (is.numeric(one) || is.logical(one)) && !is.object(one)
  }, NA)]
  figures <- setdiff(figures, c(row_numbers, facts(x)$series))
  if (!rlang::is_string(column) || !column %in% figures) {
    abort_backfill(
      "column", "`column` is {value_in_words(column)}.",
      i = "It must be a column of figures:",
      "{in_words(quoted(figures), 12, last = ' or ')}."
    )
  }
}

check_made_of <- function(made_of) {
  if (!is_periods(made_of) && !is_records(made_of)) {
    abort_backfill(
      "input", "`made_of` is {value_in_words(made_of)}.",
      i = "It must be the table that the result was made of, which has the",
      "figures behind it."
    )
  }
}
