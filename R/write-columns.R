# The columns of a table in each format.

# A file has columns for reading that a table makes when it is asked.
written_columns <- function(x) {
  plain_tibble(if (inherits(x, "backfill_flags")) with_reasons(x) else x)
}

put_workbook <- function(columns, facts, path) {
  table <- with_instants_as_text(columns)
  writexl::write_xlsx(
    list(table = table, about = text_in_cells(facts_json(facts))), path
  )
  without_date(path)
}

# A workbook tells when it was made, so that no two would be alike.
without_date <- function(path) {
  folder <- tempfile("workbook-")
  on.exit(unlink(folder, recursive = TRUE))
  zip::unzip(path, exdir = folder)
  core <- file.path(folder, "docProps", "core.xml")
  text <- readLines(core, warn = FALSE)
  writeLines(sub("<dcterms:.*</dcterms:[a-z]+>", "", text), core)
  files <- zip::zip_list(path)$filename
  Sys.setFileTime(
    file.path(folder, files), as.POSIXct("1980-01-01 12:00:00")
  )
  zip::zip(path, files, root = folder, include_directories = FALSE)
}

# A cell holds no more than 32,767 characters.
text_in_cells <- function(text, most = 32000) {
  from <- seq(1, nchar(text), most)
  data.frame(metadata = substring(text, from, from + most - 1))
}

put_parquet <- function(columns, facts, path) {
  nanoparquet::write_parquet(
    columns, path, metadata = c(backfill = facts_json(facts))
  )
}

facts_json <- function(facts) {
  as.character(jsonlite::toJSON(
    facts, auto_unbox = TRUE, null = "null", na = "null", digits = NA
  ))
}

put_csv <- function(columns, path) {
  columns <- harmless(columns)
  fault <- write_csv_cpp(with_instants_as_text(columns), names(columns), path)
  if (nzchar(fault)) {
    stop("Write error: ", fault)
  }
}

# Text that a spreadsheet would take for a formula, with an apostrophe before
# it, as spreadsheets mark text themselves; text that looks so marked has one
# more, so that taking one off gives the same text again.
harmless <- function(x) {
  columns <- plain_tibble(x)
  columns[] <- lapply(columns, function(column) {
    if (is.factor(column)) levels(column) <- marked_as_text(levels(column))
    if (is.character(column)) marked_text(column) else column
  })
  names(columns) <- marked_as_text(names(columns))
  columns
}

marked_text <- function(text) {
  plain <- distinct_texts_cpp(text)$text
  marked <- marked_as_text(plain)
  if (identical(marked, plain)) text else marked[match(text, plain)]
}

marked_as_text <- function(text) {
  formula <- grep(paste0("^'*", formula_start), text)
  number <- suppressWarnings(as.numeric(text[formula]))
  formula <- formula[is.na(number)]
  text[formula] <- paste0("'", text[formula])
  text
}

# What `write` makes of each value, asked once for each that is different.
by_distinct <- function(x, write) {
  # Instants are told apart as numbers: two of a repeated hour read alike.
  which <- vctrs::vec_group_id(x)
  write(x[!duplicated(which)])[which]
}

# Blanks before it are passed over by some.
formula_start <- "([ \t\r\n]*[=+@|-]|[\t\r\n])"

# What was marked, as it was.
unmarked <- function(text) {
  sub(sprintf("^'('*%s)", formula_start), "\\1", text)
}

# Rows as JSON objects, with the same digits as in CSV, which are more than the
# serialiser gives by itself.
rows_json <- function(x) {
  jsonlite::toJSON(json_cells(x, "null"), json_verbatim = TRUE, na = "null")
}

# `odd` is what stands for figures that JSON has not; NULL for their names.
json_cells <- function(x, odd = NULL) {
  columns <- exact_text(x)
  figures <- vapply(x, function(column) {
    is.double(column) && !is.object(column)
  }, NA)
  columns[figures] <- Map(function(text, value) {
    text[is.infinite(value)] <- odd %||% quoted(text[is.infinite(value)])
    text[is.na(value)] <- "null"
    structure(text, class = "json")
  }, columns[figures], as.list(x)[figures])
  tibble::new_tibble(as.list(columns), nrow = nrow(x))
}

# What is known of the table in the first line, and each row in one of its own.
put_lines <- function(columns, facts, path) {
  to <- file(path, "wb")
  on.exit(close(to))
  writeLines(
    paste0(facts_line_start, facts_json(facts), "}"), to, useBytes = TRUE
  )
  jsonlite::stream_out(
    json_cells(columns), to, verbose = FALSE, json_verbatim = TRUE, na = "null"
  )
}

# Instants with their offset from UTC, by ISO 8601, to the microsecond where one
# is not a whole second.
instant_text <- function(x) {
  micro <- round(as.numeric(x) * 1e6)
  second <- .POSIXct(micro %/% 1e6, tz = attr(x, "tzone"))
  text <- format(second, "%Y-%m-%dT%H:%M:%S%z")
  part <- sub("[.]?0+$", "", sprintf(".%06.0f", micro %% 1e6))
  known <- !is.na(micro)
  at <- nchar(text[known]) - 5
  offset <- sub("(..)$", ":\\1", substring(text[known], at + 1))
  text[known] <- paste0(
    substr(text[known], 1, at), part[known], offset, recycle0 = TRUE
  )
  text
}

with_instants_as_text <- function(columns) {
  instants <- vapply(columns, inherits, NA, "POSIXct")
  columns[instants] <- lapply(columns[instants], by_distinct, instant_text)
  columns
}

# The table's columns, with numbers as text that reads back the same.
exact_text <- function(x) {
  lapply(with_instants_as_text(plain_tibble(x)), function(column) {
    if (!is.double(column) || is.object(column)) {
      return(column)
    }
    shortest_text_cpp(column)
  })
}
