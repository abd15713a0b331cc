# The header of a text file, and titles above it.

# list(names, lines): a text for each column of each header row, and how many
# lines lie above the first record. Without a header columns are V1, V2, ...
header_cut <- function(file, delimiter, form) {
  rows <- max(1L, form$header_rows)
  head <- first_records_cpp(
    file$path, delimiter, form$quote, form$skip, rows
  )
  if (length(head$fields) < rows) {
    abort_backfill("file", "{file$shown} has no header after line {form$skip}.")
  }
  check_utf8(head$fields, file)
  if (form$header_rows == 0) {
    return(list(
      names = list(paste0("V", seq_along(head$fields[[1]]))), lines = form$skip
    ))
  }
  list(names = header_names(head$fields), lines = head$next_line - 1)
}

# Headers without blanks at their end, where a delimiter too many ends the line;
# a blank name gets a number.
header_names <- function(fields) {
  width <- max(lengths(fields))
  header <- lapply(
    fields, function(row) trimws(c(row, rep("", width - length(row))))
  )
  if (width > 1 && all(vapply(header, function(row) row[[width]] == "", NA))) {
    header <- lapply(header, `[`, -width)
  }
  last <- header[[length(header)]]
  if (length(header) == 1) {
    last[last == ""] <- paste0("V", seq_along(last))[last == ""]
  }
  header[[length(header)]] <- last
  header
}

# A title above the header has fewer fields than the rows have.
check_title <- function(file, delimiter, form) {
  near <- first_records_cpp(
    file$path, delimiter, form$quote, form$skip, form$header_rows + 12L
  )
  filled <- lapply(
    near$fields, function(row) grepl("[^ \t]", row, useBytes = TRUE)
  )
  if (form$header_rows > 0) {
    stop_title(filled, near$line, form$header_rows, file)
    stop_no_header(near$fields, form$header_rows, file)
  }
}

# A name that is a date, above dates that are written alike, is none: the first
# line is a record.
stop_no_header <- function(fields, header_rows, file) {
  text <- length(fields) >= 3 && all(validUTF8(unlist(fields[1:3])))
  if (header_rows != 1 || !text) {
    return(invisible())
  }
  width <- min(lengths(fields[1:3]))
  form <- lapply(fields[1:3], function(row) {
    gsub("[0-9]+", "9", trimws(row[seq_len(width)]))
  })
  dated <- grepl("^9[-/.]9([-/.]9)?([T ].*)?$", form[[1]]) &
    form[[1]] == form[[2]] & form[[1]] == form[[3]] &
    nchar(fields[[1]][seq_len(width)]) >= 6
  if (any(dated)) {
    abort_backfill(
      c("title", "file"),
      "The header of {basename(file$shown)},",
      "{in_words(quoted(fields[[1]]), 4)}, reads as its rows do: it seems to",
      "have none.",
      ">" = "Set `header_rows` to 0, so that its first line is a record; its",
      "columns are then called V1, V2 and so on.",
      choices = list(header_rows = 0L)
    )
  }
}

# `filled` says of the first lines which of their fields are. Of several header
# rows the upper one may be filled once for several columns, but it does not
# start with its only name.
stop_title <- function(filled, line, header_rows, file) {
  titled <- identical(which(filled[[1]]), 1L)
  looked_at <- seq(if (titled) 1 else header_rows, length(line))
  counted <- vapply(filled[looked_at], sum, 0L)
  line <- line[looked_at]
  counts <- table(counted[-1])
  most <- if (length(counts) > 0) {
    max(as.integer(names(counts)[counts == max(counts)]))
  } else {
    0
  }
  if (counted[[1]] * 2 <= most && most > 1) {
    header <- which(counted >= most)[[1]]
    abort_backfill(
      c("title", "file"),
      "Line {line[[1]]} of {basename(file$shown)} has",
      "{count_of(counted[[1]], 'filled field')} where lines below it have",
      "{most}: it looks like a title above the header.",
      ">" = "Say how many lines stand above the header: `skip` is",
      "{line[[header]] - 1L} where line {line[[header]]} is the header.",
      ">" = "If it names several columns at once, above a second row of names,",
      "`header_rows` is 2.",
      choices = list(skip = line[[header]] - 1L)
    )
  }
}
