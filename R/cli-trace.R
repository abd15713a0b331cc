# `backfill trace`: what one figure of a table was made of.

command_trace <- function() {
  list(
    name = "trace",
    inputs = "TABLE",
    run = run_trace,
    about = paste(
      "Show how one figure of a table was made: its formula with the figures",
      "put in, the periods that went into it, and with --records the records",
      "behind these. TABLE is a file that --out or a study wrote: .csv with",
      "its metadata beside it, .xlsx or .parquet. Each step is worked out",
      "anew, and must give the figure that stands there."
    ),
    options = c(
      options_of("trace_value", trace_map),
      list(
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
    notes = c(
      "Examples:",
      paste(
        "  backfill growth nights.csv --when month --series inn --measure",
        "guest_nights:flow --over \"1 year\" \\"
      ),
      "    --out growth.csv",
      "  backfill trace growth.csv --period 2031-04 --of-series Hearth",
      paste(
        "  backfill trace growth.csv --period 2031-04 --of-series Hearth",
        "--records nights.csv --when month \\"
      ),
      "    --series inn --measure guest_nights:flow --rows"
    )
  )
}

trace_map <- c(period = "period", "of-series" = "series", column = "column")

run_trace <- function(options, inputs) {
  if (length(inputs) != 1) {
    stop_usage(
      sprintf("One table is traced at a time, not %d.", length(inputs))
    )
  }
  if (is.null(options$period)) {
    stop_usage("`period` is not given.", ">" = "See `backfill trace --help`.")
  }
  format <- check_outputs(options, inputs)
  table <- read_periods(inputs)
  records <- records_to_trace(options, table, dirname(inputs))
  found <- trace_with_records(table, records, options)
  shown <- if (options$rows) summary(found) else found
  put_finding(
    found, if (!is.null(records)) rows_set_aside(records), format, options,
    shown = shown, draw = function() autoplot(found)
  )
}

# Records of a run may have been narrowed by its steps, and do not fit then.
trace_with_records <- function(table, records, options) {
  trace <- function(records) {
    doing("Tracing", run_verb(
      "trace_value", table, options, trace_map, records = records
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
    ask_for_roles(options, options$records)
    return(narrow_records(
      with_spelling("records", read_input(options, options$records)), options
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
