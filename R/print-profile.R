# What profiles and grids say.

#' @export
describe.backfill_profile <- function(x, ..., most = 8) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  season <- facts(x)
  line <- profile_lines(x)
  known <- which(!is.na(x[["value"]]))
  over <- sub("^(week|month)$", "\\1 of the year", season$at)
  at <- switch(season$at, weekday = "on", month = , quarter = "in", "at")
  c(
    sprintf(
      "%s of %s at each %s%s, of %s.",
      sentence_case(statistic_in_words(season$stat)),
      in_words(unique(x[["measure"]])), over,
      if (is.null(season$apart)) {
        ""
      } else {
        sprintf(", apart by %s", gsub("_", " ", season$apart))
      },
      of_series(
        count_of(sum(x[["n"]]), season$counted[[1]], season$counted[[2]]),
        length(unique(lines_of_result(x)))
      )
    ),
    if (length(unique(line)) <= most) {
      unlist(
        lapply(
          split(known, factor(line[known], unique(line[known]))),
          function(rows) {
            ends <- rows[
              c(which.max(x[["value"]][rows]), which.min(x[["value"]][rows]))
            ]
            glue(
              "{line[rows[[1]]]}: highest {at} {x[['position']][ends[[1]]]}",
              "({each_figure(x[['value']][ends[[1]]])}), lowest {at}",
              "{x[['position']][ends[[2]]]}",
              "({each_figure(x[['value']][ends[[2]]])})."
            )
          }
        ),
        use.names = FALSE
      )
    },
    sprintf("From lower to upper lie %g%% of the figures.", 100 * season$holds)
  )
}

# A name for each row's line, with its group.
profile_lines <- function(x) {
  season <- facts(x)
  name <- lines_of_result(x)
  if (is.null(season$apart)) {
    name
  } else {
    paste(name, x[[season$apart]], sep = ", ")
  }
}

#' @export
describe.backfill_grid <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  season <- facts(x)
  name <- lines_of_result(x)
  of_measure <- split(seq_along(name), factor(x$measure, unique(x$measure)))
  c(
    sprintf(
      "%s of %s by %s (down) and %s (across), of %s.",
      sentence_case(statistic_in_words(season$stat)),
      in_words(unique(x[["measure"]])), season$rows, season$columns,
      of_series(
        count_of(sum(x[["n"]]), season$counted[[1]], season$counted[[2]]),
        length(unique(name))
      )
    ),
    unlist(lapply(of_measure, ends_of_grid, x, name), use.names = FALSE)
  )
}

ends_of_grid <- function(rows, x, name) {
  value <- x[["value"]][rows]
  ends <- rows[c(which.max(value), which.min(value))]
  cell <- sprintf(
    "%s, %s %s (%s)", name[ends], x[["row"]][ends], x[["column"]][ends],
    each_figure(x[["value"]][ends])
  )
  sprintf("Highest: %s. Lowest: %s.", cell[[1]], cell[[2]])
}

# The grid as a two-way table, where there is one series and the screen is wide
# enough.
#' @export
table_cells.backfill_grid <- function(x, n = Inf) {
  wide <- if (length(unique(lines_of_result(x))) == 1) two_way_cells(x)
  room <- if (isatty(stdout())) cli::console_width() else 200
  if (is.null(wide) || max(nchar(lines_of_cells(wide))) > room) {
    return(NextMethod())
  }
  wide
}

two_way_cells <- function(x) {
  rounded <- format_figures(x$value)
  used <- sort(unique(as.integer(x$row)))
  if (
    max(nchar(trimws(rounded))) * nlevels(x$column) > 160 || length(used) > 60
  ) {
    return(NULL)
  }
  text <- matrix(
    "", nlevels(x$row), nlevels(x$column),
    dimnames = list(NULL, levels(x$column))
  )
  decimals <- decimals_for(x$value)
  text[cbind(as.integer(x$row), as.integer(x$column))] <- plain_formatC(
    x$value, digits = decimals, format = "f", big.mark = ","
  )
  columns <- asplit(text[used, , drop = FALSE], 2)
  new_cells(
    c(list(" " = levels(x$row)[used]), lapply(columns, as.vector)),
    c(FALSE, rep(TRUE, length(columns)))
  )
}
