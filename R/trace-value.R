#' Trace a figure back to what it was made of
#'
#' Shows how one figure was made: its formula with the figures put in, the
#' periods that went into it with their standings, and the records behind these.
#' What a column was calculated of is traced in turn, down to the values.
#'
#' Each step is recomputed from the figures in the table, and must give the
#' figure that stands there. Where it does not, as when rows were taken out or
#' figures were changed since, that is an error and not a trace.
#'
#' @param x A periods table with or without columns that verbs have added,
#'   flags, from [flag_periods()], or another result.
#' @param period The period: a date or time in it, or text such as `"2031-04"`.
#'   Of a result that is not flags, `row` and `made_of` instead.
#' @param series Name of the series, as tables and figures print it (`"Hearth"`,
#'   `"ling / kilos"`); not needed where there is one.
#' @param column Name of the column. Of periods by default the one that was
#'   added last, or `"value"`; of a result it must be given.
#' @param records The records that the table was rolled up from, to find those
#'   behind each value; `NULL` where they are not at hand.
#' @param row Of a result, the number of the row.
#' @param made_of Of a result, the table that it was made of: periods, or the
#'   records of a profile or a grid.
#' @return A tibble with a row for each figure, the traced one first and below
#'   each what it was made of: `depth` (0 for the traced one, 1 for what it was
#'   made of, and so on), `column`, the series columns, `measure`, `period`,
#'   `figure`, `standing`, `n` (records), `coverage`, `formula` (in words),
#'   `worked` (arithmetic with the figures put in, in full precision; `NA` where
#'   there is nothing to work out), and with `records` the times of the
#'   `first_record` and the `last_record` and, where they give the value, their
#'   values put into `worked`. `summary()` gives the records themselves, a row
#'   each. For a profile or a grid, the trace has one row; `summary()` lists the
#'   records.
#' @section Results: These are seasonal indices (with their ratios and
#'   averages), profiles, grids, descriptions, group differences, shifts of
#'   level, latest figures, identities, rankings, trends, autocorrelations,
#'   correlations, cross-correlations, links, turning points, seasons of a year,
#'   revisions, counts of bands and wide tables. A figure that was found by
#'   random orders or by a search, such as the `p` of group differences, is
#'   marked as such: its trace has the figures that went into it but no
#'   arithmetic. Other results, such as a verdict or the `summary()` of one, are
#'   refused.
#' @section Flags: Of a flag the trace has the value, the baseline with the
#'   prior values in it, and both limits, and `judgement` instead of `standing`,
#'   `n` and `coverage`. A baseline that is a column stands there without its
#'   parts, which a trace of that column has.
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
#' monthly <- roll_up(nights, every = "month")
#' trace_value(
#'   seasonal_index(monthly), row = 7, column = "index", made_of = monthly
#' )
#' @concept audit
#' @concept provenance
#' @export
trace_value <- function(
  x, period = NULL, series = NULL, column = NULL, records = NULL, row = NULL,
  made_of = NULL
) {
  check_given()
  if (!is.null(records)) {
    records <- last_versions(check_traced_records(records))
  }
  if (inherits(x, "backfill_result") && !inherits(x, "backfill_flags")) {
    check_none_given(
      list(period = period, series = series),
      "figures of this result are traced by `row`"
    )
    return(trace_result(x, row, column, made_of, records))
  }
  check_none_given(
    list(row = row, made_of = made_of),
    "figures of periods and of flags are traced by `period`"
  )
  if (inherits(x, "backfill_flags")) {
    check_none_given(list(records = records), paste(
      "a flag is traced to its prior values, and these in the table that was",
      "judged"
    ))
    return(trace_flag(x, period, series, column))
  }
  x <- check_periods(x)
  check_not_empty(x)
  column <- column %||% c("value", names(facts(x)$added))[[
    length(facts(x)$added) + 1
  ]]
  check_traced(column, x)
  check_series_apart(x, trace_columns)
  row <- row_to_trace(x, period, series)
  steps <- traced(x, row, column, 0L)
  out <- table_of_steps(steps, x, c("standing", "n", "coverage"))
  used <- vapply(steps, `[[`, 0L, "row")[out$column == "value"]
  new_trace(out, x, records, list(
    unit = facts(x)$added[[column]]$unit, of = column,
    where = paste(line_names(x)[[row]], period_label(
      x$period[[row]], facts(x)$calendar
    ), sep = ", "),
    points = points_of_trace(x, line_names(x), used)
  ))
}

# `about` has the `unit` of the figure, its column (`of`), `where` in words it
# stands, and the `points` to be drawn with it.
new_trace <- function(out, x, records, about) {
  behind <- if (!is.null(records)) records_behind(records, x, out)
  new_result(with_records(out, behind), "trace", c(
    facts(x)[c("calendar", "series", "measures", "sources")], about,
    list(records = behind$rows)
  ))
}

check_none_given <- function(given, why) {
  given <- names(given)[!vapply(given, is.null, NA)]
  if (length(given) > 0) {
    abort_backfill("argument", "`{given[[1]]}` is given, but {why}.")
  }
}

# A row for each step, with what the table has of its row.
table_of_steps <- function(steps, x, columns) {
  of <- function(name, like) vapply(steps, `[[`, like, name)
  rows <- vctrs::vec_slice(plain_tibble(x), of("row", 0L))
  new_rows(
    depth = of("depth", 0L), column = of("column", ""),
    rows[c(facts(x)$series, "measure", "period")], figure = of("figure", 0),
    rows[columns], formula = of("formula", ""), worked = of("worked", "")
  )
}

# The values of the series that figures of some rows are of.
points_of_trace <- function(x, lines, used) {
  own <- which(lines %in% lines[used])
  own <- own[order(lines[own], x$period[own])]
  new_rows(
    line = lines[own], period = x$period[own],
    figure = as.double(x$value[own]), used = own %in% used,
    # Flags have none.
    standing = as.character(plain_tibble(x)[["standing"]])[own]
  )
}

trace_columns <- c(
  "depth", "column", "figure", "standing", "n", "coverage", "formula",
  "worked", "first_record", "last_record"
)

check_traced_records <- function(records) {
  if (!is_records(records)) {
    abort_backfill(
      "input", "`records` is {value_in_words(records)}, not a records table.",
      ">" = "Give what read_records() or as_records() made."
    )
  }
  records
}

check_traced <- function(column, x) {
  known <- c("value", names(facts(x)$added))
  if (rlang::is_string(column) && column %in% known) {
    return()
  }
  abort_backfill(
    "column", "`column` is {value_in_words(column)}.",
    i = "It must be a column that a verb has made:",
    "{in_words(quoted(known), last = ' or ')}."
  )
}

# The row of the table that is asked for.
row_to_trace <- function(x, period, series) {
  lines <- line_names(x)
  series <- line_to_trace(series, unique(lines))
  along <- along_series(x, "value")
  number <- number_at(period, along, "period")
  row <- along$order[
    along$number == number & lines[along$order] == series
  ]
  if (length(row) == 0) {
    abort_backfill(
      "argument", "The table has no row of {series} in that `period`."
    )
  }
  row[[1]]
}

line_to_trace <- function(series, known) {
  if (is.null(series) && length(known) == 1) {
    return(known)
  }
  if (!rlang::is_string(series) || !series %in% known) {
    abort_backfill(
      "argument",
      if (is.null(series)) {
        "`series` is not given, and there are {length(known)}."
      } else {
        "`series` is {value_in_words(series)}."
      },
      i = "It must be one of {in_words(quoted(known), 8)}."
    )
  }
  series
}
