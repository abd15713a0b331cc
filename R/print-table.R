# Tables for reading: aligned, rounded, periods by their labels. Full precision is for files.

# Lines of text, the header first. `units` is a named character vector: "%" for columns of percentages with a sign.
format_table <- function(data, units = character()) {
  cells <- lapply(names(data), function(name) format_cells(data[[name]], if (name %in% names(units)) units[[name]]))
  right <- vapply(data, function(column) is.numeric(column) && !is.object(column), NA)
  padded <- Map(function(cells, name, right) {
    text <- c(name, cells)
    text[is.na(text)] <- "NA"
    space <- strrep(" ", max(nchar(text, type = "width")) - nchar(text, type = "width"))
    if (right) paste0(space, text) else paste0(text, space)
  }, cells, names(data), right)
  sub(" +$", "", do.call(paste, c(unname(padded), sep = "  ")))
}

format_cells <- function(x, unit = NULL) {
  if (identical(unit, "%")) {
    ifelse(is.na(x), NA, sprintf("%+.1f%%", x))
  } else if (identical(unit, "share")) {
    format_share(x)
  } else if (is.numeric(x) && !is.object(x)) {
    format_figures(x)
  } else {
    as.character(x)
  }
}

# All with the same number of decimals: as many as give the largest of them four digits, none where all are whole.
format_figures <- function(x) {
  known <- x[is.finite(x)]
  largest <- if (length(known) > 0) max(abs(known)) else 0
  decimals <- if (largest == 0 || all(known == round(known))) 0 else max(0, min(15, 3 - floor(log10(largest))))
  text <- formatC(x, digits = decimals, format = "f", big.mark = ",")
  ifelse(is.na(x), NA, text)
}

# A share as a percentage, rounded down, so that 100% is said of the whole only.
format_share <- function(x) {
  ifelse(is.na(x), NA, paste0(formatC(floor(x * 1000 + 1e-9) / 10, format = "f", digits = 1), "%"))
}
