# Sections as Markdown, for pages without a script. Its marks in text from data
# are escaped.

in_markdown <- function(text) {
  text <- gsub("([][\\\\`*_{}<>#|~$^])", "\\\\\\1", visible(text))
  gsub("\n", " ", text, fixed = TRUE)
}

markdown_of_section <- function(section) {
  c(
    paste("##", in_markdown(section$title)), "",
    if (!is.null(section$note)) c(
      in_markdown(strsplit(section$note, "\n[[:space:]]*\n")[[1]]), ""
    ),
    paste("*", in_markdown(section$said)), "",
    unlist(lapply(section$figures, markdown_of_figure, section)),
    markdown_of_table(section), ""
  )
}

# A file that the document finds as its chunk's figures are found.
markdown_of_figure <- function(plot, section) {
  file <- knitr::fig_path(
    ".png", number = length(list.files(dirname(knitr::fig_path()))) + 1
  )
  dir.create(dirname(file), recursive = TRUE, showWarnings = FALSE)
  attr(plot, "sources") <- NULL
  write_figure(plot, file)
  c(sprintf("![%s](%s)", in_markdown(said_of_figure(plot, section)), file), "")
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

# In a chunk of R Markdown.
#' @exportS3Method knitr::knit_print
knit_print.backfill_section <- function(x, ...) {
  knitted(html_of_section(x), markdown_of_section(x))
}

# Only the one that the document is made to is computed.
knitted <- function(html, markdown) {
  plain <- c("markdown", "gfm", "commonmark", "markdown_strict")
  if (!knitr::is_html_output(excludes = plain)) {
    return(knitr::asis_output(paste(markdown, collapse = "\n")))
  }
  knitr::asis_output(
    paste(c("", "```{=html}", html, "```", ""), collapse = "\n"),
    meta = section_dependencies()
  )
}
