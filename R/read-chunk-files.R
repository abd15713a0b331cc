# The files of reading in chunks: the parts that they are read in, and what is
# kept of each.

# Bytes of text in a chunk.
chunk_bytes <- function() getOption("backfill.chunk_bytes", 2^25)

# A function that gives the next part of a file each time, list(raw, share = of
# the file read), and NULL at the end.
open_chunks <- function(file, form, scratch) {
  if (file_format(file$path) == "parquet") {
    return(whole_parquet(file, form))
  }
  text <- open_text(file, form, scratch)
  function() {
    part <- text$read()
    if (is.null(part)) {
      return(NULL)
    }
    raw <- read_delimited(
      list(path = part$path, shown = file$shown), text$form, scratch
    )
    list(raw = at_lines(raw, part$before), share = part$share)
  }
}

# Its reader cannot take part of a file, but leaves columns out.
whole_parquet <- function(file, form) {
  wanted <- if (!is.null(form$when)) {
    unique(c(form$when, form$series, form$measures))
  }
  done <- FALSE
  function() {
    if (done) {
      return(NULL)
    }
    done <<- TRUE
    list(raw = read_parquet(file, wanted), share = 1)
  }
}

# The rows of a chunk by the lines of the file.
at_lines <- function(raw, before) {
  at <- raw$at
  raw$at <- function(rows) {
    found <- at(rows)
    found$line <- found$line + as.integer(before)
    found
  }
  raw$rejected$line <- raw$rejected$line + as.integer(before)
  raw
}

# list(form, read): `read()` gives the next chunk as a file with the header,
# list(path, before, share), NULL at the end.
open_text <- function(file, form, scratch) {
  if (file_format(file$path) == "gzip") {
    file$path <- gunzip(file, scratch)
  }
  file$path <- in_utf8(file, form$encoding, scratch)
  if (file_format(file$path) != "text") {
    abort_backfill(
      "file",
      "{basename(file$shown)} is neither text nor Parquet, and cannot be read",
      "in chunks."
    )
  }
  form$delimiter <- form$delimiter %||% find_delimiter(file$path, form)
  form["encoding"] <- list(NULL)
  form$single <- TRUE
  list(form = form, read = chunk_cutter(
    file$path, form$quote, header_bytes(file$path, form),
    file.path(scratch, "chunk")
  ))
}

# The lines above the first row, as they are.
header_bytes <- function(path, form) {
  lines <- if (form$header_rows == 0) form$skip else first_records_cpp(
    path, form$delimiter, form$quote, form$skip, form$header_rows
  )$next_line - 1
  if (lines == 0) {
    return(raw())
  }
  head <- readBin(path, "raw", min(file.size(path), 2^20))
  ends <- c(which(head == as.raw(10L)), length(head))
  head[seq_len(ends[[max(lines, 1)]])]
}

# A function that writes the next chunk under the header to `to`, until there
# is none: list(path, before = lines before it, share = of the file read).
chunk_cutter <- function(path, quote, header, to) {
  size <- file.size(path)
  at <- length(header)
  before <- 0
  function() {
    if (at >= size) {
      return(NULL)
    }
    # A rest that is short is read with the last, as a few rows alone may tell
    # nothing of how they are written.
    rest <- size - at
    bytes <- if (rest < 1.5 * chunk_bytes()) rest + 1 else chunk_bytes()
    done <- write_chunk_cpp(path, at, bytes, quote, header, to)
    here <- before
    at <<- done[[1]]
    before <<- before + done[[2]]
    list(path = to, before = here, share = at / size)
  }
}

# Gives the i-th chunk, its series by their `place` in the order of names, and
# the values of a measure, or none.
chunk_reader <- function(folder, place, measures) {
  force(place)
  function(i, name) {
    part <- readRDS(chunk_file(folder, i, 0))
    part$series <- place[part$series]
    if (!is.null(name)) {
      part$value <- readRDS(chunk_file(folder, i, match(name, measures)))
    }
    part
  }
}

# Puts away what a measure of the i-th chunk became, and gives a function that
# fetches it, see src/parts.h.
chunk_keeper <- function(folder, place, measures) {
  reader <- chunk_reader(folder, place, measures)
  function(i, name, value) {
    file <- chunk_file(folder, i, -match(name, measures))
    saveRDS(value, file, compress = FALSE)
    function() c(reader(i, NULL), list(value = readRDS(file)))
  }
}

# Of column 0, the times and series, or that of a measure by its number.
chunk_file <- function(folder, i, column) {
  file.path(
    folder, sprintf("%d-%d.rds", i, column)
  )
}
