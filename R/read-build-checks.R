# What reading refuses: roles without columns, columns that read badly.

check_known <- function(known, layout) {
  if (is.null(known)) {
    return()
  }
  if (!rlang::is_string(known)) {
    abort_backfill(
      "argument", "`known` is {value_in_words(known)}; it must name a column."
    )
  }
  if (layout != "rows") {
    abort_backfill(
      "argument", "`known` is given, but `layout` is \"{layout}\".",
      i = "Only records that stand in rows have a day of publication each."
    )
  }
}

check_known_there <- function(raw, series, measures) {
  if (is.null(raw$known)) {
    return()
  }
  where <- sub(
    "^data frame$", "The data frame", basename(raw$sources$source[[1]])
  )
  check_columns(raw$known, raw$data, where, "known")
  if (raw$known %in% c(raw$when, series, names(measures))) {
    abort_backfill(
      "argument", "Column \"{raw$known}\" has two roles.",
      i = "The day of publication stands in a column of its own."
    )
  }
}

check_rows <- function(raw) {
  if (raw$rows == 0) {
    abort_backfill(
      "file",
      "{in_words(basename(raw$sources$source), 3)} has a header but no rows",
      "that could be used."
    )
  }
}

# Checks that the columns with roles are there, one role each; gives the
# measures.
check_roles <- function(raw, when, measures, series) {
  data <- raw$data
  files <- nrow(raw$sources)
  where <- if (files == 1) {
    basename(raw$sources$source)
  } else {
    sprintf("What %d files hold", files)
  }
  where <- sub("^data frame$", "The data frame", where)
  twice <- unique(names(data)[duplicated(names(data))])
  if (length(twice) > 0) {
    abort_backfill(
      "column",
      "{where} has more than one column named {in_words(quoted(twice))}.",
      ">" = "Give each column a name of its own."
    )
  }
  needed <- names(plain_measures(measures))
  check_columns(when, data, where, "when")
  check_columns(needed, data, where, "measures")
  check_columns(series, data, where, "series")
  dots <- grep("^[.][.]([.]|[0-9]+)$", series, value = TRUE)
  if (length(dots) > 0) {
    abort_backfill(
      "column",
      "The series column {quoted(dots[[1]])} has a name that R keeps to",
      "itself.",
      ">" = "Rename it."
    )
  }
  roles <- c(unique(when), series, names(measures))
  if (anyDuplicated(roles)) {
    twice <- in_words(quoted(unique(roles[duplicated(roles)])))
    abort_backfill(
      "argument", "Column {twice} has two roles.",
      i = "A column is the date, part of the series, or a measure."
    )
  }
  measures
}

# A few bad rows are set aside; a column of which half or more cannot be read is
# not what the user took it for.
stop_unreadable <- function(found, raw, class, expected) {
  fit <- raw$rows - nrow(found)
  aside <- located(
    vctrs::vec_slice(found, seq_len(min(3, nrow(found)))),
    utils::modifyList(raw, list(rejected = NULL))
  )
  abort_backfill(
    class,
    "Column \"{found$column[[1]]}\" of {basename(aside$source[[1]])} cannot be",
    "read: {if (fit == 0) 'none' else paste('only', fit)} of its",
    "{count_of(raw$rows, 'row fits', 'rows fit')}.",
    i = if (!is.null(expected)) "{expected}",
    x = "Line {aside$line}: {quoted(aside$text)}, {aside$reason}."
  )
}

stop_strict <- function(aside) {
  first <- aside[1, ]
  abort_backfill(
    "strict",
    "Line {first$line} of {basename(first$source)} cannot be used:",
    "{quoted(first$text)}, {first$reason}.",
    i = if (nrow(aside) > 1) {
      "{count_of(nrow(aside), 'row')} cannot be used in all."
    },
    ">" = "Mend them, or leave `strict` out, and such rows are set aside and",
    "listed."
  )
}
