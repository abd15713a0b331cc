# The columns of figures.

# The figures of each measure, and sentences on how they were written.
read_figures <- function(raw, data, columns, rules) {
  texts <- lapply(Filter(
    function(column) is.character(column) || is.factor(column), data[columns]
  ), distinct_figures)
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
        columns, function(name) marks_note(name, read[[name]]$marks)
      ))
    )
  )
}

marks_note <- function(name, marks) {
  if (length(marks$signs) > 1) {
    abort_backfill(
      "number",
      sprintf(
        "Column \"%s\" holds several currencies: %s.", name,
        in_words(marks$signs)
      ),
      ">" = paste(
        "Convert them to one before they are read; figures of two",
        "currencies cannot be added."
      )
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
    if (sum(marks$brackets) > 0) "brackets for figures below zero"
  )
  if (length(said) > 0) sprintf("Ignored in %s: %s.", name, in_words(said))
}
