# What rankings, counts of bands and summaries say, and their tables.

#' @export
print.backfill_ranking <- function(x, n = 20, ...) {
  calendar <- attr(x, "calendar")
  shown <- tibble::new_tibble(as.list(x), nrow = nrow(x))
  for (column in intersect(c("from", "to", "period"), names(shown))) {
    shown[[column]] <- period_label(shown[[column]], calendar)
  }
  writeLines(c(wrapped(describe_ranking(x, shown)), ""))
  print_lines(shown, c(percent = "%", share = "share"), n)
  invisible(x)
}

describe_ranking <- function(x, shown) {
  about <- attr(x, "about")
  if (nrow(x) == 0) {
    return("There is nothing to rank: no two whole periods follow on each other.")
  }
  series <- as.list(shown)[setdiff(names(shown), ranking_columns)]
  whose <- do.call(paste, c(unname(lapply(c(series, list(shown$measure)), as.character)), sep = " / "))[[1]]
  if (about$what == "series") {
    return(c(
      sprintf("%s leads in %s with %s.", whose, shown$period[[1]], trimws(format_figures(x$value[1]))),
      if (about$lacking > 0) sprintf("%s no whole value there.", if (about$lacking == 1) "1 series has" else
        sprintf("%d series have", about$lacking))
    ))
  }
  change <- if (about$as == "percent") trimws(format_cells(x$percent[1], "%")) else trimws(format_figures(x$change[1]))
  if (about$order == "flattest") {
    return(sprintf("The flattest stretch of %s is that of %s from %s to %s: highest and lowest lie %s apart.",
                   count_of_periods(about$stretch, attr(x, "calendar")), whose, shown$from[[1]], shown$to[[1]],
                   sub("^[+]", "", change)))
  }
  sprintf("The %s is that of %s from %s to %s: %s.",
          c(largest = "largest movement", smallest = "smallest movement", rises = "largest rise",
            falls = "largest fall")[[about$order]], whose, shown$from[[1]], shown$to[[1]], change)
}

ranking_columns <- c("rank", "measure", "from", "to", "first", "last", "change", "percent", "period", "value", "share",
                     "before")

#' @export
print.backfill_band_counts <- function(x, n = 20, ...) {
  total <- tapply(x$periods, x$band, sum)
  writeLines(c(wrapped(sprintf(
    "Of %s with %s, %s.", count_of(sum(x$periods), "period"), attr(x, "of"),
    in_words(sprintf("%s %s in \"%s\"", format(total, big.mark = ",", trim = TRUE), ifelse(total == 1, "is", "are"),
                     names(total)))
  )), ""))
  print_lines(tibble::new_tibble(as.list(x), nrow = nrow(x)), c(share = "share"), n)
  invisible(x)
}

#' @export
print.backfill_summary <- function(x, n = 40, ...) {
  shown <- tibble::new_tibble(as.list(x), nrow = nrow(x))
  print_lines(shown, c(mean_per_year = "return", volatility_per_year = "share"), n, paste(x[["column"]], x[["measure"]]))
  reasons <- attr(x, "reasons")
  if (NROW(reasons) > 0) {
    said <- vapply(split(reasons, factor(reasons$column, unique(reasons$column))), function(of) {
      sprintf("No %s is given for %s: %s.", of$column[[1]], count_of(sum(of$rows), "row"),
              reasons_in_words(of$reason, of$rows))
    }, "")
    writeLines(c("", wrapped(unname(said))))
  }
  invisible(x)
}

print_lines <- function(shown, units, n, group = NULL) writeLines(table_lines(shown, units, n, group))

# The first `n` rows of a table `of` so many as lines, and how many more there are.
table_lines <- function(shown, units, n, group = NULL, of = nrow(shown)) {
  rows <- seq_len(min(n, nrow(shown)))
  text <- format_table(shown[rows, ], units, group[rows])
  c(cli::style_bold(text[[1]]), text[-1], more_rows(of - n))
}
