#' Trace a figure back to what it was made of
#'
#' The way one figure of a periods table was made: the formula of its column
#' with the figures put in, the periods that went into it with their standings,
#' and the records behind these. What a column was calculated of is traced in
#' turn, down to the values.
#'
#' Each step is worked out anew from the figures in the table, and must give the
#' figure that stands there. Where it does not, as when rows were taken out or
#' figures were changed since, that is an error and not a trace.
#'
#' @param x A periods table with or without columns that verbs have added, or
#'   flags, from [flag_periods()].
#' @param period The period: a date or time in it, or text such as `"2031-04"`.
#' @param series Name of the series, as tables and figures print it (`"Hearth"`,
#'   `"ling / kilos"`); not needed where there is one.
#' @param column Name of the column. By default the one that was added last, or
#'   `"value"`.
#' @param records The records that the table was rolled up from, to find those
#'   behind each value; `NULL` where they are not at hand.
#' @return A tibble with a row for each figure, the traced one first and below
#'   each what it was made of: `depth` (0 for the traced one, 1 for what it was
#'   made of, and so on), `column`, the series columns, `measure`, `period`,
#'   `figure`, `standing`, `n` (records), `coverage`, `formula` (in words),
#'   `worked` (arithmetic with the figures put in, in full precision; `NA` where
#'   there is nothing to work out), and with `records` the times of the
#'   `first_record` and the `last_record` and, of a flow or a level, their
#'   values put into `worked`. `summary()` gives the records themselves, a row
#'   each.
#' @section Flags: Of a flag the trace has the value, the baseline with the
#'   prior values in it, and both limits, and `judgement` instead of `standing`,
#'   `n` and `coverage`. A baseline that is a season, a column or a year to date
#'   stands there without its parts.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_column` and `backfill_error_argument` for a column, a
#'   series or a period that is not there; `backfill_error_trace` where a
#'   figure cannot be traced, or is not what its parts give.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' yearly <- add_growth(
#'   add_moving(roll_up(nights, every = "quarter"), window = 4),
#'   over = "1 year", of = "moving_mean"
#' )
#' found <- trace_value(yearly, "2031-05", "Hearth", records = nights)
#' found
#' summary(found)
#' @concept audit
#' @concept provenance
#' @export
trace_value <- function(
  x, period, series = NULL, column = NULL, records = NULL
) {
  if (inherits(x, "backfill_flags")) {
    return(trace_flag(x, period, series, column))
  }
  x <- check_periods(x)
  column <- column %||% c("value", names(facts(x)$added))[[
    length(facts(x)$added) + 1
  ]]
  check_traced(column, x)
  check_series_apart(x, trace_columns)
  row <- row_to_trace(x, period, series)
  if (!is.null(records)) {
    records <- last_versions(check_traced_records(records))
  }
  steps <- traced(x, row, column, 0L)
  out <- table_of_steps(steps, x, c("standing", "n", "coverage"))
  behind <- if (!is.null(records)) records_behind(records, x, out)
  out <- with_records(out, behind)
  new_result(out, "trace", c(
    facts(x)[c("calendar", "series", "measures", "sources")],
    list(
      records = behind$rows,
      unit = facts(x)$added[[column]]$unit, of = column,
      points = points_of_trace(x, line_names(x), row),
      line = line_names(x)[[row]]
    )
  ))
}

# A row for each step, with what the table has of its row.
table_of_steps <- function(steps, x, columns) {
  of <- function(name, like) vapply(steps, `[[`, like, name)
  rows <- vctrs::vec_slice(plain_tibble(x), of("row", 0L))
  tibble::tibble(
    depth = of("depth", 0L), column = of("column", ""),
    rows[c(facts(x)$series, "measure", "period")], figure = of("figure", 0),
    rows[columns], formula = of("formula", ""), worked = of("worked", "")
  )
}

# The values of the series that is traced.
points_of_trace <- function(x, lines, row) {
  own <- lines == lines[[row]]
  tibble::tibble(period = x$period[own], figure = as.double(x$value[own]))
}

trace_columns <- c(
  "depth", "column", "figure", "standing", "n", "coverage", "formula",
  "worked", "first_record", "last_record"
)

check_traced_records <- function(records, call = caller_env()) {
  if (!is_records(records)) {
    abort_backfill(
      "input", sprintf(
        "`records` is %s, not a records table.", value_in_words(records)
      ),
      ">" = "Give what read_records() or as_records() made.", call = call
    )
  }
  records
}

check_traced <- function(column, x, call = caller_env()) {
  known <- c("value", names(facts(x)$added))
  if (rlang::is_string(column) && column %in% known) {
    return()
  }
  abort_backfill(
    "column", sprintf("`column` is %s.", value_in_words(column)),
    i = sprintf(
      "It must be a column that a verb has made: %s.",
      in_words(quoted(known), last = " or ")
    ),
    call = call
  )
}

# The row of the table that is asked for.
row_to_trace <- function(x, period, series, call = caller_env()) {
  lines <- line_names(x)
  series <- line_to_trace(series, unique(lines), call)
  along <- along_series(x, "value")
  number <- number_at(period, along, "period", call)
  row <- along$order[
    along$number == number & lines[along$order] == series
  ]
  if (length(row) == 0) {
    abort_backfill(
      "argument",
      sprintf("The table has no row of %s in that `period`.", series),
      call = call
    )
  }
  row[[1]]
}

line_to_trace <- function(series, known, call = caller_env()) {
  if (is.null(series) && length(known) == 1) {
    return(known)
  }
  if (!rlang::is_string(series) || !series %in% known) {
    abort_backfill(
      "argument", if (is.null(series)) {
        sprintf("`series` is not given, and there are %d.", length(known))
      } else {
        sprintf("`series` is %s.", value_in_words(series))
      },
      i = sprintf("It must be one of %s.", in_words(quoted(known), 8)),
      call = call
    )
  }
  series
}
