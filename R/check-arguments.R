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
    abort_backfill(
      "argument", sprintf("`%s` is %s.", argument, value_in_words(x)),
      i = word_meant(x, choices) %||% sprintf(
        "It must be %s.", in_words(quoted(choices), last = " or ")
      )
    )
  }
  x
}

# Up to all of it, or `below` that.
check_share <- function(x, argument, below = FALSE) {
  share <- is_number(x) && x > 0 && x <= 1
  if (!share || below && x == 1) {
    abort_backfill(
      "argument", sprintf("`%s` is %s.", argument, value_in_words(x)),
      i = sprintf(
        "It must be a share above 0 and %s 1, such as 0.95.",
        if (below) "below" else "up to"
      )
    )
  }
}

check_whole <- function(x, argument, least, most, meaning) {
  if (!is_whole_number(x, least, most)) {
    abort_backfill(
      "argument", sprintf("`%s` is %s.", argument, value_in_words(x)),
      i = sprintf(
        "It must be a whole number from %d to %d: %s.", least, most, meaning
      )
    )
  }
}

check_flag <- function(x, argument) {
  if (!is.logical(x) || length(x) != 1 || is.na(x)) {
    abort_backfill(
      "argument",
      sprintf(
        "`%s` is %s; it must be TRUE or FALSE.", argument, value_in_words(x)
      )
    )
  }
}

check_columns <- function(columns, data, where, argument) {
  absent <- setdiff(columns, names(data))
  if (length(absent) > 0) {
    abort_backfill(
      "column",
      sprintf(
        "%s has no column %s, which `%s` names.", where,
        in_words(quoted(absent)), argument
      ),
      i = sprintf("Its columns are %s.", in_words(quoted(names(data))))
    )
  }
}

# For packages outside the daily path, which may not be there.
need_package <- function(package, purpose) {
  if (!requireNamespace(package, quietly = TRUE)) {
    abort_backfill(
      "package",
      sprintf(
        "The package %s is needed %s, and is not installed.", package, purpose
      ),
      ">" = sprintf("Install it in R with install.packages(\"%s\").", package)
    )
  }
}

# An argument that would change nothing is refused: whoever gives it means
# something by it. `where` says beside what it does.
check_meant <- function(given, argument, where) {
  if (given) {
    abort_backfill(
      "argument", sprintf("`%s` is given, but %s.", argument, where),
      ">" = "Leave it out."
    )
  }
}
