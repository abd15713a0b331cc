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
    start_of_section(section), html_of_heading(section),
    html_of_note(section$note),
    unlist(lapply(section$figures, function(plot) {
      html_of_figure(plot, section$title, said_of_figure(plot, section))
    })),
    html_of_way(section$said), html_of_table(section), "</section>"
  )
}

start_of_section <- function(section) {
  sprintf(
    "<section id=\"%s\"%s>", escaped(section$id, TRUE),
    if (is.null(section$alike)) "" else sprintf(
      " data-alike=\"%s\" data-length=\"%s\"", escaped(section$alike, TRUE),
      escaped(section$length, TRUE)
    )
  )
}

html_of_heading <- function(section) {
  said <- heading_of_section(section)
  c(
    if (!is.null(said$small)) sprintf(
      "<p class=\"what\">%s</p>", escaped(said$small)
    ),
    sprintf("<h2>%s</h2>", escaped(said$large)),
    if (nzchar(said$further)) sprintf(
      "<p class=\"finding\">%s</p>", escaped(said$further)
    )
  )
}

# What only those want to know who check a finding.
html_of_way <- function(said) {
  if (length(said) > 0) c(
    "<details><summary>How this was worked out</summary><ul class=\"said\">",
    sprintf("<li>%s</li>", escaped(said)), "</ul></details>"
  )
}

# The picture, which needs no script, and beside it what its points tell.
html_of_figure <- function(plot, title, said = NULL) {
  if (identical(plot$labels$title, title)) {
    plot <- plot + ggplot2::labs(title = NULL)
  }
  drawn <- drawn_figure(plot)
  c(
    "<figure>", as_inline(drawn$svg, said %||% title %||% "Figure"), sprintf(
      "<script type=\"application/json\">%s</script>",
      as_script_data(drawn$points)
    ), "</figure>"
  )
}

# A picture as a part of a page. Groups that are cut to the whole picture are
# what stands around the panels, and need no cut.
as_inline <- function(svg, said) {
  svg <- visible(paste(svg[-1], collapse = "\n"))
  whole <- sub(".*?<clipPath id='([^']+)'.*", "\\1", svg)
  svg <- gsub(sprintf(" clip-path='url(#%s)'", whole), "", svg, fixed = TRUE)
  svg <- sub(" width='[^']*' height='[^']*'", "", svg)
  svg <- sub("<svg ", sprintf(
    "<svg role=\"img\" aria-label=\"%s\" ", escaped(said, TRUE)
  ), svg, fixed = TRUE)
  gsub("`", "&#96;", svg, fixed = TRUE)
}

# As JSON. What a page would take for the end of the script, and a document for
# that of a fence, is written in another way.
as_script_data <- function(x) {
  text <- jsonlite::toJSON(
    x, auto_unbox = TRUE, null = "null", na = "null", digits = 10
  )
  text <- gsub("<", "\\u003c", text, fixed = TRUE)
  gsub("`", "\\u0060", text, fixed = TRUE)
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
  htmltools::htmlDependency(
    "backfill-report", as.character(utils::packageVersion("backfill")),
    system.file("report", package = "backfill"), script = "report.js",
    stylesheet = "report.css", all_files = FALSE
  )
}
