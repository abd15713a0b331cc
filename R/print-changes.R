# What rankings, counts of bands and summaries say, and their tables.

#' @export
describe.backfill_ranking <- function(x, ...) {
  about <- facts(x)
  shown <- with_labels(plain_tibble(x), x)
  if (about$ranked == "series") {
    return(
      if (nrow(x) == 0) NextMethod() else describe_leaders(x, about)
    )
  }
  if (nrow(x) == 0) {
    return(c(
      switch(
        about$order, rises = "No rise was found.", falls = "No fall was found.",
        "There is nothing to rank: no two whole periods follow on each other."
      ),
      describe_left(x, about)
    ))
  }
  # Ranked within each series, the first row is that of the first series.
  by <- if (about$as == "percent") x$percent else x$change
  first <- switch(
    about$order, largest = which.max(abs(by)), smallest = which.min(abs(by)),
    rises = which.max(by), falls = , flattest = which.min(by)
  )
  whose <- lines_of_result(x)[[first]]
  change <- if (about$as == "percent") {
    format_cells(by[first], "%")
  } else {
    format_change(by[first], about$unit)
  }
  span <- c(shown$from[[first]], shown$to[[first]])
  c(
    if (about$order == "flattest") {
      glue(
        "The flattest stretch of",
        "{count_of_periods(about$stretch, facts(x)$calendar)} is that of",
        "{whose} from {span[[1]]} to {span[[2]]}: highest and lowest lie",
        "{sub('^[+]', '', trimws(change))} apart."
      )
    } else {
      sprintf(
        "%s %s %s from %s to %s.", whose, c(
          largest = "moved most:", smallest = "moved least:",
          rises = "rose most, by", falls = "fell most, by"
        )[[about$order]], if (about$order %in% c("rises", "falls")) {
          sub("^[+-]", "", trimws(change))
        } else {
          trimws(change)
        }, span[[1]], span[[2]]
      )
    },
    if (!is.null(about$within)) {
      sprintf("Ranked within each %s, by its later period.", about$within)
    },
    describe_left(x, about)
  )
}

# What a change moved by, in the unit that tells it from a percentage of it.
format_change <- function(x, unit) {
  switch(
    unit %||% "", "%" = , points = format_cells(x, "points"),
    return = format_cells(100 * x, "points"), format_figures(x)
  )
}

describe_leaders <- function(x, about) {
  first <- which(x$rank == 1 & !duplicated(x$measure))
  value <- x$value[first]
  c(
    sprintf(
      "Highest %s: %s, %s.", in_period(x$period[first], about$calendar),
      lines_of_result(x)[first], if (is.null(about$unit)) {
        each_figure(value)
      } else {
        format_cells(value, about$unit)
      }
    ),
    if (about$lacking > 0) {
      paste(
        count_of(about$lacking, "series has", "series have"),
        "no whole value there."
      )
    }
  )
}

# The partial periods that stand in the way of movements to and from them.
describe_left <- function(x, about, most = 4) {
  left <- about$left
  if (NROW(left) == 0) {
    return(NULL)
  }
  name <- names_of_lines(left[c(about$series, "measure")], about$several)
  label <- period_label(left$period, facts(x)$calendar)
  said <- if (about$lines == 1) label else sprintf("%s of %s", label, name)
  sprintf("Partial, and so without a movement: %s.", in_words(said, most))
}

#' @export
table_cells.backfill_ranking <- function(x, n = Inf) {
  if (isTRUE(facts(x)$unit == "return")) x$change <- 100 * x$change
  NextMethod()
}

# Of a change it is told what it moved by, not a percentage of it.
#' @export
columns_left.backfill_ranking <- function(x) {
  if (!is.null(facts(x)$unit)) "percent"
}

#' @export
column_units.backfill_ranking <- function(x) {
  unit <- facts(x)$unit
  if (is.null(unit)) {
    return(NextMethod())
  }
  c(NextMethod(), first = unit, last = unit, change = "points")
}

#' @export
describe.backfill_band_counts <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  total <- tapply(x$periods, x$band, sum)
  sprintf(
    "Of %s with %s, %s.", count_of(sum(x$periods), "period"), facts(x)$of,
    in_words(sprintf(
      "%s %s in \"%s\"", thousands(total), ifelse(total == 1, "is", "are"),
      names(total)
    ))
  )
}

#' @export
describe.backfill_summary <- function(x, ...) {
  reasons <- facts(x)$reasons
  if (NROW(reasons) == 0) {
    return(NULL)
  }
  said <- vapply(
    split(reasons, factor(reasons$column, unique(reasons$column))),
    function(of) missing_in_words(of$column[[1]], of$reason, of$rows),
    ""
  )
  unname(said)
}

#' @export
column_units.backfill_summary <- function(x) {
  c(mean_per_year = "return", volatility_per_year = "share")
}

# The figures of one column and measure are rounded alike.
#' @export
table_cells.backfill_summary <- function(x, n = Inf) {
  shown <- first_rows_of(x, n)
  text_cells(shown, column_units(x), paste(shown$column, shown$measure))
}
