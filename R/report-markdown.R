# Sections as Markdown, for pages without a script. Its marks in text from data
# are escaped, and addresses, which some readers make links of by themselves.

in_markdown <- function(text) {
  text <- gsub("([][\\\\`*_{}<>#|~$^&@])", "\\\\\\1", visible(text))
  text <- gsub("://", "\\://", text, fixed = TRUE)
  text <- gsub("(www)[.]", "\\1\\\\.", text, ignore.case = TRUE)
  # At the start of a line these would begin a list or underline a title.
  text <- sub(
    "^(\\s*)([-+](?=[-+\\s]|$)|[=:])", "\\1\\\\\\2", text, perl = TRUE
  )
  text <- sub("^(\\s*[0-9]+)([.)])", "\\1\\\\\\2", text)
  gsub("\n", " ", text, fixed = TRUE)
}

# Lines of code in a fence longer than any within them.
fenced <- function(lines, language = "") {
  ticks <- nchar(unlist(regmatches(lines, gregexpr("`+", lines))))
  fence <- strrep("`", max(3, ticks + 1))
  c(paste0(fence, language), lines, fence, "")
}

markdown_of_note <- function(note) {
  unlist(lapply(note_blocks(note), function(block) {
    text <- block$text
    if (block$kind == "code") {
      return(fenced(visible(text)))
    }
    text <- in_spans(text, in_markdown, in_ticks)
    mark <- switch(
      block$kind, paragraph = "", bullets = "* ",
      numbered = paste0(seq_along(text), ". ")
    )
    c(paste0(mark, text), "")
  }))
}

in_ticks <- function(code) sprintf("`%s`", visible(code))

# The picture of a figure is put somewhere by `place`, which gives its path.
markdown_of_section <- function(section, place) {
  said <- heading_of_section(section)
  c(
    paste("##", in_markdown(said$large)), "",
    if (!is.null(said$small)) c(
      sprintf("*%s*", in_markdown(said$small)), ""
    ), markdown_of_note(section$note),
    if (nzchar(said$further)) c(in_markdown(said$further), ""),
    unlist(lapply(section$figures, function(plot) {
      alt <- in_markdown(said_of_figure(plot, section))
      c(sprintf("![%s](%s)", alt, place(plot)), "")
    })),
    if (length(section$said) > 0) c(
      "How this was worked out:", "", paste("*", in_markdown(section$said)), ""
    ),
    markdown_of_table(section), ""
  )
}

picture_of <- function(plot, file, ...) {
  attr(plot, "sources") <- NULL
  write_figure(plot, file, ...)
}

# Nothing in such a page folds or scrolls.
most_in_markdown <- 30

markdown_of_table <- function(section) {
  cells <- section$cells
  if (is.null(cells)) {
    return(NULL)
  }
  left <- section$rows - most_in_markdown
  row <- function(cells) {
    paste0("| ", do.call(paste, c(
      unname(cells), sep = " | "
    )), " |")
  }
  text <- lapply(cells$text, function(text) {
    text <- utils::head(text, most_in_markdown)
    in_markdown(ifelse(is.na(text), "", trimws(text)))
  })
  c(
    row(lapply(names(cells$text), in_markdown)),
    row(as.list(ifelse(cells$right, "---:", "---"))), row(text),
    if (left > 0) c("", sprintf(
      "... and %s%s.", count_of(left, "more row"),
      if (is.null(section$file)) "" else paste("; all are in", section$file)
    ))
  )
}

# In a chunk of R Markdown: only what the document is made to is computed.
#' @exportS3Method knitr::knit_print
knit_print.backfill_section <- function(x, ...) {
  plain <- c("markdown", "gfm", "commonmark", "markdown_strict")
  if (!knitr::is_html_output(excludes = plain)) {
    text <- markdown_of_section(x, place_in_document)
    return(knitr::asis_output(paste(text, collapse = "\n")))
  }
  knitr::asis_output(
    paste(c("", "```{=html}", html_of_section(x), "```", ""), collapse = "\n"),
    meta = list(section_dependencies())
  )
}

# A result in a chunk is what it says, and its first rows as a table.
#' @exportS3Method knitr::knit_print
knit_print.backfill_table <- function(x, ...) {
  said <- sentences_of(x)
  table <- if (!is_read(x)) markdown_of_table(list(
    cells = if (nrow(x) > 0) table_cells(x, most_in_markdown),
    rows = nrow(x)
  ))
  knitr::asis_output(paste(
    c("", if (is_read(x)) {
      c("```text", said, "```")
    } else {
      in_markdown(paste(said, collapse = " "))
    }, "", table, ""),
    collapse = "\n"
  ))
}

# A file that the document finds as its chunk's figures are found.
place_in_document <- function(plot) {
  file <- knitr::fig_path(
    ".png", number = length(list.files(dirname(knitr::fig_path()))) + 1
  )
  dir.create(dirname(file), recursive = TRUE, showWarnings = FALSE)
  picture_of(plot, file)
  file
}
