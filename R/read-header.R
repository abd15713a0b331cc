# The header of a text file, and titles above it.

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
check_title <- function(file, delimiter, form, call) {
  near <- first_records_cpp(
    file$path, delimiter, form$quote, form$skip, form$header_rows + 12L
  )
  filled <- lapply(
    near$fields, function(row) grepl("[^ \t]", row, useBytes = TRUE)
  )
  stop_title(filled, near$line, form$header_rows, file, call)
}

# `filled` says of the first lines which of their fields are. Of several header
# rows the upper one may be filled once for several columns, but it does not
# start with its only name.
stop_title <- function(filled, line, header_rows, file, call) {
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
      sprintf(
        paste(
          "Line %d of %s has %s where lines below it have %d: it looks like",
          "a title above the header."
        ),
        line[[1]], basename(file$shown), count_of(counted[[1]], "filled field"),
        most
      ),
      ">" = sprintf(
        paste(
          "Say how many lines stand above the header: `skip` is %d where",
          "line %d is the header."
        ),
        line[[header]] - 1L, line[[header]]
      ),
      ">" = paste(
        "If it names several columns at once, above a second row of names,",
        "`header_rows` is 2."
      ),
      call = call
    )
  }
}
