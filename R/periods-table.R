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
check_periods <- function(x) {
  check_given()
  if (is_read(x)) {
    abort_backfill(
      "input",
      "`x` is a records table; this is calculated for regular periods.",
      ">" = "Roll the records up first, such as with roll_up(x, every =",
      "\"month\")."
    )
  }
  if (!is_periods(x)) {
    abort_backfill(
      "input", "`x` is {value_in_words(x)}, not a periods table.",
      i = "Some steps in between, such as grouping or summarising, make a",
      "plain table of it.",
      ">" = "Make one with roll_up(), or give it back what it was with",
      "as_periods(), and like = the table before such steps."
    )
  }
  if (!is.null(known_layout(x))) {
    return(x) # it was looked at
  }
  check_period_columns(x)
  if (!identical(levels(x$standing), standings)) {
    x$standing <- factor(as.character(x$standing), standings)
  }
  if (!is.character(x$measure)) {
    x$measure <- as.character(x$measure)
  }
  x
}

check_period_columns <- function(x) {
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
      "Column \"{names(said)[[1]]}\" of the periods table was changed:",
      "{said[[1]]}.",
      ">" = "Undo the change, or make the table again with roll_up()."
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
    glue(
      "it has {in_words(quoted(setdiff(known, standings)), 4)}, but a standing",
      "is {in_words(quoted(standings), last = ' or ')}"
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
