# `backfill trace`: what one figure of a table was made of.

command_trace <- function() {
  list(
    name = "trace",
    inputs = "TABLE",
    run = run_trace,
    about = paste(
      "Show how one figure of a table was made, down to its records.",
      "Gives its formula with the figures put in, the periods that went into",
      "it, and with --records the records behind these. TABLE is a file that",
      "--out or a study wrote: .csv with its metadata beside it, .jsonl, .xlsx",
      "or .parquet. A figure of periods or flags is named by its period, one",
      "of another result, such as an index or a ranking, by its row. Each step",
      "is recomputed, and must give the figure that stands there."
    ),
    options = c(
      options_of("trace_value", trace_map),
      list(
        "made-of" = cli_option("FILE", paste(
          "The table that a result was made of, as --out or a study wrote it.",
          "A result in the folder of a run has its own by itself, and a",
          "profile or a grid of records those of --records."
        )),
        records = cli_option("FILE", paste(
          "The file of records that the table was made of, read by the options",
          "of reading below; may repeat. A table in the folder of a run has",
          "the run's by itself."
        ), repeats = TRUE),
        rows = cli_flag("Give the records themselves.")
      ),
      reading_options(), narrowing_options(),
      output_options()[c("format", "out", "figure", "size", "aside", "quiet")]
    ),
    examples = "backfill trace growth.csv --period 2031-04 --of-series Hearth",
    wants = c(
      "Trace a figure to its records" = "trace TABLE --period 2031-04"
    )
  )
}

trace_map <- c(
  period = "period", "of-series" = "series", column = "column", row = "row"
)

run_trace <- function(options, inputs) {
  if (length(inputs) != 1) {
    stop_usage("One table is traced at a time, not {length(inputs)}.")
  }
  format <- check_outputs(options, inputs)
  table <- read_periods(inputs)
  by_row <- !is_periods(table) && !inherits(table, "backfill_flags")
  check_place_asked(options, by_row)
  made_of <- if (by_row) table_made_of(options, inputs)
  records <- records_to_trace(options, made_of %||% table, dirname(inputs))
  if (by_row && is.null(made_of)) {
    made_of <- records
    records <- NULL
  }
  found <- trace_with_records(table, made_of, records, options)
  shown <- if (options$rows) summary(found) else found
  put_finding(
    found, if (!is.null(records)) rows_set_aside(records), format, options,
    shown = shown, draw = function() autoplot(found)
  )
}

check_place_asked <- function(options, by_row) {
  if (!by_row) {
    refuse_options(
      options, c("row", "made-of"),
      "figures of periods and of flags are traced by `--period`"
    )
  }
  for (name in if (by_row) c("row", "column") else "period") {
    if (is.null(options[[name]])) {
      stop_usage(
        "`{name}` is not given.",
        i = if (by_row) {
          "A figure of this result is named by its row and its column."
        },
        ">" = "See `backfill trace --help`."
      )
    }
  }
}

# The table that a result was made of: that of --made-of, or the one that the
# run in whose folder it lies made it of.
table_made_of <- function(options, file) {
  if (!is.null(options$`made-of`)) {
    return(with_spelling("made-of", read_periods(options$`made-of`)))
  }
  own <- table_of_run(file)
  if (is.null(own) && is.null(options$records)) {
    stop_usage(
      "`--made-of` is not given.",
      i = "It is the table that the result was made of.",
      ">" = "Give its file; of a profile or a grid of records give",
      "`--records`."
    )
  }
  own
}

# Records of a run may have been narrowed by its steps, and do not fit then.
trace_with_records <- function(table, made_of, records, options) {
  trace <- function(records) {
    doing("Tracing", run_verb(
      "trace_value", table, options, trace_map, records = records,
      made_of = made_of
    ))
  }
  if (is.null(records) || !is.null(options$records) || options$rows) {
    return(trace(records))
  }
  tryCatch(trace(records), backfill_error_trace = function(cnd) {
    found <- trace(NULL)
    if (!options$quiet) {
      say(wrapped(paste(
        "The records of the run are not those of the table, whose steps may",
        "have narrowed them; the trace ends at its values."
      )), "")
    }
    found
  })
}

# Those of --records, or of the run that the table lies in.
records_to_trace <- function(options, table, folder) {
  if (!is.null(options$records)) {
    return(narrow_records(
      with_spelling("records", read_input(options, options$records))$records,
      options
    ))
  }
  refuse_options(
    options, c(names(reading_options()), names(narrowing_options())),
    "`--records` is not"
  )
  records <- records_of_run(table, folder)
  if (is.null(records)) {
    refuse_options(
      options, "rows", "there are no records", "Give `--records` too."
    )
  }
  records
}

# The one source of a run whose measures the table was rolled up from.
records_of_run <- function(table, folder) {
  if (!is_periods(table) || !file.exists(file.path(folder, manifest_name))) {
    return(NULL)
  }
  sources <- manifest_of_run(folder, "folder")$sources
  measures <- facts(table)$measures
  from <- vapply(names(measures), function(name) {
    measures[[name]]$from %||% name
  }, "")
  fits <- Filter(function(source) {
    !is.null(source$roles) && all(from %in% unlist(source$measures))
  }, sources)
  if (length(fits) == 1) run_records(folder, names(fits))
}

# The table of the run in whose folder a result lies that it was made of; of
# records those that the run kept.
table_of_run <- function(file) {
  folder <- dirname(file)
  if (!file.exists(file.path(folder, manifest_name))) {
    return(NULL)
  }
  manifest <- manifest_of_run(folder, "folder")
  from <- first_of_step(manifest, sub("[.][^.]*$", "", basename(file)))
  kept <- file.path(folder, sprintf("%s.%s", from, c("csv", "xlsx", "parquet")))
  kept <- kept[file.exists(kept)]
  if (length(kept) > 0) {
    read_periods(kept[[1]])
  } else if (length(from) == 1 && from %in% names(manifest$sources)) {
    run_records(folder, from)
  }
}

# The name of what a step of a run was made of, as its call has it.
first_of_step <- function(manifest, name) {
  for (step in manifest$steps) {
    if (identical(step$name, name)) {
      call <- str2lang(step$call)
      if (length(call) > 1 && is.symbol(call[[2]])) {
        return(as.character(call[[2]]))
      }
    }
  }
  character()
}
