# Sections as HTML. All text is escaped, as it may come from data; backticks,
# too, which would end the fence of a document of one's own.

escaped <- function(text, attribute = FALSE) {
  text <- visible(enc2utf8(as.character(text)))
  gsub("`", "&#96;", htmltools::htmlEscape(text, attribute), fixed = TRUE)
}

# The note of an author.
html_of_note <- function(note) {
  unlist(lapply(note_blocks(note), function(block) {
    text <- block$text
    switch(
      block$kind,
      paragraph = sprintf("<p class=\"note\">%s</p>", html_of_spans(text)),
      code = sprintf(
        "<pre tabindex=\"0\"><code>%s</code></pre>",
        escaped(paste(text, collapse = "\n"))
      ),
      sprintf(
        "<%1$s class=\"note\">%2$s</%1$s>",
        if (block$kind == "numbered") "ol" else "ul",
        paste0("<li>", html_of_spans(text), "</li>", collapse = "")
      )
    )
  }))
}

html_of_spans <- function(text) {
  in_spans(text, escaped, function(code) {
    sprintf("<code>%s</code>", escaped(code))
  })
}

html_of_section <- function(section) {
  c(
    sprintf("<section id=\"%s\">", escaped(section$id, TRUE)),
    sprintf("<h2>%s</h2>", escaped(section$title)),
    html_of_note(section$note),
    if (length(section$said) > 0) c(
      "<ul class=\"said\">", sprintf("<li>%s</li>", escaped(section$said)),
      "</ul>"
    ),
    unlist(lapply(section$figures, html_of_figure, section)),
    html_of_table(section), "</section>"
  )
}

# The still picture, which stays where there is no script, on paper and on small
# screens, and beside it what the live one is made of.
html_of_figure <- function(plot, section) {
  alt <- said_of_figure(plot, section)
  if (identical(plot$labels$title, section$title)) {
    plot <- plot + ggplot2::labs(title = NULL)
  }
  c(
    "<figure>",
    sprintf(
      paste0(
        "<img class=\"still\" src=\"%s\" alt=\"%s\" width=\"1120\"",
        " height=\"700\">"
      ),
      picture_as_text(plot), escaped(alt, TRUE)
    ),
    sprintf(
      paste0(
        "<div class=\"live\" role=\"img\" aria-label=\"%s\" hidden></div>",
        "<script type=\"application/json\">%s</script>"
      ),
      escaped(alt, TRUE), live_figure(plot)
    ),
    "</figure>"
  )
}

picture_as_text <- function(plot) {
  file <- tempfile(fileext = ".png")
  on.exit(unlink(file))
  picture_of(plot, file, 1120, 700)
  sprintf(
    "data:image/png;base64,%s",
    jsonlite::base64_enc(readBin(file, "raw", file.size(file)))
  )
}

# The widget's traces and layout as JSON. What a page would take for the end of
# the script, and a document for that of a fence, is written in another way.
live_figure <- function(plot) {
  # It warns of attributes that it leaves out.
  built <- suppressWarnings(plotly::plotly_build(as_interactive(plot))$x)
  text <- jsonlite::toJSON(
    list(data = lapply(built$data, plain_trace), layout = built$layout),
    auto_unbox = TRUE, null = "null", na = "null", digits = 10,
    force = TRUE, Date = "ISO8601", POSIXt = "ISO8601"
  )
  text <- gsub("<", "\\u003c", text, fixed = TRUE)
  gsub("`", "\\u0060", text, fixed = TRUE)
}

# Without what only R's side of the widget needs.
plain_trace <- function(trace) {
  trace <- trace[setdiff(names(trace), c("frame", "ids", "key", "set"))]
  lists <- intersect(c("x", "y", "text", "z"), names(trace))
  trace[lists] <- lapply(trace[lists], function(value) {
    if (inherits(value, "POSIXct")) value <- plain_format(value)
    if (is.list(value) || is.matrix(value)) value else I(unname(value))
  })
  trace
}

# Up to `open` rows are shown without a click.
html_of_table <- function(section, what = "Table", open = 15) {
  cells <- section$cells
  if (is.null(cells)) {
    return(NULL)
  }
  rows <- length(cells$text[[1]])
  said <- paste0(
    count_of(rows, "row"),
    if (section$rows > rows) paste0(
      " of ", thousands(section$rows),
      if (!is.null(section$file)) paste("; all are in", section$file)
    )
  )
  c(
    sprintf("<details%s>", if (rows <= open) " open" else ""),
    sprintf("<summary>%s: %s</summary>", what, escaped(said)),
    "<div class=\"table\" tabindex=\"0\" role=\"region\"",
    sprintf(
      " aria-label=\"%s: %s\">", what, escaped(section$title, TRUE)
    ),
    "<table><thead><tr>", head_cells(cells), "</tr></thead><tbody>",
    body_rows(cells), "</tbody></table></div></details>"
  )
}

class_of_cell <- function(right) ifelse(right, " class=\"r\"", "")

head_cells <- function(cells) {
  sprintf(
    "<th scope=\"col\"%s>%s</th>", class_of_cell(cells$right),
    escaped(names(cells$text))
  )
}

body_rows <- function(cells) {
  columns <- Map(function(text, right) {
    text[is.na(text)] <- ""
    paste0("<td", class_of_cell(right), ">", escaped(trimws(text)), "</td>")
  }, cells$text, cells$right)
  paste0("<tr>", do.call(paste0, unname(columns)), "</tr>")
}

# The look of sections and what makes them live, once in a page.
section_dependencies <- function() {
  list(
    htmltools::htmlDependency(
      "plotly", as.character(utils::packageVersion("plotly")),
      system.file("htmlwidgets", "lib", "plotlyjs", package = "plotly"),
      script = "plotly-latest.min.js", all_files = FALSE
    ),
    htmltools::htmlDependency(
      "backfill-report", as.character(utils::packageVersion("backfill")),
      system.file("report", package = "backfill"), script = "report.js",
      stylesheet = "report.css", all_files = FALSE
    )
  )
}
