# `backfill inspect`: how a file is to be read.

command_inspect <- function() {
  list(
    name = "inspect",
    inputs = "FILE...",
    run = run_inspect,
    about = paste(
      "Find out how a file is to be read, with the reason for each guess.",
      "Guesses its layout, the column of the date, the series, the measures",
      "and their kinds; shows the account of reading it that way, and the R",
      "call and the shell line that do so. Options say what you know already.",
      "--database without --table lists the tables that there are."
    ),
    options = c(
      options_of("read_records", inspect_map()),
      options_of("records_at", "database"),
      output_options()[c("format", "quiet")]
    ),
    examples = c(
      "backfill inspect inns.csv",
      "backfill inspect crossings.csv --zone WET"
    ),
    wants = c(
      "See how a file would be read" = "inspect FILE"
    )
  )
}

inspect_map <- function() {
  map <- reading_map()
  map[
    setdiff(
      names(map), c("when", "measure", "series", "layout", "strict", "chunked")
    )
  ]
}

run_inspect <- function(options, inputs) {
  format <- check_one_of(
    options$format %||% "table", c("table", "csv", "json"), "format"
  )
  if (is_given(options$database)) {
    return(inspect_database(options, format))
  }
  files <- input_files(inputs)
  known <- arguments_of("read_records", options, inspect_map())
  found <- while_reading(inputs, do.call(inspect_file, c(list(files), known)))
  # The lines to copy name the input as it was given.
  found$file <- ifelse(inputs == "-", "standard input", inputs)
  found$call <- call_text(
    ifelse(inputs == "-", "FILE", inputs), found$arguments
  )
  found$shell <- shell_text(inputs, with_falls(found$arguments, found$falls))
  put_inspection(found, options, format)
}

put_inspection <- function(found, options, format) {
  to_output(found$columns, format, function() {
    visible(if (options$quiet) {
      c(found$call, "", found$shell)
    } else {
      inspection_page(found)
    })
  })
}

# Of a table there, or which tables there are.
inspect_database <- function(options, format) {
  asked <- intersect(names(inspect_map()), names(option_map(at_map)))
  refuse_options(
    options, setdiff(names(inspect_map()), c(asked, "table")),
    "with --database no file is read"
  )
  if (is_given(options$table)) {
    known <- arguments_of(
      "records_at", options, option_map(at_map)[setdiff(asked, "table")]
    )
    found <- doing("Asking the database", inspect_at(
      options$database, options$table, known
    ))
    return(put_inspection(found, options, format))
  }
  tables <- doing("Asking the database", tables_at(options$database))
  to_output(new_rows(table = tables), format, function() {
    if (length(tables) == 0) {
      return("The database has no tables.")
    }
    visible(c(
      sprintf("The database has %s:", count_of(length(tables), "table")), "",
      paste0("  ", tables), "", "Name one with --table."
    ))
  })
}
