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
          "of reading below; may repeat."
        ), repeats = TRUE),
        rows = cli_flag("With --records: give the records themselves.")
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
  records <- if (!is.null(options$records)) {
    ask_for_roles(options, options$records)
    narrow_records(
      with_spelling("records", read_input(options, options$records)), options
    )
  }
  if (is.null(records)) {
    refuse_options(
      options, c("rows", names(reading_options()), names(narrowing_options())),
      "`--records` is not"
    )
  }
  found <- run_verb(
    "trace_value", read_periods(inputs), options, trace_map, records = records
  )
  shown <- if (options$rows) summary(found) else found
  put_finding(
    found, if (!is.null(records)) rows_set_aside(records), format, options,
    shown = shown, draw = function() autoplot(found)
  )
}
