# Where results go: the table to standard output or a file, the figure to a file, sentences to standard error.

output_options <- function(type = "How the figure is drawn: lines (the default), years or distribution.") {
  list(
    format = cli_option("FORMAT", "table (rounded for reading, the default), csv or json (full precision)."),
    out = cli_option("FILE", "Write the data to FILE, as csv or json by its ending, instead of to standard output."),
    figure = cli_option("FILE", "Draw the periods into FILE: .png, .svg or .pdf by its ending."),
    type = cli_option("TYPE", type),
    size = cli_option("PIXELS", "Width and height of the figure. Default: 1280x800."),
    events = cli_option("FILE", "A csv file with the columns date and note: events to mark in the figure."),
    aside = cli_option("FILE", "Write the rows set aside into FILE, as csv."),
    lift = cli_option("NAME", "A series to bring out in a figure of more than eight; may repeat.",
                      repeats = TRUE),
    quiet = cli_flag("Print no sentences, only data and errors.")
  )
}

# Looks at everything that is to be written before any of it is made, so that a run that cannot end well writes nothing.
check_outputs <- function(options, input) {
  if (!is.null(options$out)) {
    check_output(options$out, input, call = NULL)
    if (!file_type(options$out) %in% c("csv", "json")) {
      abort_backfill("file", sprintf("`out` is %s, which ends neither in .csv nor in .json.", options$out), call = NULL)
    }
    if (!is.null(options$format) && options$format != file_type(options$out)) {
      stop_usage(sprintf("`format` is %s, but `out` names a .%s file.", options$format, file_type(options$out)),
                 ">" = "Leave `format` out; the ending decides.")
    }
  }
  if (!is.null(options$figure)) {
    check_output(options$figure, input, call = NULL)
    check_figure_type(options$figure, call = NULL)
  }
  if (!is.null(options$aside)) {
    check_output(options$aside, input, call = NULL)
  }
  figure_size(options$size)
  check_apart(unlist(options[c("out", "figure", "aside")]))
  format <- options$format %||% if (is.null(options$out)) "table" else file_type(options$out)
  check_one_of(format, c("table", "csv", "json"), "format", call = NULL)
  if (format == "json") {
    need_package("jsonlite", "to write JSON", call = NULL)
  }
  format
}

# Two results in one file would leave only the second.
check_apart <- function(files) {
  places <- file.path(normalizePath(dirname(as.character(files))), basename(as.character(files)))
  if (anyDuplicated(places)) {
    stop_usage(sprintf("%s is named for two results.", files[[anyDuplicated(places)]]),
               ">" = "Give each a file of its own.")
  }
}

# 1280 and 800 of "1280x800"
figure_size <- function(text) {
  size <- suppressWarnings(as.numeric(strsplit(text %||% "1280x800", "x", fixed = TRUE)[[1]]))
  if (length(size) != 2 || anyNA(size)) {
    stop_usage(sprintf("`size` is %s.", quoted(text)), i = "It must be width and height in pixels, such as 1280x800.")
  }
  size
}

read_events <- function(file) {
  if (is.null(file)) {
    return(NULL)
  }
  if (!file.exists(file)) {
    abort_backfill("file", sprintf("`events` is %s, and there is no such file.", file), call = NULL)
  }
  data.table::fread(file, colClasses = "character", data.table = FALSE)
}

# Tells of the periods and puts them, or what stands `instead` of them in print, where they are to go. `of` is the
# column to draw.
put_periods <- function(x, rejected, format, options, of = "value", instead = NULL) {
  if (!options$quiet) {
    say(wrapped(in_options(describe_periods(x))), "")
  }
  # Made before anything is written, as it may be refused.
  plot <- if (!is.null(options$figure)) {
    autoplot(x, of = of, type = options$type, lift = options$lift, events = read_events(options$events))
  }
  table <- instead %||% x
  put <- function(path) {
    if (format == "csv") {
      data.table::fwrite(exact_text(table), path, quote = "auto", na = "")
    } else {
      writeLines(rows_json(table), if (nzchar(path)) path else stdout(), useBytes = TRUE)
    }
  }
  if (!is.null(options$out)) {
    write_beside(options$out, put)
  } else if (format != "table") {
    put("")
  } else if (is.null(instead)) {
    writeLines(periods_table(x))
  } else {
    print(instead, n = Inf)
  }
  if (!is.null(options$figure)) {
    size <- figure_size(options$size)
    doing("Drawing", write_figure(plot, options$figure, size[[1]], size[[2]], roles(x)$sources))
  }
  if (!is.null(options$aside)) {
    write_beside(options$aside, function(path) data.table::fwrite(rejected, path))
  }
  written <- c(options$out, options$figure, options$aside)
  if (!options$quiet && length(written) > 0) {
    say(sprintf("Written: %s.", in_words(written)))
  }
}

# Rows as JSON objects, with the same digits as in CSV, which are more than the serialiser gives by itself.
rows_json <- function(x) {
  columns <- exact_text(x)
  for (name in names(columns)[vapply(x, function(column) is.double(column) && !is.object(column), NA)]) {
    text <- columns[[name]]
    columns[[name]] <- structure(ifelse(is.na(text), "null", text), class = "json")
  }
  jsonlite::toJSON(tibble::new_tibble(as.list(columns), nrow = nrow(x)), json_verbatim = TRUE, na = "null")
}
