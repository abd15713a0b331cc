# What a command puts out: sentences, a table, files and figures.

# Tells of the periods and puts them where they are to go. `of` is the column to
# draw.
put_periods <- function(x, rejected, format, options, of = "value") {
  put_result(
    x, rejected, format, options, facts(x)$sources, said = describe(x),
    show = function() writeLines(periods_table(x)),
    draw = function() draw_periods(x, options, of)
  )
}

# A result of the periods is told and put in their stead; it is they that are
# drawn.
put_instead <- function(found, x, rejected, format, options, of = "value") {
  put_finding(
    found, rejected, format, options, before = describe(x),
    draw = function() draw_periods(x, options, of)
  )
}

draw_periods <- function(x, options, of) {
  axis <- axis_asked(options)
  autoplot(
    x, of = of, type = options$type, highlight = options$highlight,
    events = read_events(options$events), zero = axis$zero, log = axis$log,
    limits = axis$limits
  )
}

axis_asked <- function(options) {
  read <- function(name, type) {
    if (is_given(options[[name]])) type$parse(options[[name]], name)
  }
  list(
    zero = read("zero", type_yes_no()), log = isTRUE(options[["log"]]),
    limits = read("limits", type_numbers("LOW,HIGH"))
  )
}

# What is printed, by way of a file: a text connection takes seconds for tens of
# thousands of lines.
printed_lines <- function(show) {
  path <- tempfile("printed-")
  on.exit(unlink(path))
  utils::capture.output(show(), file = path)
  readLines(path)
}

# Sends a table to standard output, as the lines that `lines()` gives or in a
# format of data, and says so where not all of it arrives, which R does not.
to_output <- function(table, format, lines) {
  path <- tempfile("output-")
  on.exit(unlink(path))
  write <- function() {
    if (format == "table") {
      writeLines(enc2utf8(lines()), path, useBytes = TRUE)
    } else {
      put_table(table, path, format)
    }
  }
  on_full_disk(write(), function(reason) {
    abort_backfill(
      "file",
      "The temporary folder {tempdir()} cannot be written to: {reason}.",
      ">" = "Free some space, or name another folder in TMPDIR."
    )
  })
  if (sink.number() > 0) {
    # Somebody in this session is listening.
    return(writeLines(readLines(path, encoding = "UTF-8")))
  }
  flush(stdout())
  fault <- to_standard_output_cpp(path)
  if (grepl("pipe", fault, ignore.case = TRUE)) {
    stop("SIGPIPE")
  }
  if (nzchar(fault)) {
    abort_backfill("file", "Standard output cannot be written: {fault}.")
  }
}

# Says the sentences and puts the table, the figure and the rows set aside where
# they are to go.
put_result <- function(
  table, rejected, format, options, sources, said, show, draw
) {
  if (!options$quiet) {
    say(wrapped(spelled(said)), "")
  }
  # Made before anything is written, as it may be refused.
  plot <- if (!is.null(options$figure)) draw()
  if (!is.null(options$out)) {
    write_table(table, options$out)
  } else {
    to_output(table, format, function() printed_lines(show))
  }
  if (!is.null(options$figure)) {
    doing("Drawing", do.call(write_figure, c(
      list(plot, options$figure, sources = sources), figure_size(options$size)
    )))
  }
  if (!is.null(options$aside)) {
    write_beside(
      options$aside, function(path) put_table(rejected, path, "csv")
    )
  }
  written <- c(options$out, options$figure, options$aside)
  if (!options$quiet && length(written) > 0) {
    say(wrapped(c(
      sprintf("Written: %s.", in_words(written)),
      if (!is.null(options$out) && has_metadata_beside(options$out)) sprintf(
        "Beside it, %s says what its columns are; `backfill trace` reads it.",
        basename(metadata_file(options$out))
      )
    )), "")
  }
}

# A finding that is described, shown and drawn by itself; `shown` of it is given
# as data.
put_finding <- function(
  found, aside, format, options, shown = found, before = NULL, rows = Inf,
  draw = function() autoplot(found, highlight = options$highlight)
) {
  put_result(
    shown, aside, format, options, sources_of(found),
    said = c(before, describe(found)),
    show = function() {
      writeLines(result_lines(shown, rows, "--format csv gives all"))
    },
    draw = draw
  )
}
