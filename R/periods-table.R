# The periods table: a tibble with one row per series, measure and period. Its attribute "backfill" tells the length of
# the periods, the series columns, the kinds and units of the measures, where the records came from, and what the added
# columns are.

standings <- c("complete", "partial", "empty", "imputed", "lost", "projected")

new_periods <- function(data, every, series, measures, zone, cadence, enough, sources) {
  new_table(
    data, "periods", needed = c(series, "measure", "period", "value", "standing", "n", "coverage"),
    roles = list(every = every, series = series, measures = measures, zone = zone, cadence = cadence,
                 enough = enough, sources = sources, added = list())
  )
}

is_periods <- function(x) inherits(x, "backfill_periods")

check_periods <- function(x, call = caller_env()) {
  if (!is_periods(x)) {
    abort_backfill(
      "input",
      sprintf("`x` is %s, not a periods table.", value_in_words(x)),
      i = "Some steps in between, such as grouping or summarising, make a plain table of it.",
      ">" = "Make one with roll_up(), and add calculations before such steps.",
      call = call
    )
  }
  x
}

# What the calculations along a series work on: the rows in order of series and period, whatever their order in the
# table. `order` puts them so, `series` and `number` are the sorted rows' series and period number, `value` the column
# `of`. Of the column `value` only what stands for whole periods takes part: a partial period is NA.
along_series <- function(x, of, call = caller_env()) {
  if (!rlang::is_string(of) || !of %in% names(x) || !is.numeric(x[[of]])) {
    numeric <- names(x)[vapply(x, is.numeric, NA)]
    abort_backfill("column", sprintf("`of` is %s, which is no column of figures in the table.", value_in_words(of)),
                   i = sprintf("Those are %s.", in_words(numeric)), call = call)
  }
  every <- roles(x)$every
  number <- period_number(x$period, every)
  if (anyNA(number) || any(period_start(number, every) != x$period)) {
    abort_backfill("input", sprintf("Column \"period\" must hold the first day of a %s in every row.", every),
                   i = "Tables of different periods cannot be put together.", call = call)
  }
  series <- vctrs::vec_group_id(plain_tibble(x)[c(roles(x)$series, "measure")])
  order <- order(series, number, method = "radix")
  series <- as.integer(series)[order]
  number <- number[order]
  alike <- which(diff(series) == 0 & diff(number) == 0)
  if (length(alike) > 0) {
    abort_backfill("input", sprintf("Two rows of one series are for %s.",
                                    period_label(x$period[order[alike[[1]]]], every)),
                   ">" = "Keep one row for each series, measure and period.", call = call)
  }
  value <- as.double(x[[of]])[order]
  if (of == "value") {
    value[!x$standing[order] %in% c("complete", "imputed")] <- NA
  }
  list(order = order, series = series, number = number, value = value)
}

# Adds a calculation as a column behind those that are there; `sorted` is in the order of `along`. `note` says what the
# column is: list(verb, of, ...).
add_column <- function(x, name, sorted, along, note) {
  column <- sorted
  column[along$order] <- sorted
  x[[name]] <- column
  attr(x, "backfill")$added[[name]] <- note
  x
}

check_new_name <- function(name, x, argument = "name", call = caller_env()) {
  if (!rlang::is_string(name) || is.na(name) || !nzchar(name)) {
    abort_backfill("argument", sprintf("`%s` is %s; it must be a name for the new column.", argument,
                                       value_in_words(name)), call = call)
  }
  if (name %in% names(x)) {
    abort_backfill("column", sprintf("The table has a column \"%s\" already.", name),
                   ">" = sprintf("Give the new one a name of its own with `%s`.", argument), call = call)
  }
  name
}
