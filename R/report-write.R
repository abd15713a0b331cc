#' Write a report
#'
#' One page of all that was read and found: what was found in short, the latest
#' figures, then each result with its sentences, its figure and its table, what
#' departs from the past first; at the end what was read and set aside, the
#' method and the sources.
#'
#' An HTML page holds everything in itself and asks nothing of any other place:
#' its tables sort and filter, pointing at a figure shows its values, and a
#' series that is chosen comes to the front in every figure and table. Without
#' scripts and on paper the figures are static pictures. Markdown has the
#' pictures in a folder beside it. PDF is the page as a browser prints it.
#'
#' @section What comes first: Flagged periods, then changes and rankings, then
#'   projections, trends and seasons, links, what is usual, and tables of
#'   periods. The `report` of a
#'   study names its `sections` in another order.
#'
#' @param x What [run_study()] gave, or a named list of results.
#' @param file Path of the report, whose ending says what it is: `.html`, `.md`
#'   or `.pdf`.
#' @param title The title; `NULL` for that of the study.
#' @param note Text of your own below it; `NULL` for that of the study. It may
#'   have paragraphs, lists (lines that start with `-` or `1.`) and code (in
#'   backticks, or between lines of three); any other mark is shown as it is.
#' @param changes What changed since an earlier run of the study, from
#'   [run_changes()], which then comes first.
#' @return `file`, invisibly.
#' @section Errors: `backfill_error_input` where `x` is neither;
#'   `backfill_error_file` where the report cannot be written;
#'   `backfill_error_package` where the packages htmltools and svglite, which
#'   Markdown does without, are not there, and for PDF where Chromium is not.
#' @seealso [report_section()] for a document of your own.
#' @examplesIf interactive()
#' nights <- read_records(
#'   demo_file("inns.csv"), "month", c(guest_nights = "flow"),
#'   series = "inn"
#' )
#' monthly <- roll_up(nights, every = "month")
#' write_report(
#'   list(nights = nights, growth = add_growth(monthly, over = "1 year")),
#'   file.path(tempdir(), "nights.html"), title = "Guest nights"
#' )
#' @export
write_report <- function(
  x, file, title = NULL, note = NULL, changes = NULL
) {
  check_given()
  check_own_text(title, "title")
  check_own_text(note, "note")
  type <- check_report_type(file)
  if (!is.null(changes) && !inherits(changes, "backfill_run_changes")) {
    abort_backfill(
      "argument", "`changes` is {value_in_words(changes)}.",
      i = "It must be what run_changes() gives."
    )
  }
  report <- content_of_report(x, title, note, changes)
  check_output(file, report$sources)
  write_beside(file, function(path) {
    switch(
      type, html = render_html(report, path),
      md = render_markdown(report, path, file), pdf = render_pdf(report, path)
    )
  })
  invisible(file)
}

check_own_text <- function(text, argument) {
  if (!is.null(text) && !rlang::is_string(text)) {
    abort_backfill("argument", "`{argument}` must be text.")
  }
}

check_report_type <- function(file) {
  type <- if (rlang::is_string(file)) file_type(file) else ""
  if (!type %in% c("html", "md", "pdf")) {
    abort_backfill("file", "{file} ends in none of .html, .md and .pdf.")
  }
  if (type != "md") {
    need_live_figures("to write a report")
  }
  if (type == "pdf") find_browser()
  type
}

# The pictures in a folder beside the page, which is put in place first.
render_markdown <- function(report, path, file) {
  pictures <- paste0(sub("[.]md$", "", file, ignore.case = TRUE), "-figures")
  clear_pictures(pictures)
  text <- markdown_of_report(report, function(plot) {
    dir.create(pictures, showWarnings = FALSE)
    name <- sprintf("figure-%d.png", length(list.files(pictures)) + 1)
    picture_of(plot, file.path(pictures, name))
    paste(utils::URLencode(basename(pictures)), name, sep = "/")
  })
  writeLines(enc2utf8(text), path, useBytes = TRUE)
}

# Pictures of a former report go; a folder with anything else is somebody's.
clear_pictures <- function(folder) {
  held <- list.files(folder, all.files = TRUE, no.. = TRUE)
  other <- grep("^figure-[0-9-]+[.]png$", held, value = TRUE, invert = TRUE)
  if (length(other) > 0) {
    abort_backfill(
      "file",
      "The folder {basename(folder)}, for the report's pictures, has other",
      "things in it.",
      i = "Such as {other[[1]]}.",
      ">" = "Give the report another name."
    )
  }
  unlink(file.path(folder, held))
}

render_pdf <- function(report, path) {
  page <- tempfile(fileext = ".html")
  profile <- tempfile("browser-")
  on.exit(unlink(c(page, profile), recursive = TRUE))
  render_html(report, page)
  done <- processx::run(
    find_browser(),
    c(
      "--headless", "--disable-gpu", "--no-sandbox", "--no-pdf-header-footer",
      paste0("--user-data-dir=", profile), paste0("--print-to-pdf=", path),
      paste0("file://", page)
    ),
    error_on_status = FALSE, timeout = 120
  )
  if (done$status != 0 || !file.exists(path)) {
    abort_backfill(
      "file", "The browser did not print the report.",
      i = "{utils::tail(strsplit(done$stderr, '\n')[[1]], 1)}"
    )
  }
  without_dates(path)
}

# A PDF tells when it was made, so that no two would be alike.
without_dates <- function(path) {
  bytes <- readBin(path, "raw", file.size(path))
  for (key in c("/CreationDate (D:", "/ModDate (D:")) {
    at <- grepRaw(key, bytes, fixed = TRUE)
    if (length(at) > 0) {
      bytes[at + nchar(key) - 1 + 1:14] <- charToRaw("19800101120000")
    }
  }
  writeBin(bytes, path)
}

find_browser <- function() {
  need_package("processx", "to write a PDF")
  found <- Sys.which(c(
    "chromium", "chromium-browser", "google-chrome", "google-chrome-stable"
  ))
  found <- found[nzchar(found)]
  if (length(found) == 0) {
    abort_backfill(
      "package", "The browser Chromium is needed to write a PDF.",
      ">" = "Install it, or write an .html file and print that."
    )
  }
  found[[1]]
}
