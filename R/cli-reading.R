# How the command line reads its input: the options that are arguments of
# read_records(), which the commands have in common, those that narrow and
# extend the records, and the reading.

reading_map <- function() {
  arguments <- names(verbs()$read_records$arguments)
  option_map(
    stats::setNames(arguments, ifelse(arguments == "measures", "measure", ""))
  )
}

# Of records in a database, by the same options.
at_map <- c(
  "table", "when", measure = "measures", "series", "zone", "date_unit",
  "repeated", "duplicates"
)

reading_options <- function() {
  c(
    options_of("read_records", reading_map()), options_of(
      "records_at", "database"
    )
  )
}

# What becomes of records once they are read, in this order.
narrowing_verbs <- list(
  as_known_on = c("known-on" = "date"),
  add_attributes = c(
    attributes = "table", key = "key", "attribute-measure" = "measures"
  ),
  add_measures = c("add-measure" = "..."),
  keep_dates = c(
    "from", "to", "weekdays", "hours", "keep-workdays" = "workdays"
  )
)

narrowing_options <- function() {
  c(
    with_option(),
    options_of_verbs(narrowing_verbs)
  )
}

# list(records, falls): those of the input files, or of standard input, with a
# bar on a terminal where it takes long; and how counts that were found to start
# anew are counted.
read_input <- function(options, inputs, files = input_files(inputs)) {
  beside <- files_beside(options)
  first <- options
  first$measure <- first_measures(options$measure, beside)
  given <- roles_given(first, inputs)
  if (is_given(options$database)) {
    return(list(records = input_at(options)))
  }
  found <- if (given) {
    list(records = read_as_given(first, inputs, files))
  } else {
    found_and_told(first, files)
  }
  list(
    records = joined_with(found$records, beside, options),
    falls = option_of_falls(found$falls)
  )
}

read_as_given <- function(options, inputs, files) {
  while_reading(inputs, {
    records <- run_verb("read_records", files, options, reading_map())
    if (options$chunked) {
      account(records) # which reads them
    }
    records
  })
}

while_reading <- function(inputs, code) {
  doing(
    paste("Reading", in_words(basename(inputs), 3)), with_progress(code)
  )
}

# Whether the columns that a reading needs are named. What is read in pieces, or
# stays in a database, is not looked through for them.
roles_given <- function(options, inputs) {
  given <- c(options["layout"], list(
    measures = options$measure, when = options$when
  ))
  lacking <- roles_lacking(unlist(inputs), given)
  whole <- !options$chunked && !is_given(options$database)
  if (length(lacking) > 0 && !whole) {
    stop_usage(
      "`{sub('measures', 'measure', lacking[[1]])}` is not given.",
      ">" = "`backfill inspect` finds out how a file, or a table in a",
      "database, is to be read."
    )
  }
  length(lacking) == 0
}

inspect_as_told <- function(options, files) {
  given <- arguments_of("read_records", options, reading_map())
  while_reading(files, do.call(inspect_file, c(list(files), given)))
}

# What is not given is found and told, what is given never overruled.
found_and_told <- function(options, files) {
  found <- settled_found(inspect_as_told(options, files))
  if (!options$quiet) {
    say(wrapped(spelled(c(
      roles_in_words(found), sprintf(
        "Say otherwise by %s.",
        paste(
          option_words(with_falls(found$arguments, found$falls)),
          collapse = " "
        )
      ),
      found$notes
    ))), "")
  }
  found
}

# Records in a database, which are not read.
input_at <- function(options) {
  if (!is_given(options$table)) {
    stop_usage(
      "`database` is given, but no `table`.",
      ">" = "Name the table, or give a SELECT."
    )
  }
  refuse_options(
    options, setdiff(names(reading_map()), names(option_map(at_map))),
    "with --database no file is read"
  )
  run_verb("records_at", options$database, options, at_map)
}

# The records with what the options add to them, of the dates that they name.
narrow_records <- function(records, options) {
  if (options$chunked) {
    refuse_options(
      options, names(narrowing_options()),
      "with --chunked the records are never all in memory"
    )
  }
  if (is_given(options$database)) {
    refuse_options(
      options, c("known-on", "add-measure"),
      "with --database the records are never in memory"
    )
  }
  asked_for <- function(verb) given_options(options, narrowing_verbs[[verb]])
  narrowed <- function(verb, ...) {
    run_verb(verb, records, options, narrowing_verbs[[verb]], ...)
  }
  if (length(asked_for("as_known_on")) > 0) {
    records <- narrowed("as_known_on")
  }
  of_table <- asked_for("add_attributes")
  if (length(of_table) > 0 && !"attributes" %in% of_table) {
    stop_usage(
      "`--{of_table[[1]]}` is given alone.",
      ">" = "`--attributes FILE` names the table that it is for."
    )
  }
  if (length(of_table) > 0) {
    records <- with_spelling("attributes", narrowed("add_attributes"))
  }
  if (is_given(options[["add-measure"]])) {
    records <- with_measures(records, options[["add-measure"]])
  }
  if (length(asked_for("keep_dates")) > 0) {
    days_off <- if (
      is_given(options[["keep-workdays"]]) && is_given(options$holidays)
    ) {
      with_spelling(c(file = "holidays"), read_holidays(options$holidays))
    }
    records <- narrowed("keep_dates", holidays = days_off)
  }
  records
}

# "total = market + tide", or "total:flow = tide * 2".
with_measures <- function(records, texts) {
  parts <- regmatches(texts, regexec("^([^=:]+)(:[^=]+)?=(.+)$", texts))
  formulas <- lapply(parts, function(part) {
    tryCatch(
      rlang::parse_expr(part[[4]]), error = function(cnd) NULL
    ) # also where there is no part
  })
  odd <- vapply(formulas, is.null, NA)
  if (any(odd)) {
    stop_text(
      texts[odd][[1]], "add_measure",
      "It must be a name and a formula, such as \"total = market + tide\"."
    )
  }
  names(formulas) <- trimws(vapply(parts, `[[`, "", 2))
  kinds <- stats::setNames(
    trimws(sub("^:", "", vapply(parts, `[[`, "", 3))), names(formulas)
  )
  kinds <- kinds[nzchar(kinds)]
  named <- if (length(kinds) > 0) named_measures(paste(
    names(kinds), kinds, sep = ":"
  ))
  # No call is made of text that may come from anywhere: the formulas are read,
  # never run.
  with_spelling("add-measure", derived(records, formulas, named))
}

# The reader's own bar goes where messages go, and only to a terminal.
with_progress <- function(code) {
  if (!isatty(stderr())) {
    return(code)
  }
  old <- options(backfill.progress = TRUE)
  sink(stderr())
  on.exit({
    sink()
    options(old)
  })
  code
}

# "-" is standard input. It, and what else is read but once, is put into a file
# first, as readers want to look at it twice.
input_files <- function(inputs) {
  once <- inputs == "-" | read_once(inputs)
  inputs[once] <- vapply(inputs[once], kept_input, "")
  inputs
}

kept_input <- function(input) {
  if (input != "-") {
    # In a folder of its own: the pipe may lie in the temporary one itself.
    folder <- tempfile("input-")
    dir.create(folder)
    return(piped(input, file.path(folder, basename(input))))
  }
  path <- file.path(tempdir(), "standard input")
  from <- file("stdin", "rb")
  to <- file(path, "wb")
  on.exit({
    close(from)
    close(to)
  })
  repeat {
    block <- readBin(from, "raw", 2^20)
    if (length(block) == 0) break
    writeBin(block, to)
  }
  path
}
