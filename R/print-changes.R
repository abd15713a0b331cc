# What rankings, counts of bands and summaries say, and their tables.

#' @export
print.backfill_ranking <- function(x, n = 20, ...) {
  calendar <- attr(x, "calendar")
  shown <- tibble::new_tibble(as.list(x), nrow = nrow(x))
  for (column in intersect(c("from", "to", "period"), names(shown))) {
    shown[[column]] <- period_label(shown[[column]], calendar)
  }
  writeLines(c(wrapped(describe_ranking(x, shown)), ""))
  about <- attr(x, "about")
  units <- c(percent = "%", share = "share")
  if (!is.null(about$unit)) {
    if (about$unit == "return") {
      shown$change <- 100 * shown$change
    }
    units <- c(units, first = about$unit, last = about$unit, change = "points")
    shown$percent <- NULL
  }
  print_lines(shown, units, n)
  invisible(x)
}

describe_ranking <- function(x, shown) {
  about <- attr(x, "about")
  if (about$what == "series") {
    return(describe_leaders(x, shown, about))
  }
  if (nrow(x) == 0) {
    return(c(
      "There is nothing to rank: no two whole periods follow on each other.",
      describe_left(x, about)
    ))
  }
  # Ranked within each series, the first row is that of the first series.
  by <- if (about$as == "percent") x$percent else x$change
  first <- switch(
    about$order, largest = which.max(abs(by)), smallest = which.min(abs(by)),
    rises = which.max(by), falls = , flattest = which.min(by)
  )
  whose <- ranked_names(shown, about)[[first]]
  change <- if (about$as == "percent") {
    format_cells(by[first], "%")
  } else {
    format_change(by[first], about$unit)
  }
  span <- c(shown$from[[first]], shown$to[[first]])
  c(
    if (about$order == "flattest") {
      sprintf(
        paste(
          "The flattest stretch of %s is that of %s from %s to %s: highest",
          "and lowest lie %s apart."
        ),
        count_of_periods(about$stretch, attr(x, "calendar")), whose, span[[1]],
        span[[2]], sub("^[+]", "", trimws(change))
      )
    } else {
      sprintf("The %s is that of %s from %s to %s: %s.",
              c(
                largest = "largest movement", smallest = "smallest movement",
                rises = "largest rise", falls = "largest fall"
              )[[about$order]], whose, span[[1]], span[[2]], trimws(change))
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

ranked_names <- function(shown, about) {
  do.call(
    paste,
    c(
      unname(lapply(as.list(shown)[c(about$series, "measure")], as.character)),
      sep = " / "
    )
  )
}

describe_leaders <- function(x, shown, about) {
  c(
    sprintf(
      "%s leads in %s with %s.", ranked_names(shown, about)[[1]],
      shown$period[[1]], trimws(format_figures(x$value[1]))
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
  name <- names_of_lines(left[c(about$series, "measure")])
  label <- period_label(left$period, attr(x, "calendar"))
  said <- if (about$lines == 1) label else sprintf("%s of %s", label, name)
  sprintf("Partial, and so without a movement: %s.", in_words(said, most))
}

ranking_columns <- c(
  "rank", "measure", "from", "to", "first", "last", "change", "percent",
  "period", "value", "share", "before"
)

#' @export
print.backfill_band_counts <- function(x, n = 20, ...) {
  total <- tapply(x$periods, x$band, sum)
  writeLines(c(wrapped(sprintf(
    "Of %s with %s, %s.", count_of(sum(x$periods), "period"), attr(x, "of"),
    in_words(sprintf(
      "%s %s in \"%s\"", thousands(total), ifelse(total == 1, "is", "are"),
      names(total)
    ))
  )), ""))
  print_lines(
    tibble::new_tibble(as.list(x), nrow = nrow(x)), c(share = "share"), n
  )
  invisible(x)
}

#' @export
print.backfill_summary <- function(x, n = 40, ...) {
  shown <- tibble::new_tibble(as.list(x), nrow = nrow(x))
  units <- c(mean_per_year = "return", volatility_per_year = "share")
  print_lines(shown, units, n, paste(x[["column"]], x[["measure"]]))
  reasons <- attr(x, "reasons")
  if (NROW(reasons) > 0) {
    said <- vapply(
      split(reasons, factor(reasons$column, unique(reasons$column))),
      function(of) {
        sprintf(
          "No %s is given for %s: %s.", of$column[[1]],
          count_of(sum(of$rows), "row"), reasons_in_words(of$reason, of$rows)
        )
      },
      ""
    )
    writeLines(c("", wrapped(unname(said))))
  }
  invisible(x)
}

print_lines <- function(shown, units, n, group = NULL) {
  writeLines(table_lines(
    shown, units, n, group
  ))
}

# The first `n` rows of a table `of` so many as lines, and how many more there
# are.
table_lines <- function(shown, units, n, group = NULL, of = nrow(shown)) {
  rows <- seq_len(min(n, nrow(shown)))
  text <- format_table(shown[rows, ], units, group[rows])
  c(cli::style_bold(text[[1]]), text[-1], more_rows(of - n))
}
