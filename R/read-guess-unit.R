# Figures with a unit, which stands with each of them.

# The unit that stands behind or before all figures of a column, such as "kr" of
# "15.71 kr", or NULL.
unit_of_all <- function(column) {
  text <- trimmed_wide(sample_of(as.character(column)))
  text <- text[!is.na(text) & !text %in% missing_marks]
  text <- gsub("[\u00a0\u202f]", " ", text)
  figure <- "[+-]?[0-9][0-9.,' ]*?"
  unit <- "([[:alpha:]\u00b0][[:alpha:]\u00b0\u00b2\u00b3/]*[.]?)"
  # A number behind a word is a name, such as "depot 04", unless in decimals.
  for (form in c(
    paste0("^", figure, "\\s*", unit, "$"),
    paste0("^", unit, "\\s+", figure, "[.,][0-9]{2}$")
  )) {
    found <- sub(form, "\\1", text[grepl(form, text)])
    if (
      length(found) > 0 && length(found) >= 0.9 * length(text) &&
        length(unique(found)) == 1 && !found[[1]] %in% no_units
    ) {
      return(found[[1]])
    }
  }
}

# Rates and temperatures are no amounts that add up.
with_guessed_unit <- function(guess, unit) {
  if (guess$kind == "flow" && grepl("/|\u00b0", unit)) {
    guess <- list(kind = "level", reason = "it is a rate or a reading")
  }
  guess$reason <- sprintf("%s; its unit is \"%s\"", guess$reason, unit)
  guess
}

# Parts of a day, and of ordinal numbers.
no_units <- c("am", "pm", "a.m.", "p.m.", "st", "nd", "rd", "th")

measures_in_units <- function(kinds, units) {
  measures <- as.list(kinds)
  for (name in intersect(names(kinds), names(units))) {
    measures[[name]] <- measure(kinds[[name]], units[[name]])
  }
  measures
}
