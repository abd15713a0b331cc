# Where results go: the table to standard output or a file, the figure to a
# file, sentences to standard error.

output_options <- function(
  type = "How the figure is drawn: lines (the default), years or distribution."
) {
  list(
    format = cli_option(
      "FORMAT", paste(
        "table (rounded for reading, the default), csv or json (full",
        "precision), or jsonl, which the next command reads as `-` with all",
        "that is known of it."
      )
    ),
    out = cli_option("FILE", paste(
      "Write the data to FILE instead of to standard output: .csv, .json,",
      ".jsonl, .xlsx or .parquet by its ending. Beside a .csv file goes",
      "FILE-metadata.json, which says what its columns mean."
    )),
    figure = cli_option(
      "FILE", "Draw the periods into FILE: .png, .svg or .pdf by its ending."
    ),
    type = cli_option("TYPE", type),
    size = cli_option(
      "SIZE", paste(
        "Width and height of the figure in pixels, such as 960x600, or what it",
        "is for: page (the default, 1280x800), slide, column or poster."
      )
    ),
    events = cli_option(
      "FILE",
      "A csv file with the columns date and note: events to mark in the figure."
    ),
    aside = cli_option("FILE", "Write the rows set aside into FILE, as csv."),
    zero = cli_option("YES|NO", paste(
      "Whether the value axis of lines and years reaches down to zero. By",
      "default that of flows does."
    )),
    log = cli_flag("Give lines and years a logarithmic value axis."),
    limits = cli_option(
      "LOW,HIGH", "Cut the value axis of lines and years at LOW and HIGH."
    ),
    highlight = cli_option(
      "NAME",
      "A series to bring out in a figure of more than eight; may repeat.",
      repeats = TRUE
    ),
    quiet = cli_flag("Print no sentences, only data and errors.")
  )
}

# For figures without an axis of dates, which have none of values to ask for.
without_events <- function(options) {
  options[setdiff(names(options), c("events", axis_options))]
}

axis_options <- c("zero", "log", "limits")

# Looks at everything that is to be written before any of it is made, so that a
# run that cannot end well writes nothing.
check_outputs <- function(options, inputs) {
  input <- files_read(options, inputs)
  check_drawn(options)
  if (!is.null(options$out)) {
    with_spelling("out", {
      check_output(options$out, input)
      check_table_type(options$out)
      if (has_metadata_beside(options$out)) {
        check_output(metadata_file(options$out), input)
      }
    })
    if (!is.null(options$format) && options$format != file_type(options$out)) {
      stop_usage(
        "`format` is {options$format}, but `out` names a",
        ".{file_type(options$out)} file.",
        ">" = "Leave `format` out; the ending decides."
      )
    }
  }
  if (!is.null(options$figure)) {
    with_spelling("figure", {
      check_output(options$figure, input)
      check_figure_type(options$figure)
    })
  }
  if (!is.null(options$aside)) {
    with_spelling("aside", check_output(options$aside, input))
  }
  figure_size(options$size)
  axis_asked(options)
  check_apart(unlist(options[c("out", "figure", "aside")]))
  format <- options$format %||% if (is.null(options$out)) {
    "table"
  } else {
    file_type(options$out)
  }
  check_one_of(
    format,
    c(
      "table", "csv", "json", "jsonl",
      if (!is.null(options$out)) c("xlsx", "parquet")
    ),
    "format"
  )
  format
}

# Options of a figure mean nothing without one.
check_drawn <- function(options) {
  given <- Filter(
    function(name) is_given(options[[name]]),
    c("type", "size", "events", "highlight", axis_options)
  )
  if (is.null(options$figure) && length(given) > 0) {
    stop_usage(
      "`--{given[[1]]}` is given, but no figure is drawn.",
      ">" = "Name one with `--figure`."
    )
  }
}

# Every file that the command reads: what patterns stand for, and what options
# name.
files_read <- function(options, inputs) {
  patterns <- grepl("[*?[]", inputs) & !file.exists(inputs)
  c(
    inputs[!patterns], unlist(lapply(inputs[patterns], Sys.glob)),
    unlist(options[c("holidays", "events", "index", "attributes")]),
    if (is_given(options$database)) sub(file_bases, "", options$database)
  )
}

# Two results in one file would leave only the second.
check_apart <- function(files) {
  places <- file.path(
    normalizePath(dirname(as.character(files))), basename(as.character(files))
  )
  if (anyDuplicated(places)) {
    stop_usage(
      "{files[[anyDuplicated(places)]]} is named for two results.",
      ">" = "Give each a file of its own."
    )
  }
}

# What write_figure() makes of "1280x800" or "slide".
figure_size <- function(text) {
  if (is.null(text) || text %in% names(figure_presets)) {
    return(list(preset = text %||% "page"))
  }
  size <- suppressWarnings(as.numeric(strsplit(text, "x", fixed = TRUE)[[1]]))
  if (length(size) != 2 || anyNA(size)) {
    stop_usage(
      "`size` is {quoted(text)}.",
      i = "It must be width and height in pixels, such as 1280x800, or",
      "{in_words(names(figure_presets), last = ' or ')}."
    )
  }
  size <- list(width = size[[1]], height = size[[2]])
  with_spelling(c(width = "size", height = "size"), check_pixels(size))
  size
}

read_events <- function(file) {
  if (is.null(file)) {
    return(NULL)
  }
  if (!file.exists(file)) {
    abort_backfill("file", "`events` is {file}, and there is no such file.")
  }
  if (dir.exists(file)) {
    abort_backfill("file", "`events` is {file}, which is a folder.")
  }
  data.table::fread(
    file, colClasses = "character", data.table = FALSE, verbose = FALSE
  )
}
