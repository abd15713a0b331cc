# Tables for reading: aligned, rounded, periods by their labels. Full precision
# is for files.

# Text in columns: `text` by the columns' names, and which of them stand to the
# `right`; of how many `rows` it is the first, and what stands not `beside`
# them, for those of another shape than the table.
new_cells <- function(text, right, rows = NULL, beside = NULL) {
  list(text = text, right = right, rows = rows, beside = beside)
}

# `units` is a named character vector: "%" for columns of percentages with a
# sign, "% of" for those without, "return" for fractions to be shown as
# percentages with a sign, "points" for percentage points, "share" for shares
# from 0 to 1, "coverage" for those of which only the whole is 100%, "p" for
# probabilities. Rows of one `group` (a measure) are rounded alike.
text_cells <- function(data, units = character(), group = NULL) {
  text <- lapply(names(data), function(name) {
    format_cells(data[[name]], if (name %in% names(units)) units[[name]], group)
  })
  right <- vapply(
    data, function(column) is.numeric(column) && !is.object(column), NA
  )
  new_cells(stats::setNames(text, names(data)), unname(right))
}

# Lines of text, the header first.
lines_of_cells <- function(cells) {
  padded <- Map(function(text, name, right) {
    text <- c(name, text)
    text[is.na(text)] <- "NA"
    text <- gsub("\n", "\\n", visible(text), fixed = TRUE)
    width <- nchar(text, type = "width")
    space <- strrep(" ", max(width) - width)
    if (right) paste0(space, text) else paste0(text, space)
  }, cells$text, names(cells$text), cells$right)
  sub(" +$", "", do.call(paste, c(unname(padded), sep = "  ")))
}

format_table <- function(data, units = character(), group = NULL) {
  lines_of_cells(text_cells(data, units, group))
}

format_cells <- function(x, unit = NULL, group = NULL, decimals = 1) {
  if (identical(unit, "%")) {
    ifelse(is.na(x), NA, unsigned_zero(sprintf("%+.*f%%", decimals, x)))
  } else if (identical(unit, "return")) {
    format_cells(100 * x, "%", decimals = decimals)
  } else if (identical(unit, "% of")) {
    ifelse(is.na(x), NA, unsigned_zero(sprintf("%.*f%%", decimals, x)))
  } else if (identical(unit, "points")) {
    ifelse(is.na(x), NA, unsigned_zero(sprintf("%+.*f pp", decimals, x)))
  } else if (identical(unit, "share")) {
    format_share(x)
  } else if (identical(unit, "coverage")) {
    format_coverage(x)
  } else if (identical(unit, "p")) {
    ifelse(is.na(x), NA, ifelse(x < 0.001, "<0.001", sprintf("%.3f", x)))
  } else if (is.numeric(x) && !is.object(x)) {
    format_figures(x, group)
  } else if (inherits(x, "POSIXct")) {
    text_of_times(x)
  } else {
    as.character(x)
  }
}

# Each group with the same number of decimals: as many as give its largest
# figure four digits, none where all are whole. Groups with fewer decimals are
# padded, so that the points stand below each other. `like` are the figures that
# decide.
format_figures <- function(x, group = NULL, like = x) {
  group <- as.character(group %||% rep("all", length(x)))
  decimals <- vapply(split(like, group), decimals_for, 0)
  behind <- decimals + (decimals > 0)
  text <- rep(NA_character_, length(x))
  for (name in names(decimals)) {
    rows <- which(group == name & !is.na(x))
    figures <- plain_formatC(
      x[rows], digits = decimals[[name]], format = "f", big.mark = ","
    )
    text[rows] <- paste0(
      unsigned_zero(figures), strrep(" ", max(behind) - behind[[name]])
    )
  }
  text
}

# Each to its own digits, for sentences.
each_figure <- function(x) trimws(vapply(x, format_figures, ""))

decimals_for <- function(x) {
  known <- x[is.finite(x)]
  largest <- if (length(known) > 0) max(abs(known)) else 0
  if (largest == 0 || all(known == round(known))) {
    0
  } else {
    max(0, min(15, 3 - floor(log10(largest))))
  }
}

# A share as a percentage.
format_share <- function(x) {
  ifelse(is.na(x), NA, unsigned_zero(sprintf("%.1f%%", 100 * x)))
}

# The same rounded down, so that 100% is said of the whole only.
format_coverage <- function(x) {
  ifelse(
    is.na(x), NA,
    paste0(
      plain_formatC(floor(x * 1000 + 1e-9) / 10, format = "f", digits = 1), "%"
    )
  )
}

# What of a table is not shown, if anything: rows, and what is `beside` them.
more_rows <- function(
  left, all = "print(x, n = Inf) shows all", beside = NULL
) {
  more <- c(if (left > 0) count_of(left, "more row"), beside)
  if (length(more) > 0) {
    sprintf("... %s; %s.", in_words(more), all)
  }
}
