# Series against each other: one pair as a scatter, several as a matrix.

scatter_of_pair <- function(object, pair) {
  about <- facts(object)
  at <- row_of_pair(object, pair)
  two <- pair %||% c(object$first[[at]], object$second[[at]])
  columns <- match(two, about$lines)
  data <- data.frame(
    x = about$across$values[, columns[[1]]],
    y = about$across$values[, columns[[2]]],
    year = as.integer(format(about$across$start, "%Y"))
  )
  data <- data[!is.na(data$x) & !is.na(data$y), ]
  slope <- sum((data$x - mean(data$x)) * (data$y - mean(data$y))) /
    sum((data$x - mean(data$x))^2)
  ggplot2::ggplot(data, ggplot2::aes(.data$x, .data$y)) +
    theme_backfill() +
    ggplot2::geom_abline(
      slope = slope, intercept = mean(data$y) - slope * mean(data$x),
      colour = "#5F5F5F", linewidth = 0.6
    ) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$year), size = 2.2) +
    ggplot2::scale_colour_gradient(
      low = "#F2B98D", high = "#0E5A61", name = NULL,
      breaks = function(limits) unique(round(pretty(limits, 4))),
      labels = function(x) sprintf("%d", as.integer(x))
    ) +
    ggplot2::scale_x_continuous(labels = scales::label_comma()) +
    ggplot2::scale_y_continuous(labels = scales::label_comma()) +
    ggplot2::theme(
      legend.position = "right",
      panel.grid.major.x = ggplot2::element_line(colour = "#E6E6E6")
    ) +
    ggplot2::labs(
      x = axis_of_line(two[[1]], about), y = axis_of_line(two[[2]], about),
      title = sprintf("%s and %s", sentence_case(two[[1]]), two[[2]]),
      subtitle = sprintf(
        "%s over %d periods. Coloured by year, with the line of least squares.",
        coefficient_in_words(data, about$method), nrow(data)
      ),
      caption = source_in_words(about)
    )
}

axis_of_line <- function(line, about) {
  if (about$on == "changes") paste(line, "(change)", sep = " ") else line
}

coefficient_in_words <- function(data, method) {
  shown <- if (method == "covariance") "pearson" else method
  called <- c(
    pearson = "Pearson's correlation", spearman = "Spearman's rank correlation",
    kendall = "Kendall's tau"
  )[[shown]]
  r <- correlate_cpp(
    cbind(data$x, data$y), matrix(0, 1, 2),
    match(shown, correlation_methods) - 1L, 3
  )$coefficient
  sprintf("%s is %.2f", called, r)
}

# The row of two series, or that of the strongest pair.
row_of_pair <- function(object, pair) {
  if (is.null(pair)) {
    return(which.max(abs(object$coefficient)))
  }
  here <- which(
    object$first %in% pair & object$second %in% pair &
      object$first != object$second
  )
  if (length(pair) != 2 || length(here) == 0) {
    abort_backfill(
      "argument",
      "`pair` is {in_words(quoted(pair))}; it must name two series.",
      i = "The series are {in_words(facts(object)$lines, 8)}."
    )
  }
  here[[1]]
}

matrix_of_pairs <- function(object) {
  about <- facts(object)
  lines <- about$lines
  if (length(lines) > most_labelled) {
    abort_backfill(
      "argument", "A matrix of {length(lines)} series would be illegible.",
      ">" = "Draw the heat map, or correlate up to {most_labelled} of them."
    )
  }
  values <- about$across$values
  cell <- expand.grid(
    x = seq_along(lines), y = seq_along(lines)
  )
  data <- do.call(rbind, lapply(seq_len(nrow(cell)), function(i) {
    data.frame(
      across = lines[[cell$x[[i]]]], down = lines[[cell$y[[i]]]],
      x = values[, cell$x[[i]]], y = values[, cell$y[[i]]]
    )
  }))
  data <- data[!is.na(data$x) & !is.na(data$y), ]
  data$across <- factor(data$across, lines)
  data$down <- factor(data$down, lines)
  ggplot2::ggplot(
    data[data$across != data$down, ], ggplot2::aes(.data$x, .data$y)
  ) +
    theme_backfill() +
    ggplot2::geom_point(size = 0.9, alpha = 0.6, colour = house_colours[[1]]) +
    ggplot2::geom_ribbon(
      data = distributions_of(values, lines),
      ggplot2::aes(ymin = .data$base, ymax = .data$y), fill = "#8DB8BA"
    ) +
    ggplot2::facet_grid(
      rows = ggplot2::vars(.data$down), cols = ggplot2::vars(.data$across),
      scales = "free"
    ) +
    ggplot2::theme(
      axis.text = ggplot2::element_blank(),
      panel.border = ggplot2::element_rect(colour = "#D0D0D0", fill = NA)
    ) +
    ggplot2::labs(x = NULL, y = NULL) +
    links_labels(about, sprintf(
      "On the diagonal: how often each %s occurs.",
      if (about$on == "changes") "change" else "value"
    ))
}

# The distribution of each line, as high as its own panel.
distributions_of <- function(values, lines) {
  out <- do.call(rbind, lapply(seq_along(lines), function(i) {
    known <- values[!is.na(values[, i]), i]
    if (length(unique(known)) < 2) {
      return(NULL)
    }
    found <- stats::density(known)
    data.frame(
      across = lines[[i]], down = lines[[i]], x = found$x,
      y = min(known) + diff(range(known)) * found$y / max(found$y),
      base = min(known)
    )
  }))
  out$across <- factor(out$across, lines)
  out$down <- factor(out$down, lines)
  out
}
