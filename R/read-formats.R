# The formats of files: how each is known, and by what it is read.

# Each format that is read, in the order in which first bytes are looked at:
# how a file of it `begins` and what file it `holds`, what it is called
# (`noun`), the arguments that speak of it alone (`takes`), and how it is read
# (`read`). What begins like none is JSON or text.
formats_read <- list(
  gzip = list(begins = list(as.raw(c(0x1f, 0x8b))), noun = "gzip"),
  opendocument = list(
    noun = "a workbook", takes = c("sheet", "range"),
    begins = list(charToRaw("PK\003\004")), holds = "content.xml",
    read = function(file, form, scratch) {
      read_workbook(file, "opendocument", form)
    }
  ),
  workbook = list(
    noun = "a workbook", takes = c("sheet", "range"),
    begins = list(
      charToRaw("PK\003\004"), as.raw(c(0xd0, 0xcf, 0x11, 0xe0))
    ),
    read = function(file, form, scratch) {
      read_workbook(file, "workbook", form)
    }
  ),
  parquet = list(
    begins = list(charToRaw("PAR1")), noun = "Parquet",
    read = function(file, form, scratch) read_parquet(file)
  ),
  sqlite = list(
    begins = list(charToRaw("SQLite format 3")), noun = "a database",
    takes = "table",
    read = function(file, form, scratch) read_sqlite(file, form)
  ),
  netcdf = list(
    begins = list(charToRaw("CDF"), as.raw(c(0x89, 0x48, 0x44, 0x46))),
    noun = "a grid", takes = "cells",
    read = function(file, form, scratch) read_grid(file, form)
  ),
  json = list(
    noun = "JSON", takes = "table",
    read = function(file, form, scratch) read_json(file, form)
  ),
  text = list(
    noun = "delimited text",
    read = function(file, form, scratch) {
      file$path <- first_lines(file$path, form$most_bytes, form$quote, scratch)
      read_delimited(file, form, scratch)
    }
  )
)

read_one <- function(file, form, scratch) {
  format <- file_format(file$path)
  if (format == "gzip") {
    file$path <- gunzip(file, scratch)
    format <- file_format(file$path)
  }
  if (format %in% c("text", "json")) {
    file$path <- with_line_ends(in_utf8(file, form$encoding, scratch), scratch)
    format <- if (names_lines(file)) "json" else file_format(file$path)
  }
  check_for_format(form, format, file)
  read <- formats_read[[format]]$read
  if (is.null(read)) {
    abort_backfill(
      "file", "{basename(file$shown)} is {format} twice over.",
      ">" = "Unpack it once."
    )
  }
  read(file, form, scratch)
}

# Arguments that say something of another format would be ignored in silence.
check_for_format <- function(form, format, file) {
  takes <- lapply(formats_read, `[[`, "takes")
  for (name in setdiff(unique(unlist(takes)), takes[[format]])) {
    if (!is.null(form[[name]]) && !identical(form[[name]], "mean")) {
      meant <- Filter(function(one) name %in% one$takes, formats_read)
      nouns <- unique(vapply(meant, `[[`, "", "noun"))
      abort_backfill(
        "argument", "`{name}` is given, but {basename(file$shown)} is not",
        "{in_words(nouns, last = ' or ')}.",
        ">" = "Leave it out."
      )
    }
  }
}

# What a file is, from its first bytes.
file_format <- function(path) {
  start <- readBin(path, "raw", 512)
  begins <- function(with) {
    length(start) >= length(with) && all(start[seq_along(with)] == with)
  }
  is_it <- function(format) {
    any(vapply(format$begins, begins, NA)) &&
      (is.null(format$holds) || format$holds %in% names_packed(path))
  }
  known <- Filter(is_it, formats_read)
  if (length(known) > 0) names(known)[[1]] else other_text(start)
}

names_packed <- function(path) {
  tryCatch(
    utils::unzip(path, list = TRUE)$Name, error = function(cnd) "",
    warning = function(cnd) ""
  )
}

other_text <- function(start) {
  wide <- length(start) >= 2 && (
    all(start[1:2] == as.raw(c(0xff, 0xfe))) || all(
      start[1:2] == as.raw(c(0xfe, 0xff))
    )
  )
  first <- start[
    !start %in% as.raw(c(0x20, 0x09, 0x0a, 0x0d, 0xef, 0xbb, 0xbf))
  ]
  if (!wide && length(first) > 0 && first[[1]] %in% as.raw(utf8ToInt("{["))) {
    "json"
  } else {
    "text"
  }
}
