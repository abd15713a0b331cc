# How the figures of a column are distributed: a histogram with quantiles
# marked.

figure_distribution <- function(data, x, of) {
  if (nlevels(data$line) > most_labelled) {
    # All series of a measure together.
    data$line <- factor(x$measure, unique(x$measure))
  }
  data$figure[
    of == "value" & !data$standing %in% c("complete", "imputed")
  ] <- NA
  data <- data[!is.na(data$figure), ]
  measure <- x$measure[data$row]
  width <- vapply(
    split(data$figure, factor(measure, unique(measure))), bin_width, 0
  )
  unit <- facts(x)$added[[of]]$unit
  title <- uncapitalised(figure_title(x, levels(data$panel), of))
  ggplot2::ggplot(data, ggplot2::aes(.data$figure)) +
    theme_backfill() +
    distribution_layers(data, measure, width) +
    ggplot2::scale_x_continuous(labels = figure_labels(unit)) +
    ggplot2::scale_y_continuous(
      expand = ggplot2::expansion(mult = c(0, 0.25)),
      labels = scales::label_comma()
    ) +
    (if (length(unique(data$line)) > 1) ggplot2::facet_wrap(
      "line", ncol = if (nlevels(data$line) > 3) 2 else 1,
      scales = if (length(width) > 1) "free_x" else "fixed",
      labeller = short_names()
    )) +
    ggplot2::labs(
      title = sprintf("Distribution of %s", title),
      subtitle = sprintf(
        "Orange: quantiles; the thick line is the median. Bars are %s wide.",
        widths_in_words(width, unit, facts(x))
      ),
      y = "Number of periods"
    )
}

# "20", of several measures "20 (kilos) and 500 (lots)".
widths_in_words <- function(width, unit, about) {
  each <- vapply(width, width_in_words, "", unit)
  in_words(if (length(width) == 1) {
    each
  } else {
    sprintf("%s (%s)", each, measures_in_words(names(width), about))
  })
}

width_in_words <- function(width, unit) {
  switch(
    unit %||% "", return = sprintf("%g%%", 100 * width),
    "%" = , points = count_of(width, "point"), plain_format(width)
  )
}

# Where the quantiles of each line are marked, and how low they are named: on
# three lines, so that near quantiles stay legible. Of those that are too near
# for that the inner ones have no name.
quantile_marks <- function(data, measure = as.character(data$line)) {
  reach <- tapply(data$figure, measure, function(figure) diff(range(figure)))
  parts <- split(seq_len(nrow(data)), data$line, drop = TRUE)
  do.call(rbind, lapply(parts, function(rows) {
    at <- quantiles_of(data$figure[rows], marked_quantiles)
    near <- min(diff(at)) <= 0.04 * reach[[measure[[rows[[1]]]]]]
    label <- paste0(100 * marked_quantiles, "%")
    data.frame(
      line = data$line[[rows[[1]]]], at = at, share = marked_quantiles,
      label = ifelse(near & marked_quantiles != 0.5, "", label),
      lower = c(1.3, 2.8, 4.3, 2.8, 1.3)
    )
  }))
}

# Bars are as wide, and axes as long, for all series of a measure.
distribution_layers <- function(data, measure, width) {
  bars <- lapply(names(width), function(name) {
    ggplot2::geom_histogram(
      data = data[measure == name, ], binwidth = width[[name]], boundary = 0,
      fill = "#8DB8BA", colour = "white", linewidth = 0.2
    )
  })
  lines <- unique(data.frame(line = data$line, measure = measure))
  reach <- vapply(
    split(data$figure, measure), range, c(0, 0)
  )[, lines$measure, drop = FALSE]
  ends <- data.frame(
    line = rep(lines$line, each = 2), figure = as.vector(reach)
  )
  c(
    bars, if (length(width) > 1) list(ggplot2::geom_blank(data = ends)),
    quantile_layers(quantile_marks(data, measure))
  )
}

quantile_layers <- function(marks) {
  list(
    ggplot2::geom_vline(
      data = marks,
      ggplot2::aes(xintercept = .data$at, linewidth = .data$share == 0.5),
      colour = house_colours[[2]]
    ),
    ggplot2::geom_text(data = marks, ggplot2::aes(
      x = .data$at, y = Inf, label = .data$label, vjust = .data$lower
    ), hjust = -0.15, size = 3.2, colour = "#7E3408"),
    ggplot2::scale_linewidth_manual(values = c("FALSE" = 0.4, "TRUE" = 0.9))
  )
}

marked_quantiles <- c(0.05, 0.25, 0.5, 0.75, 0.95)

# A round number near to that of Freedman, D. and Diaconis, P. (1981). On the
# histogram as a density estimator. Zeitschrift für Wahrscheinlichkeitstheorie
# und verwandte Gebiete 57, 453-476.
bin_width <- function(figure) {
  spread <- diff(quantiles_of(figure, c(0.25, 0.75)))
  width <- if (spread > 0) {
    2 * spread / length(figure)^(1 / 3)
  } else {
    max(abs(figure), 1) / 30
  }
  tens <- 10^floor(log10(width))
  c(1, 2, 5, 10)[findInterval(width / tens, c(0, 1.5, 3.5, 7.5))] * tens
}

uncapitalised <- function(x) paste0(tolower(substr(x, 1, 1)), substring(x, 2))
