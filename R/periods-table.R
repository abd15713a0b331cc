# The periods table: a tibble with one row per series, measure and period. Its
# attribute "backfill" tells the `calendar`, the `series` columns, the
# `measures` with kind, unit and `use`, what `absent` records mean, the
# `cadences` of the records' series, from what coverage a period is `enough`,
# what became of `partial` ends, from where to where the records reach (`span`,
# two instants), the `sources` of the records, the `falls` of counters, what was
# `joined` of sub-series, and what the `added` columns are.

standings <- c("complete", "partial", "empty", "imputed", "lost", "projected")

new_periods <- function(data, roles) {
  needed <- c(
    roles$series, "measure", "period", "value", "standing", "n", "coverage"
  )
  new_table(data, "periods", needed, c(roles, list(added = list())))
}

is_periods <- function(x) inherits(x, "backfill_periods")

# A table that is still sound after a change by hand, with the levels of its
# standings in their order; else an error.
check_periods <- function(x, call = caller_env()) {
  if (is_read(x)) {
    abort_backfill(
      "input",
      "`x` is a records table; this is calculated for regular periods.",
      ">" = paste(
        "Roll the records up first, such as with roll_up(x, every = \"month\")."
      ),
      call = call
    )
  }
  if (!is_periods(x)) {
    abort_backfill(
      "input",
      sprintf("`x` is %s, not a periods table.", value_in_words(x)),
      i = paste(
        "Some steps in between, such as grouping or summarising, make a",
        "plain table of it."
      ),
      ">" = "Make one with roll_up(), and add calculations before such steps.",
      call = call
    )
  }
  if (!is.null(known_layout(x))) {
    return(x) # it was looked at
  }
  check_period_columns(x, call)
  if (!identical(levels(x$standing), standings)) {
    x$standing <- factor(as.character(x$standing), standings)
  }
  if (!is.character(x$measure)) {
    x$measure <- as.character(x$measure)
  }
  x
}

check_period_columns <- function(x, call) {
  known <- names(facts(x)$measures)
  class <- if (by_clock(facts(x)$calendar)) "POSIXct" else "Date"
  said <- c(
    standing = fault_of_standing(x$standing),
    measure = fault_of_measure(x$measure, known),
    period = if (!inherits(x$period, class) || anyNA(x$period)) sprintf(
      "it must hold the start of a period in every row, as a %s", class
    ),
    unlist(lapply(
      list(value = x$value, n = x$n, coverage = x$coverage),
      function(column) if (!is.numeric(column)) "it holds no numbers"
    ))
  )
  said <- c(said, if (length(said) == 0) fault_of_range(x))
  if (length(said) > 0) {
    abort_backfill(
      "input",
      sprintf(
        "Column \"%s\" of the periods table was changed: %s.",
        names(said)[[1]], said[[1]]
      ),
      ">" = "Undo the change, or make the table again with roll_up().",
      call = call
    )
  }
}

# What is wrong with a column, or nothing.
fault_of_standing <- function(standing) {
  known <- if (is.factor(standing)) {
    levels(standing)[unique(as.integer(standing))]
  } else {
    unique(as.character(standing))
  }
  if (!all(known %in% standings)) {
    sprintf(
      "it has %s, but a standing is %s",
      in_words(quoted(setdiff(known, standings)), 4),
      in_words(quoted(standings), last = " or ")
    )
  }
}

fault_of_measure <- function(measure, known) {
  if (!is.character(measure) && !is.factor(measure) || anyNA(measure)) {
    return("it must name a measure in every row")
  }
  unknown <- setdiff(as.character(unique(measure)), known)
  if (length(unknown) > 0) {
    sprintf(
      "the table knows no measure %s; its measures are %s",
      in_words(quoted(unknown), 4), in_words(quoted(known))
    )
  }
}

fault_of_range <- function(x) {
  share <- range(0, x$coverage, na.rm = TRUE)
  c(
    n = if (nrow(x) > 0 && (anyNA(x$n) || min(x$n) < 0)) {
      "it must be a number of records, 0 or more, in every row"
    },
    coverage = if (share[[1]] < 0 || share[[2]] > 1 + 1e-9) {
      "it must be a share from 0 to 1, or NA where it is not known"
    }
  )
}

