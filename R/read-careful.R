# Text whose lines differ: cut into fields one by one.

read_careful <- function(cut, text, scratch) {
  clean <- tempfile(tmpdir = scratch)
  found <- with_bar("Cutting lines", function(report) {
    careful_records_cpp(
      cut$file$path, clean, cut$delimiter, cut$quote, as.integer(cut$from),
      cut$width, report
    )
  })
  check_fields(found, cut)
  again <- function(...) fread_quietly(clean, sep = "\x1f", quote = "", ...)
  rows <- length(found$line)
  data <- if (rows == 0) rep(list(character()), cut$width) else
    again(colClasses = if (length(text) > 0) list(character = text))
  if (length(data) != cut$width || length(data[[1]]) != rows) {
    abort_backfill(
      "file", "{basename(cut$file$shown)} cannot be read as a delimited file.",
      i = "Of its {rows} rows {length(data[[1]])} could be cut into fields."
    )
  }
  list(
    data = as.list(data), rows = rows, line = function(rows) found$line[rows],
    again = function(which) again(select = which, colClasses = "character"),
    rejected = rows_of_other_width(found, cut), blank = found$blank,
    careful = TRUE
  )
}

# A quote that is never closed, and a file of which no line fits its header.
check_fields <- function(found, cut) {
  if (found$open_quote > 0) {
    abort_backfill(
      "file",
      "{basename(cut$file$shown)} has a quote that is opened on line",
      "{found$open_quote} and never closed.",
      ">" = "Close it, or say `quote` is \"\" where quotation marks are",
      "letters like any other."
    )
  }
  bad <- length(found$bad_line)
  rows <- length(found$line)
  if (bad > 0 && bad >= rows) {
    header <- header_below(found, cut$width)
    abort_backfill(
      c(if (!is.null(header)) "title", "file"),
      "{basename(cut$file$shown)} has a header of",
      "{count_of(cut$width, 'field')}; line {found$bad_line[[1]]} has",
      "{found$bad_fields[[1]]}, and {bad} of its {bad + rows} lines are like",
      "that.",
      ">" = "Give every line as many fields as the header has, and quote",
      "fields that hold the delimiter.",
      ">" = if (!is.null(header)) {
        paste(
          "Or say how many lines stand above the header: `skip` is",
          "{header - 1L} where line {header} is the header."
        )
      },
      choices = if (!is.null(header)) list(skip = header - 1L)
    )
  }
}

# The first line that has as many fields as most, where that is more than what
# was taken for the header has; else NULL.
header_below <- function(found, width) {
  counts <- table(found$bad_fields)
  most <- as.integer(names(counts)[[which.max(counts)]])
  if (most > width && max(counts) > length(found$bad_fields) / 2) {
    found$bad_line[[match(most, found$bad_fields)]]
  }
}

rows_of_other_width <- function(found, cut) {
  bad <- length(found$bad_line)
  new_rejected(
    rep(cut$file$shown, bad), found$bad_line, rep("", bad),
    iconv(found$bad_text, "UTF-8", "UTF-8", sub = "?"),
    sprintf(
      "%s where the header has %d",
      vapply(found$bad_fields, count_of, "", "field"), rep(cut$width, bad)
    )
  )
}
