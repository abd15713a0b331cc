# Columns that calculations add to a periods table, and their names.

# Adds a calculation as a column behind those that are there; `sorted` is in the
# order of `along`. `note` says what the column is, see new_note().
add_column <- function(x, name, sorted, along, note) {
  column <- sorted
  beyond <- which(is.infinite(column))
  if (length(beyond) > 0) {
    column[beyond] <- NA
    note$withheld <- c(
      note$withheld, "it is too large for a number" = length(beyond)
    )
  }
  if (!in_order(along)) {
    column[along$order] <- column
  }
  x[[name]] <- column
  # What is made of a target tells of the future as well.
  note$target <- note$target || isTRUE(facts(x)$added[[note$of]]$target)
  attr(x, "backfill")$layout <- along$layout
  attr(x, "backfill")$added[[name]] <- note
  x
}

# A series column of the same name would stand twice in a result.
check_series_apart <- function(x, columns) {
  taken <- intersect(facts(x)$series, columns)
  if (length(taken) > 0) {
    abort_backfill(
      "column",
      "The series column {quoted(taken[[1]])} has the name of a column of the",
      "result.",
      ">" = "Rename it first, as in names(x)[names(x) == \"group\"] <-",
      "\"team\"."
    )
  }
}

check_new_name <- function(name, x, argument = "name") {
  if (!rlang::is_string(name) || is.na(name) || !nzchar(name)) {
    abort_backfill(
      "argument",
      "`{argument}` is {value_in_words(name)}; it must be a name for the new",
      "column."
    )
  }
  if (name %in% names(x)) {
    abort_backfill(
      "column", "The table has a column \"{name}\" already.",
      ">" = "Give the new one a name of its own with `{argument}`."
    )
  }
  name
}
