# The columns of figures.

# The figures of each measure, and sentences on how they were written.
read_figures <- function(raw, data, measures, rules) {
  columns <- names(measures)
  texts <- lapply(Filter(
    function(column) is.character(column) || is.factor(column), data[columns]
  ), distinct_figures)
  bare <- lapply(stats::setNames(nm = names(texts)), function(name) {
    unit <- measures[[name]]$unit
    if (!is.null(unit)) without_unit(texts[[name]]$text, unit)
  })
  unit_said <- lapply(stats::setNames(nm = names(bare)), function(name) {
    unit_taken(texts[[name]], bare[[name]], measures[[name]]$unit)
  })
  for (name in names(Filter(Negate(is.null), bare))) {
    texts[[name]]$text <- bare[[name]]
  }
  mark <- rules$decimal_mark %||% find_decimal_mark(texts, raw$at)
  if (mark == "," && !is.null(raw$as_text)) {
    # Beside 1,5 a 1.250 is a thousand, which the reader of the file could not
    # know.
    again <- columns[
      vapply(
        data[columns],
        function(x) is.double(x) && any(x != floor(x), na.rm = TRUE), NA
      )
    ]
    if (length(again) > 0) {
      data[again] <- raw$as_text(again)
    }
  }
  read <- lapply(stats::setNames(nm = columns), function(name) {
    read_number(texts[[name]] %||% data[[name]], mark, rules$missing)
  })
  # Whoever gives doubles has rounded them already.
  written <- if (is.null(raw$as_text)) names(texts) else columns
  long <- Filter(function(name) inexact(read[[name]]$value), written)
  list(
    read = read,
    notes = c(
      inexact_note(long),
      if (mark == ",") "A comma is read as the decimal mark.",
      unlist(lapply(
        columns,
        function(name) marks_note(name, read[[name]]$marks, unit_said[[name]])
      ))
    )
  )
}

# On how many figures of a column the unit stood, if on any.
unit_taken <- function(texts, bare, unit) {
  there <- texts$text != bare
  on <- sum(there[texts$at], na.rm = TRUE)
  blank <- is.na(texts$text) | trimws(texts$text) %in% missing_marks
  if (on > 0) sprintf(
    "the unit %s%s", quoted(unit), on_values(on, sum(!blank[texts$at]))
  )
}

on_values <- function(on, values) {
  if (on < values) sprintf(" (on %d of %d values)", on, values) else ""
}

marks_note <- function(name, marks, unit = NULL) {
  if (length(marks$signs) > 1) {
    abort_backfill(
      "number",
      "Column \"{name}\" holds several currencies: {in_words(marks$signs)}.",
      ">" = "Convert them to one before they are read; figures of two",
      "currencies cannot be added."
    )
  }
  said <- c(
    if (sum(marks$thousands) > 0) "thousands marks",
    if (sum(marks$percent) > 0) sprintf(
      "percent signs (%s; 12.5%% is read as 12.5)",
      if (marks$percent == marks$values) "on every value" else
        sprintf("on %d of %d values", marks$percent, marks$values)
    ),
    if (sum(marks$currency) > 0) sprintf("the sign %s", marks$signs),
    if (sum(marks$brackets) > 0) "brackets for figures below zero", unit
  )
  if (length(said) > 0) sprintf("Ignored in %s: %s.", name, in_words(said))
}
