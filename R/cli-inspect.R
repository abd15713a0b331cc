# `backfill inspect`: how a file is to be read.

command_inspect <- function() {
  list(
    name = "inspect",
    inputs = "FILE...",
    run = run_inspect,
    about = paste(
      "Find out how a file is to be read. Guesses its layout, the column of",
      "the date, the series, the measures and",
      "their kinds, with the reason for each; shows the account of reading",
      "it that way, and the R call and the shell",
      "line that",
      "do so."
    ),
    options = c(
      options_of("read_records", inspect_map()),
      output_options()[c("format", "quiet")]
    ),
    notes = c(
      paste(
        "Options say what you know already. --format csv or json",
        "gives the guesses as data."
      ), "",
      "Example:", "  backfill inspect landings.csv --zone WET"
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
    options$format %||% "table", c("table", "csv", "json"), "format",
    call = NULL
  )
  files <- input_files(inputs)
  found <- doing(
    paste("Reading", in_words(basename(inputs), 3)),
    with_progress({
      do.call(
        inspect_file,
        c(list(files), arguments_of("read_records", options, inspect_map()))
      )
    })
  )
  # The lines to copy name the input as it was given.
  found$file <- ifelse(inputs == "-", "standard input", inputs)
  found$call <- call_text(
    ifelse(inputs == "-", "FILE", inputs), found$arguments
  )
  found$shell <- shell_text(inputs, found$arguments)
  to_output(found$columns, format, function() {
    visible(if (options$quiet) {
      c(found$call, "", found$shell)
    } else {
      inspection_page(found)
    })
  })
}
