# What profiles and grids say.

describe_profile <- function(x, most = 8) {
  season <- attr(x, "season")
  line <- profile_lines(x)
  known <- which(!is.na(x[["value"]]))
  over <- sub("^(week|month)$", "\\1 of the year", season$over)
  c(
    sprintf(
      "%s of %s at each %s%s, of %s.",
      sentence_case(statistic_in_words(season$stat)),
      in_words(unique(x[["measure"]])), over,
      if (is.null(season$split)) {
        ""
      } else {
        sprintf(", apart by %s", gsub("_", " ", season$split))
      },
      count_of(sum(x[["n"]]), season$counted, season$counted)
    ),
    if (length(unique(line)) <= most) {
      unlist(
        lapply(
          split(known, factor(line[known], unique(line[known]))),
          function(rows) {
            ends <- rows[
              c(which.max(x[["value"]][rows]), which.min(x[["value"]][rows]))
            ]
            sprintf(
              "%s: highest at %s (%s), lowest at %s (%s).", line[rows[[1]]],
              x[["position"]][ends[[1]]],
              trimws(format_figures(x[["value"]][ends[[1]]])),
              x[["position"]][ends[[2]]],
              trimws(format_figures(x[["value"]][ends[[2]]]))
            )
          }
        ),
        use.names = FALSE
      )
    },
    sprintf("From lower to upper lie %g%% of the figures.", 100 * season$band)
  )
}

# A name for each row's line, with its group.
profile_lines <- function(x) {
  season <- attr(x, "season")
  name <- lines_of_result(x)
  if (is.null(season$split)) {
    name
  } else {
    paste(name, x[[season$split]], sep = ", ")
  }
}

describe_grid <- function(x) {
  season <- attr(x, "season")
  ends <- c(which.max(x[["value"]]), which.min(x[["value"]]))
  name <- lines_of_result(x)
  cell <- sprintf(
    "%s at %s, %s (%s)", name[ends], x[["row"]][ends], x[["column"]][ends],
    trimws(vapply(x[["value"]][ends], format_figures, ""))
  )
  c(
    sprintf(
      "%s of %s by %s (down) and %s (across), of %s.",
      sentence_case(statistic_in_words(season$stat)),
      in_words(unique(x[["measure"]])), season$rows, season$columns,
      count_of(sum(x[["n"]]), season$counted, season$counted)
    ),
    sprintf("Highest: %s. Lowest: %s.", cell[[1]], cell[[2]])
  )
}

# The grid as a two-way table, where there is one series and the screen is wide
# enough.
grid_lines <- function(x) {
  if (
    length(unique(names_of_lines(
      x[setdiff(names(x), c("row", "column", "value", "n"))]
    ))) != 1
  ) {
    return(NULL)
  }
  cells <- matrix(
    NA_real_, nlevels(x$row), nlevels(x$column),
    dimnames = list(NULL, levels(x$column))
  )
  cells[cbind(as.integer(x$row), as.integer(x$column))] <- x$value
  used <- sort(unique(as.integer(x$row)))
  wide <- tibble::tibble(
    row = levels(x$row)[used], tibble::as_tibble(cells[used, , drop = FALSE])
  )
  names(wide)[[1]] <- " "
  rounded <- format_figures(x$value)
  if (max(nchar(trimws(rounded))) * nlevels(x$column) > 160 ||
        nrow(wide) > 60) {
    return(NULL)
  }
  decimals <- decimals_for(x$value)
  wide[-1] <- lapply(wide[-1], function(column) {
    ifelse(
      is.na(column), "",
      plain_formatC(column, digits = decimals, format = "f", big.mark = ",")
    )
  })
  lines <- lapply(names(wide), function(name) {
    plain_format(c(name, wide[[name]]), justify = if (name == " ") {
      "left"
    } else {
      "right"
    })
  })
  text <- sub(" +$", "", do.call(paste, c(lines, sep = "  ")))
  if (max(nchar(text)) <= if (isatty(stdout())) cli::console_width() else 200) {
    c(cli::style_bold(text[[1]]), text[-1])
  }
}
