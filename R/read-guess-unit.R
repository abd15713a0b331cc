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
  behind <- paste0("^", figure, "\\s*", unit, "$")
  before <- paste0("^", unit, "\\s+", figure, "[.,][0-9]{2}$")
  shared_by_most(text, behind) %||% shared_by_most(text, before)
}

# What the form finds in nine of ten texts or more, if it is one unit.
shared_by_most <- function(text, form) {
  fits <- grepl(form, text)
  found <- unique(sub(form, "\\1", text[fits]))
  if (length(found) == 1 && mean(fits) >= 0.9 && !found %in% no_units) {
    found
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
