# What a file of a table says of it: its columns as CSV on the Web describes
# them, and what the table knows of its measures, calendar and calculations.
# Source: Metadata Vocabulary for Tabular Data, W3C Recommendation, 2015.

# `file` is what the file of the table is called, and `sum` its MD5 sum.
table_metadata <- function(x, file, sum) {
  written <- written_columns(x)
  columns <- lapply(names(written), described_column, x, written)
  about <- list(
    "@context" = list("http://www.w3.org/ns/csvw", list("@language" = "en")),
    url = file, "dc:type" = facts(x)$what,
    tableSchema = list(columns = columns, primaryKey = key_columns(x)),
    own = c(own_facts(x), list(md5 = sum))
  )
  names(about)[[5]] <- own_term
  jsonlite::toJSON(
    about, auto_unbox = TRUE, null = "null", na = "null", digits = NA,
    pretty = TRUE
  )
}

described_column <- function(name, x, written) {
  column <- written[[name]]
  c(
    list(name = column_name(name), titles = marked_as_text(name)),
    list(datatype = column_datatype(column)),
    if (is.character(column) || is.factor(column)) list(null = ""),
    described_as("dc:description", column_meaning(name, x))
  )
}

described_as <- function(key, text) {
  if (!is.null(text)) stats::setNames(list(text), key)
}

# A name in the sense of the standard has letters, figures, dots and _ alone.
column_name <- function(name) {
  if (grepl("^[A-Za-z][A-Za-z0-9_.]*$", name)) {
    name
  } else {
    utils::URLencode(name, reserved = TRUE)
  }
}

column_datatype <- function(column) {
  if (inherits(column, "Date")) {
    "date"
  } else if (inherits(column, "POSIXct")) {
    "dateTime"
  } else if (is.logical(column)) {
    list(base = "boolean", format = "TRUE|FALSE")
  } else if (is.factor(column) || is.character(column)) {
    "string"
  } else if (is.integer(column)) {
    "integer"
  } else {
    "double"
  }
}

# What a column of periods is, in words; of others its name must do.
column_meaning <- function(name, x) {
  added <- facts(x)$added[[name]]
  if (!is.null(added)) {
    return(note_in_words(added))
  }
  if (!is_periods(x)) {
    return(NULL)
  }
  switch(
    name, period = sprintf(
      "The start of %s.", with_article(period_noun(facts(x)$calendar))
    ),
    value = meaning_of_value(facts(x)$measures),
    standing = sprintf("One of %s.", in_words(standings, last = " or ")),
    n = "The number of records behind the value.",
    coverage = paste(
      "The share of the period's expected slots with a record, from 0 to 1."
    )
  )
}

meaning_of_value <- function(measures) {
  each <- vapply(measures, function(measure) {
    sprintf(
      "%s%s, %s", measure$kind, if (is.null(measure$unit)) "" else
        sprintf(" in %s", measure$unit),
      measure$use %||% "as it is"
    )
  }, "")
  paste(sprintf("%s: %s.", names(measures), each), collapse = " ")
}

key_columns <- function(x) {
  keys <- c(facts(x)$series, if (is_periods(x)) c("measure", "period"))
  I(vapply(keys, column_name, "", USE.NAMES = FALSE))
}

# What it takes to make the table again of the columns of a file. What it knows
# of its layout is found anew; the results and figures of a run are in files of
# their own.
own_facts <- function(x) {
  kept <- facts(x)
  kept[c("layout", "results", "figures")] <- NULL
  list(
    version = 1L, class = I(setdiff(class(x), class(plain_tibble(x)))),
    columns = lapply(plain_tibble(x), sort_of_column),
    facts = as_plain(kept)
  )
}

# A column without its rows. A workbook shows an empty text and a missing one
# alike: `blank` tells that they are empty texts.
sort_of_column <- function(column) {
  names(column) <- NULL
  blank <- is.character(column) && !anyNA(column) && !all(nzchar(column))
  c(as_plain(column[0]), if (blank) list(blank = TRUE))
}
