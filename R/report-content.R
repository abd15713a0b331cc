# What a report has: list(title, note, sections of what was `read` and `found`,
# `tiles`, `method` (lines of code), `files`, `sources`).

content_of_report <- function(x, title, note, changes = NULL) {
  of_run <- inherits(x, "backfill_study_run")
  results <- if (of_run) facts(x)$results else x
  if (!of_run && !is_named_results(results)) {
    abort_backfill(
      "input",
      "`x` is {value_in_words(x)}, neither a run of a study nor a named list",
      "of results.",
      ">" = "run_study() makes a run."
    )
  }
  about <- if (of_run) facts(x)
  read <- vapply(results, is_read, NA)
  found <- if (of_run) {
    sections_of_run(about)
  } else {
    by_weight(sections_of_list(results[!read]))
  }
  if (!is.null(changes)) found <- c(section_since(changes, results), found)
  found <- with_lengths(with_own_ids(found))
  structure(
    list(
      title = title %||% about$title %||% "Report", note = note %||% about$note,
      read = Map(
        function(x, name) {
          new_section(x, name, NULL, NULL, id = paste0("read-", name))
        },
        results[read], names(results)[read]
      ),
      tiles = tiles_of(results), found = found, method = about$script,
      files = about$read, sources = unlist(lapply(results, sources_of))
    ),
    class = "backfill_report"
  )
}

# Names of measures are put in words, as in the other sections.
section_since <- function(changes, results) {
  attr(changes, "backfill")$measures <- unlist(lapply(
    unname(results), function(one) facts(one)$measures
  ), recursive = FALSE)
  list(new_section(changes, "Since the run before", NULL, list(), id = "since"))
}

# Names that differ in their marks alone would be one place in a page.
with_own_ids <- function(sections) {
  ids <- make.unique(vapply(sections, `[[`, "", "id"), sep = "_")
  Map(function(section, id) replace(section, "id", id), sections, ids)
}

is_named_results <- function(x) {
  is.list(x) && !inherits(x, "backfill_table") && length(x) > 0 &&
    rlang::is_named(x) &&
    all(vapply(x, inherits, NA, c("backfill_table", "backfill_chunked")))
}

sections_of_list <- function(results) {
  Map(function(x, name) {
    new_section(x, NULL, NULL, own_figures(x), id = name)
  }, results, names(results))
}

# Those of the named steps, with the figures that the study asks for, else their
# own.
sections_of_run <- function(about) {
  of <- vapply(about$figures, `[[`, "", "of")
  written <- Filter(function(step) {
    inherits(about$results[[step$name]], "backfill_table")
  }, about$written)
  sections <- lapply(written, function(step) {
    x <- about$results[[step$name]]
    figures <- lapply(about$figures[of == step$name], `[[`, "plot")
    if (length(figures) == 0) figures <- own_figures(x)
    new_section(
      x, NULL, step$note, unname(figures), id = step$name, file = step$file
    )
  })
  names(sections) <- vapply(written, `[[`, "", "name")
  if (is.null(about$sections)) by_weight(sections) else sections[about$sections]
}

by_weight <- function(sections) {
  weight <- vapply(sections, `[[`, 0, "weight")
  sections[order(-weight)]
}

# Parts as HTML --------------------------------------------------------------

html_of_report <- function(report) {
  c(
    html_of_places(report), html_of_note(report$note),
    html_read_in_short(report$read), html_in_short(report$found),
    if (!is.null(report$tiles)) c(
      "<section id=\"latest-figures\"><h2>Latest figures</h2>",
      html_of_tiles(report$tiles), "</section>"
    ),
    unlist(lapply(report$found, html_of_section)),
    html_of_read(report$read), html_of_method(report)
  )
}

# Where to go, at the side of a wide screen.
html_of_places <- function(report) {
  found <- report$found
  places <- c(
    "in-short" = "In short",
    if (!is.null(report$tiles)) c("latest-figures" = "Latest figures"),
    stats::setNames(
      vapply(found, `[[`, "", "title"), vapply(found, `[[`, "", "id")
    ),
    if (length(report$read) > 0) c("what-was-read" = "What was read"),
    c("method-and-sources" = "Method and sources")
  )
  c(
    "<nav aria-label=\"On this page\">", sprintf(
      "<a href=\"#%s\">%s</a>", escaped(names(places), TRUE), escaped(places)
    ),
    "</nav>"
  )
}

