#' @export
print.backfill_inspection <- function(x, ...) {
  writeLines(visible(inspection_page(x)))
  invisible(x)
}

# What was guessed, the account of reading the file that way, and the lines that
# do so.
inspection_page <- function(x) {
  columns <- x$columns
  columns$column <- short_text(columns$column, 40)
  c(
    described_layout(x), format_table(columns), "",
    if (!is.null(x$problem)) {
      c("Read that way, it fails:", x$problem)
    } else {
      intake_page(account(x$records))
    },
    if (length(x$notes) > 0) c("", wrapped(x$notes)),
    "", "In R:", paste0("  ", x$call), "In a shell:",
    paste0("  ", x$shell), what_next(x)
  )
}

# How the file is laid out, unless in rows, and which it is where no account of
# it follows.
described_layout <- function(x) {
  layout <- x$arguments$layout %||% "rows"
  if (layout == "rows" && is.null(x$problem)) {
    return(NULL)
  }
  c(wrapped(sprintf(
    "%s, %s:",
    if (is.character(x$file)) {
      in_words(basename(x$file), 3)
    } else {
      "The database"
    },
    switch(
      layout, rows = "a record in each row",
      "dates across" = "a date in each column",
      "series across" = "a series in each column"
    )
  )), "")
}

# A page of the files, where they are here.
what_next <- function(x) {
  here <- is.character(x$file) && all(file.exists(x$file))
  if (is.null(x$problem) && here) {
    files <- vapply(x$file, quoted_word, "", USE.NAMES = FALSE)
    c("", wrapped(sprintf(
      "Next: `backfill report %s` makes a page of it, with the same options.",
      paste(files, collapse = " ")
    )))
  }
}
