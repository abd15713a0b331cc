# Checks of arguments that several verbs have.

is_number <- function(x) is.numeric(x) && length(x) == 1 && is.finite(x)

are_numbers <- function(x) {
  is.numeric(x) && length(x) > 0 && all(is.finite(x))
}

is_whole_number <- function(x, least, most) {
  is_number(x) && x == floor(x) && x >= least && x <= most
}

check_one_of <- function(x, choices, argument) {
  if (!rlang::is_string(x) || !x %in% choices) {
    offered <- in_words(quoted(choices), last = " or ")
    abort_backfill(
      "argument", "`{argument}` is {value_in_words(x)}.",
      i = "{word_meant(x, choices) %||% glue('It must be {offered}.')}"
    )
  }
  x
}

# Up to all of it, or `below` that.
check_share <- function(x, argument, below = FALSE) {
  share <- is_number(x) && x > 0 && x <= 1
  if (!share || below && x == 1) {
    abort_backfill(
      "argument", "`{argument}` is {value_in_words(x)}.",
      i = "It must be a share above 0 and {if (below) 'below' else 'up to'} 1,",
      "such as 0.95."
    )
  }
}

check_whole <- function(x, argument, least, most, meaning) {
  if (!is_whole_number(x, least, most)) {
    abort_backfill(
      "argument", "`{argument}` is {value_in_words(x)}.",
      i = "It must be a whole number from {least} to {most}: {meaning}."
    )
  }
}

check_flag <- function(x, argument) {
  if (!is.logical(x) || length(x) != 1 || is.na(x)) {
    abort_backfill(
      "argument",
      "`{argument}` is {value_in_words(x)}; it must be TRUE or FALSE."
    )
  }
}

check_columns <- function(columns, data, where, argument) {
  absent <- setdiff(columns, names(data))
  if (length(absent) > 0) {
    abort_backfill(
      "column",
      "{where} has no column {in_words(quoted(absent))}, which `{argument}`",
      "names.",
      i = "Its columns are {in_words(quoted(names(data)))}."
    )
  }
}

# For packages outside the daily path, which may not be there.
need_package <- function(package, purpose) {
  if (!requireNamespace(package, quietly = TRUE)) {
    abort_backfill(
      "package",
      "The package {package} is needed {purpose}, and is not installed.",
      ">" = "Install it in R with install.packages(\"{package}\")."
    )
  }
}

# An argument that would change nothing is refused: whoever gives it means
# something by it. `where` says beside what it does.
check_meant <- function(given, argument, where) {
  if (given) {
    abort_backfill(
      "argument", "`{argument}` is given, but {where}.",
      ">" = "Leave it out."
    )
  }
}
