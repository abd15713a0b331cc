# What figures over the positions of a cycle share.

# An axis of positions numbered from 1, with as many labels as are legible.
position_axis <- function(labels, panels = 1) {
  short <- labels
  short[labels %in% month.name] <- month.abb[
    match(labels[labels %in% month.name], month.name)
  ]
  short[labels %in% weekday_names] <- substr(
    labels[labels %in% weekday_names], 1, 3
  )
  most <- if (panels > 2) 8 else 13
  count <- length(labels)
  at <- seq_len(count)
  if (count > most) {
    # At the first of a month, at midnight of a week's days, else evenly.
    first <- grep("-01$| 00:00$", labels)
    if (length(first) > 1 && length(first) <= most + 1) {
      at <- first
      short[first] <- sub(
        " 00:00$", "",
        ifelse(grepl("-01$", labels[first]), month.abb[as.integer(
          substr(labels[first], 1, 2)
        )], labels[first])
      )
      if (panels > 2) short[first] <- substr(short[first], 1, 3)
    } else {
      step <- Find(
        function(step) count / step <= most, c(2, 3, 4, 5, 6, 10, 20, 50),
        nomatch = count
      )
      at <- seq(1, count, step)
    }
  }
  scale <- ggplot2::scale_x_continuous(
    breaks = at, labels = short[at], expand = ggplot2::expansion(mult = 0.02)
  )
  # For what points tell, also between the ticks.
  scale$positions <- labels
  scale
}

# The rows of lines that are drawn in panels of their own: those named by
# `highlight`, else all, of more than eight up to eight of those that have a
# `weight`, the largest first, or the first.
rows_in_panels <- function(line, highlight, weight = NULL) {
  lines <- unique(line)
  check_highlight(highlight, lines)
  if (is.null(highlight) && length(lines) > most_labelled) {
    if (!is.null(weight)) {
      most <- tapply(weight, factor(line, lines), max)
      lines <- lines[order(-most)][seq_len(max(1, sum(most > 0)))]
    }
    highlight <- utils::head(lines, most_labelled)
    drawn <- glue("Drawn: {length(highlight)} of {length(unique(line))} series")
    rlang::inform(
      glue("{drawn}, {in_words(highlight, 3)}. `highlight` names others."),
      class = "backfill_message_highlight", drawn = paste0(
        drawn, if (!is.null(weight)) ", those with the strongest findings", "."
      )
    )
  }
  which(is.null(highlight) | line %in% highlight)
}

in_panels <- function(count, scales = "fixed") {
  if (count > 1) ggplot2::facet_wrap(
    "line", ncol = if (count > 2) 2 else 1, scales = scales,
    labeller = short_names()
  )
}

# As many beside each other as below, for panels that need little room.
in_small_panels <- function(count) {
  columns <- ceiling(sqrt(count))
  if (count > 1) list(
    ggplot2::facet_wrap(
      "line", ncol = columns, labeller = short_names(96 %/% columns)
    ),
    ggplot2::theme(panel.spacing.x = ggplot2::unit(24, "pt"))
  )
}

# Names of panels, of which two stand beside each other.
short_names <- function(most = 60) {
  ggplot2::as_labeller(function(name) short_in_middle(name, most))
}

season_caption <- function(season, ...) {
  said <- paste(c(..., source_in_words(season)), collapse = " ")
  paste(strwrap(said, 150), collapse = "\n")
}
