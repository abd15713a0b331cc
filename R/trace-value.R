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
  keys <- keys_of(x)
  rows <- vapply(steps, `[[`, 0L, "row")
  out <- tibble::tibble(
    depth = vapply(steps, `[[`, 0L, "depth"),
    column = vapply(steps, `[[`, "", "column"),
    vctrs::vec_slice(keys, rows), period = x$period[rows],
    figure = vapply(steps, `[[`, 0, "figure"), standing = x$standing[rows],
    n = x$n[rows], coverage = x$coverage[rows],
    formula = vapply(steps, `[[`, "", "formula"),
    worked = vapply(steps, `[[`, "", "worked")
  )
  behind <- if (!is.null(records)) records_behind(records, x, out)
  out <- with_records(out, behind, x)
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

# A list of steps: list(row, column, depth, figure, formula, worked), the one
# asked for first and behind it those that it was made of.
traced <- function(x, row, column, depth, leaf = FALSE) {
  note <- facts(x)$added[[column]]
  figure <- as.double(x[[column]][[row]])
  step <- list(
    row = row, column = column, depth = depth, figure = figure,
    formula = if (is.null(note)) {
      value_formula(x, row)
    } else {
      note_in_words(note)
    },
    worked = NA_character_
  )
  if (is.null(note)) {
    return(ratio_steps(x, row, step))
  }
  if (leaf) {
    return(list(step))
  }
  way <- trace_ways()[[note$verb]]
  if (is.null(way) || is.null(note$made) && note$verb %in% with_arguments) {
    abort_backfill(
      "trace", sprintf(
        "How \"%s\" was made is not kept with the table.", column
      ),
      call = NULL
    )
  }
  along <- along_series(x, note$of)
  working <- way(x, along, match(row, along$order), note, column)
  step$worked <- if (is.na(figure)) NA_character_ else
    as.character(working$text)
  if (!is.null(working$beside)) {
    step$formula <- sprintf("%s (%s)", step$formula, working$beside)
  }
  check_worked(step)
  c(list(step), traced_parts(x, row, working, along, column, depth))
}

# A value, and of a ratio the two that it is made of, where the table has them.
ratio_steps <- function(x, row, step) {
  measure <- facts(x)$measures[[as.character(x$measure[[row]])]]
  if (measure$use != "parts" || is.na(step$figure)) {
    return(list(step))
  }
  at <- c(facts(x)$series, "period")
  beside <- which(vctrs::vec_in(
    plain_tibble(x)[at], vctrs::vec_slice(plain_tibble(x)[at], row)
  ))
  parts <- beside[match(c(measure$of, measure$per), x$measure[beside])]
  gives <- x$value[parts[1]] / x$value[parts[2]]
  if (anyNA(parts) || !isTRUE(all.equal(gives, step$figure))) {
    return(list(step))
  }
  step$worked <- paste(put_in(x$value[parts]), collapse = " / ")
  c(list(step), lapply(parts, function(part) {
    traced(x, part, "value", step$depth + 1L)[[1]]
  }))
}

# Verbs whose notes hold the arguments that they were made with.
with_arguments <- c(
  "growth", "lagged", "running total", "running statistic", "rebased", "share",
  "per day", "moving", "smoothed", "deseasonalised", "reseasonalised",
  "remainder", "anomaly"
)

traced_parts <- function(x, row, working, along, column, depth) {
  of <- rep_len(working$column, max(length(working$rows), 1))
  # Of long sums of calculated figures each is traced by itself.
  deep <- length(working$rows) <= 100
  parts <- lapply(seq_along(working$rows), function(k) {
    at <- along$order[[working$rows[[k]]]]
    traced(x, at, of[[k]], depth + 1L, leaf = of[[k]] == column || !deep)
  })
  unlist(parts, recursive = FALSE)
}

# Worked out anew, a step gives the figure that stands in the table.
check_worked <- function(step) {
  if (is.na(step$figure) || is.na(step$worked)) {
    return()
  }
  anew <- worked_out(step$worked)
  size <- max(abs(step$figure), abs(anew), 1e-12, na.rm = TRUE)
  if (is.na(anew) || abs(anew - step$figure) > 1e-7 * size + 1e-9) {
    abort_backfill(
      "trace", sprintf(
        "\"%s\" is %s, but what the table has now gives %s.", step$column,
        put_in(step$figure), put_in(anew)
      ),
      i = sprintf("It was worked out as %s.", substr(step$worked, 1, 200)),
      ">" = paste(
        "Trace it before rows are taken out or figures changed, or calculate",
        "the column anew."
      ),
      call = NULL
    )
  }
}

worked_out <- function(text) {
  known <- list(
    sd = stats::sd, quantile = function(x, share, type = 7) {
      stats::quantile(x, share, names = FALSE, type = type)
    }
  )
  as.double(eval(str2lang(text), known, baseenv()))
}

# What became of the records of a value.
value_formula <- function(x, row) {
  measure <- facts(x)$measures[[as.character(x$measure[[row]])]]
  standing <- as.character(x$standing[[row]])
  if (!is.null(facts(x)$basket)) {
    return("the members of the basket by their weights")
  }
  if (standing == "imputed" && length(facts(x)$imputed) > 0) {
    methods <- vapply(facts(x)$imputed, `[[`, "", "method")
    return(sprintf("filled in (%s)", in_words(methods)))
  }
  if (standing == "projected") {
    return("projected; summary(x, type = \"worksheet\") has each step")
  }
  paste0(
    records_became(measure), if (is_scaled(x, row)) {
      ", scaled to the full length of the period"
    }
  )
}

records_became <- function(measure) {
  if (measure$kind == "counter" && measure$use == "sum") {
    return("what the readings rose by, added up")
  }
  words <- c(
    parts = "its parts, rolled up apart, then divided",
    compound = "returns, compounded", first = "the first reading",
    last = "the last reading", count = "the number of records",
    slots = "the number of slots with a record"
  )
  if (measure$use %in% names(words)) {
    words[[measure$use]]
  } else {
    paste("the", statistic_in_words(measure$use), "of the records")
  }
}

# Whether a first or last period was enlarged, see roll_up().
is_scaled <- function(x, row) {
  scaled <- facts(x)$scaled
  keys <- c(facts(x)$series, "measure", "period")
  !is.null(scaled) && vctrs::vec_in(
    vctrs::vec_slice(plain_tibble(x)[keys], row), plain_tibble(scaled)[keys]
  )
}
