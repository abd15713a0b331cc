# Periods along each series, in order of time.

# What the calculations along a series work on: the rows in order of series and
# period, whatever their order in the table. `order` puts them so, `series` and
# `number` are the sorted rows' series and period number by the laid `calendar`,
# `value` the column `of`. Of the column `value` only what stands for whole
# periods takes part: a partial period is NA.
along_series <- function(x, of) {
  if (!rlang::is_string(of) || !of %in% names(x) || !is.numeric(x[[of]])) {
    numeric <- names(x)[vapply(x, is.numeric, NA)]
    abort_backfill(
      "column",
      "`of` is {value_in_words(of)}, which is not a column of figures in the",
      "table.",
      i = "Those are {in_words(numeric)}."
    )
  }
  layout <- known_layout(x)
  rows <- if (is.null(layout)) {
    find_rows(x)
  } else {
    c(
      rows_of_layout(layout),
      list(
        order = seq_len(nrow(x)), calendar = layout$calendar, layout = layout
      )
    )
  }
  value <- as.double(column_along(x[[of]], rows))
  if (of == "value") {
    standing <- column_along(x$standing, rows)
    value <- whole_values_cpp(
      value, standing, match(c("complete", "imputed"), levels(standing))
    )
  }
  c(rows, list(value = value))
}

# The rows in order of series and period: list(order, series, number, calendar,
# layout).
find_rows <- function(x) {
  # Each distinct start is looked at once.
  times <- distinct_times_cpp(x$period)
  start <- x$period[times$first]
  calendar <- lay_calendar_over(facts(x)$calendar, start)
  numbers <- period_number(start, calendar)
  if (anyNA(numbers) || any(period_start(numbers, calendar) != start)) {
    noun <- with_article(period_noun(calendar))
    abort_backfill(
      "input", "Column \"period\" must hold the start of {noun} in every row.",
      i = "Tables of different periods cannot be put together."
    )
  }
  number <- numbers[times$at]
  keys <- keys_of(x)
  runs <- runs_cpp(keys)
  # Mostly the rows are in order already, as roll_up() gives them.
  apart <- vctrs::vec_unique_count(vctrs::vec_slice(
    keys, runs$first
  )) == length(runs$first)
  if (apart && rises_cpp(runs$run, number)) {
    return(list(
      order = seq_along(number), series = runs$run, number = number,
      calendar = calendar, layout = layout_of(x, runs$run, number, calendar)
    ))
  }
  series <- as.integer(vctrs::vec_group_id(keys))
  order <- order(series, number, method = "radix")
  series <- series[order]
  number <- number[order]
  alike <- which(diff(series) == 0 & diff(number) == 0)
  if (length(alike) > 0) {
    abort_backfill(
      "input",
      "Two rows of one series are for",
      "{period_label(x$period[order[alike[[1]]]], calendar)}.",
      ">" = "Keep one row for each series, measure and period."
    )
  }
  list(order = order, series = series, number = number, calendar = calendar)
}

# The series columns and the measure of some of the rows of `along`.
keys_at <- function(x, along, rows) {
  vctrs::vec_slice(
    keys_of(x), along$order[rows]
  )
}

# A column in the order of `along`, not copied where it is in order already.
column_along <- function(column, along) {
  whole <- in_order(along) && length(along$order) == length(column)
  if (whole) column else vctrs::vec_slice(column, along$order)
}

in_order <- function(along) !is.null(along$layout) || !is.unsorted(along$order)

# The first row of each series, and the number of the series that each row is
# of.
first_rows <- function(along) {
  lengths <- along$layout$lengths
  if (is.null(lengths)) {
    return(stats::setNames(
      runs_cpp(list(along$series))[c("first", "run")], c("first", "line")
    ))
  }
  list(
    first = cumsum(c(1L, lengths))[seq_along(lengths)], line = along$series
  )
}

line_names <- function(x) names_of_lines(keys_of(x))

# The name of each line along time.
lines_along <- function(x, along) {
  names_of_lines(keys_at(x, along, first_rows(along)$first))
}

# A name for each row's line: its series, its measure, or both where there are
# several of both. `keys` are the series columns and the measure; of some rows
# alone it must be said whether the table has `several` measures.
names_of_lines <- function(keys, several = NULL) {
  parts <- as.list(keys)
  several <- several %||% several_measures(keys)
  if (length(parts) > 1 && !is.null(parts$measure) && !several) {
    parts$measure <- NULL
  }
  do.call(paste, c(unname(lapply(parts, as.character)), sep = " / "))
}
