# Labels that keep apart, placed by ggrepel.

# A name that a figure has room for; tables tell it in full.
short_in_middle <- function(name, most = 36) {
  long <- nchar(name) > most
  name[long] <- paste0(
    substr(name[long], 1, most / 2), "...",
    substring(name[long], nchar(name[long]) - most / 2 + 4)
  )
  name
}

# Text beside the points of `data`, off them and off each other. Rows whose
# label is "" have none, but are kept clear of the others' labels.
labels_apart <- function(data, mapping, ...) {
  ggrepel::geom_text_repel(
    data = data, mapping, ..., seed = 1, max.overlaps = Inf, max.time = 10,
    force = 1, min.segment.length = 0.6, segment.size = 0.3,
    segment.colour = "#9A9A9A",
    bg.colour = "#FFFFFFD0", bg.r = 0.12, show.legend = FALSE
  )
}

# Points without a label along the lines of `data` through its columns `x` and
# `y`, one line for each value of `by`: `n` of each, so that labels keep off
# what is drawn between two values, too.
along_lines <- function(data, x, y, by, n = 50) {
  known <- data[!is.na(data[[y]]), ]
  lines <- split(known, known[by], drop = TRUE)
  vctrs::vec_rbind(!!!lapply(unname(lines), function(line) {
    if (nrow(line) < 2) {
      return(NULL)
    }
    at <- stats::approx(
      as.numeric(line[[x]]), line[[y]], n = n, ties = "ordered"
    )
    out <- vctrs::vec_rep(line[1, ], length(at$x))
    # Adding to a date keeps its class.
    out[[x]] <- line[[x]][[1]] + (at$x - at$x[[1]])
    out[[y]] <- at$y
    out$label <- ""
    out
  }))
}

# The names of lines to the right of their ends, at `nudge` from them; `y` and
# `label` are columns, `drawn` are the figures of all lines in each panel, by
# the panels' names where `panel` names a column of them. Names that would
# overlap stand above and below each other, those of equal ends in the order of
# their rows, by a hair that stretches no axis.
names_at_ends <- function(ends, y, label, nudge, drawn, ..., panel = NULL) {
  of <- if (is.null(panel)) "all" else as.character(ends[[panel]])
  of <- rep_len(of, nrow(ends))
  reach <- vapply(
    if (is.null(panel)) list(all = drawn) else drawn,
    function(figures) diff(range(figures, 0, na.rm = TRUE)), 0
  )
  place <- stats::ave(seq_along(of), of, FUN = seq_along)
  ends$shown <- short_in_middle(as.character(ends[[label]]))
  ggrepel::geom_text_repel(
    data = ends, ggplot2::aes(y = .data[[y]], label = .data$shown), ...,
    nudge_x = nudge, nudge_y = -1e-3 * unname(reach[of]) * place,
    direction = "y",
    hjust = 0, xlim = c(-Inf, Inf), ylim = c(-Inf, Inf), seed = 1,
    max.overlaps = Inf, max.time = 10, min.segment.length = Inf,
    box.padding = 0.1, point.size = NA, show.legend = FALSE
  )
}