# What the calculations along a series work on: the rows in order of series and
# period, whatever their order in the table. `order` puts them so, `series` and
# `number` are the sorted rows' series and period number by the laid `calendar`,
# `value` the column `of`. Of the column `value` only what stands for whole
# periods takes part: a partial period is NA.
along_series <- function(x, of, call = caller_env()) {
  if (!rlang::is_string(of) || !of %in% names(x) || !is.numeric(x[[of]])) {
    numeric <- names(x)[vapply(x, is.numeric, NA)]
    abort_backfill(
      "column",
      sprintf(
        "`of` is %s, which is not a column of figures in the table.",
        value_in_words(of)
      ),
      i = sprintf("Those are %s.", in_words(numeric)), call = call
    )
  }
  layout <- known_layout(x)
  rows <- if (is.null(layout)) find_rows(x, call) else
    c(
      rows_of_layout(layout),
      list(
        order = seq_len(nrow(x)), calendar = layout$calendar, layout = layout
      )
    )
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
find_rows <- function(x, call) {
  # Each distinct start is looked at once.
  times <- distinct_times_cpp(x$period)
  start <- x$period[times$first]
  calendar <- lay_calendar_over(facts(x)$calendar, start)
  numbers <- period_number(start, calendar)
  if (anyNA(numbers) || any(period_start(numbers, calendar) != start)) {
    noun <- with_article(period_noun(calendar))
    abort_backfill(
      "input",
      sprintf(
        "Column \"period\" must hold the start of %s in every row.", noun
      ),
      i = "Tables of different periods cannot be put together.", call = call
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
      sprintf(
        "Two rows of one series are for %s.",
        period_label(
          x$period[order[alike[[1]]]], calendar
        )
      ),
      ">" = "Keep one row for each series, measure and period.", call = call
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
  if (in_order(along)) column else vctrs::vec_slice(column, along$order)
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

# Adds a calculation as a column behind those that are there; `sorted` is in the
# order of `along`. `note` says what the column is, see new_note().
add_column <- function(x, name, sorted, along, note) {
  column <- sorted
  if (!in_order(along)) {
    column[along$order] <- sorted
  }
  x[[name]] <- column
  # What is made of a target tells of the future as well.
  note$target <- note$target || isTRUE(facts(x)$added[[note$of]]$target)
  attr(x, "backfill")$layout <- along$layout
  attr(x, "backfill")$added[[name]] <- note
  x
}

# A series column of the same name would stand twice in a result.
check_series_apart <- function(x, columns, call = caller_env()) {
  taken <- intersect(facts(x)$series, columns)
  if (length(taken) > 0) {
    abort_backfill(
      "column",
      sprintf(
        "The series column %s has the name of a column of the result.",
        quoted(taken[[1]])
      ),
      ">" = paste(
        "Rename it first, as in names(x)[names(x) == \"group\"] <- \"team\"."
      ),
      call = call
    )
  }
}

check_new_name <- function(name, x, argument = "name", call = caller_env()) {
  if (!rlang::is_string(name) || is.na(name) || !nzchar(name)) {
    abort_backfill(
      "argument",
      sprintf("`%s` is %s; it must be a name for the new column.", argument,
              value_in_words(name)),
      call = call
    )
  }
  if (name %in% names(x)) {
    abort_backfill(
      "column", sprintf("The table has a column \"%s\" already.", name),
      ">" = sprintf("Give the new one a name of its own with `%s`.", argument),
      call = call
    )
  }
  name
}

line_names <- function(x) names_of_lines(keys_of(x))

# The name of each line along time.
lines_along <- function(x, along) {
  names_of_lines(keys_at(x, along, first_rows(along)$first))
}

# A name for each row's line: its series, its measure, or both where there are
# several of both. `keys` are the series columns and the measure.
names_of_lines <- function(keys) {
  parts <- as.list(keys)
  if (length(parts) > 1 && length(unique(keys$measure)) == 1) {
    parts$measure <- NULL
  }
  do.call(paste, c(unname(lapply(parts, as.character)), sep = " / "))
}
