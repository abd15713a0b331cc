# What reading refuses: roles without columns, columns that read badly.

check_known <- function(known, layout) {
  if (is.null(known)) {
    return()
  }
  if (!rlang::is_string(known)) {
    abort_backfill(
      "argument",
      sprintf("`known` is %s; it must name a column.", value_in_words(known))
    )
  }
  if (layout != "rows") {
    abort_backfill(
      "argument", sprintf("`known` is given, but `layout` is \"%s\".", layout),
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
      "argument", sprintf("Column \"%s\" has two roles.", raw$known),
      i = "The day of publication stands in a column of its own."
    )
  }
}

check_rows <- function(raw) {
  if (raw$rows == 0) {
    abort_backfill(
      "file",
      sprintf(
        "%s has a header but no rows that could be used.",
        in_words(basename(raw$sources$source), 3)
      )
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
      sprintf(
        "%s has more than one column named %s.", where, in_words(quoted(twice))
      ),
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
      sprintf(
        "The series column %s has a name that R keeps to itself.",
        quoted(dots[[1]])
      ),
      ">" = "Rename it."
    )
  }
  roles <- c(unique(when), series, names(measures))
  if (anyDuplicated(roles)) {
    twice <- in_words(quoted(unique(roles[duplicated(roles)])))
    abort_backfill(
      "argument", sprintf("Column %s has two roles.", twice),
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
    sprintf(
      "Column \"%s\" of %s cannot be read: %s of its %s.", found$column[[1]],
      basename(aside$source[[1]]),
      if (fit == 0) {
        "none"
      } else {
        paste("only", fit)
      },
      count_of(raw$rows, "row fits", "rows fit")
    ),
    i = expected,
    rlang::set_names(
      sprintf("Line %d: %s, %s.", aside$line, quoted(aside$text), aside$reason),
      "x"
    )
  )
}

stop_strict <- function(aside) {
  first <- aside[1, ]
  abort_backfill(
    "strict",
    sprintf(
      "Line %d of %s cannot be used: %s, %s.", first$line,
      basename(first$source), quoted(first$text), first$reason
    ),
    i = if (nrow(aside) > 1) sprintf(
      "%s cannot be used in all.", count_of(nrow(aside), "row")
    ),
    ">" = paste(
      "Mend them, or leave `strict` out, and such rows are set aside and",
      "listed."
    )
  )
}