html_of_read <- function(read) {
  if (length(read) == 0) {
    return(NULL)
  }
  c(
    "<section id=\"what-was-read\"><h2>What was read</h2>",
    unlist(lapply(read, function(section) {
      c(
        sprintf("<h3>%s</h3>", escaped(section$title)), "<ul class=\"said\">",
        sprintf("<li>%s</li>", escaped(section$said)), "</ul>",
        html_of_table(section, "Rows set aside", open = 0)
      )
    })),
    "</section>"
  )
}

# One line of it where the page begins.
read_in_short <- function(read) {
  counts <- Reduce(`+`, lapply(read, `[[`, "counts"))
  sprintf(
    "Read: %s of %s; %s set aside.", count_of(counts[["read"]], "row"),
    count_of(length(read), "source"),
    if (counts[["aside"]] == 0) "none" else thousands(counts[["aside"]])
  )
}

html_read_in_short <- function(read) {
  if (length(read) > 0) sprintf(
    "<p class=\"read\">%s <a href=\"#what-was-read\">%s</a></p>",
    escaped(read_in_short(read)), "What was read, and how"
  )
}

# The weightiest first; of the others, and of tables in which nothing was
# sought, the names.
html_in_short <- function(found, most = 7) {
  link <- function(section, text) {
    sprintf("<a href=\"#%s\">%s</a>", escaped(section$id, TRUE), escaped(text))
  }
  found <- by_weight(found)
  weighty <- vapply(found, `[[`, 0, "weight") > 1
  first <- utils::head(found, if (any(weighty)) min(sum(weighty), most) else 1)
  others <- vapply(found[-seq_along(first)], function(section) {
    link(section, section$title)
  }, "")
  c(
    "<section id=\"in-short\"><h2>In short</h2><ul class=\"short\">",
    vapply(first, function(section) {
      said <- paste(section$found, collapse = " ")
      sprintf("<li>%s</li>", link(section, said))
    }, ""),
    "</ul>", if (length(others) > 0) sprintf(
      "<p>Also on this page: %s.</p>", paste(others, collapse = ", ")
    ), "</section>"
  )
}

html_of_method <- function(report) {
  c(
    "<section id=\"method-and-sources\"><h2>Method and sources</h2>",
    sprintf("<p>%s</p>", escaped(method_in_words())),
    if (!is.null(report$files)) html_of_table(list(
      cells = text_cells(report$files), rows = 0, title = "Files"
    ), "Files that were read"),
    if (!is.null(report$method)) c(
      "<p>The same in R, to be run in the study's folder:</p>",
      sprintf("<pre tabindex=\"0\"><code>%s</code></pre>", escaped(paste(
        report$method, collapse = "\n"
      )))
    ),
    "</section>"
  )
}

method_in_words <- function() {
  c(
    paste(
      "Every record is accounted for: rows read are rows used and rows set",
      "aside. A flow is added up over a period, a level averaged, a counter",
      "differenced, a ratio made of its parts again."
    ),
    paste(
      "A period is complete where enough of its expected records are there,",
      "else partial or empty; calculations leave partial periods out, and",
      "say how many figures they withheld. Baselines use prior periods alone."
    ),
    sprintf(
      "Made with backfill %s and R %s.",
      utils::packageVersion("backfill"), getRversion()
    )
  )
}

# The same as Markdown, with the pictures that `place` puts somewhere.
markdown_of_report <- function(report, place) {
  c(
    paste("#", in_markdown(report$title)), "",
    markdown_of_note(report$note),
    unlist(lapply(report$found, markdown_of_section, place)),
    "## What was read", "",
    paste("*", in_markdown(unlist(lapply(report$read, `[[`, "said")))), "",
    "## Method and sources", "", rbind(method_in_words(), ""),
    if (!is.null(report$method)) fenced(report$method, "r")
  )
}
