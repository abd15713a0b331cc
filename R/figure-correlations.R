#' Draw correlations
#'
#' `type = "heat"` is a map of all pairs on a fixed scale from -1 to 1, in an
#' order that puts series which move alike beside each other; the order is the
#' same in every panel of `each`. `"scatter"` shows two series, and `"matrix"`
#' up to eight of them against each other.
#'
#' @param object Correlations, from [correlations()].
#' @param type `"heat"`, `"scatter"` or `"matrix"`.
#' @param pair For a scatter: the names of two series. By default the two that
#'   are most closely related.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' landings <- read_records(
#'   demo_file("landings.csv"), when = "date", series = "species",
#'   duplicates = "keep", missing = "unsold", measures = c(price = "level")
#' )
#' found <- correlations(roll_up(landings, every = "month", enough = 0.5))
#' autoplot(found)
#' autoplot(found, type = "scatter", pair = c("cod", "ling"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_correlations <- function(
  object, type = "heat", pair = NULL, ...
) {
  check_one_of(type, c("heat", "scatter", "matrix"), "type")
  if (all(is.na(object$coefficient))) {
    abort_backfill("input", "There is nothing to draw: no pair is known.")
  }
  if (!is.null(pair) && type != "scatter") {
    abort_backfill(
      "argument", "`pair` is given, but only a scatter is of two series."
    )
  }
  switch(
    type, heat = heat_of_pairs(object), matrix = matrix_of_pairs(object),
    scatter = scatter_of_pair(object, pair)
  )
}

# As many names and figures as are legible.
most_figures <- 12
most_names <- 40

heat_of_pairs <- function(object) {
  about <- facts(object)
  if (about$method == "covariance") {
    abort_backfill(
      "argument", "Covariances have no common scale to be drawn on.",
      ">" = "Draw the correlations, or a scatter of two series."
    )
  }
  lines <- ordered_by_likeness(object)
  data <- both_ways(object, lines)
  named <- length(lines) <= most_names
  plot <- ggplot2::ggplot(data, ggplot2::aes(.data$first, .data$second)) +
    theme_backfill() +
    ggplot2::geom_tile(
      ggplot2::aes(fill = .data$coefficient),
      colour = if (named) "white" else NA, linewidth = 0.4
    ) +
    scale_of_coefficients() +
    ggplot2::scale_x_discrete(
      labels = if (named) ggplot2::waiver(), name = NULL
    ) +
    ggplot2::scale_y_discrete(
      labels = if (named) ggplot2::waiver(), name = NULL, limits = rev(lines)
    ) +
    ggplot2::coord_fixed() +
    ggplot2::theme(
      legend.position = "right", panel.grid.major = ggplot2::element_blank(),
      axis.line.x = ggplot2::element_blank(),
      axis.text.x = ggplot2::element_text(angle = 40, hjust = 1)
    )
  if (length(lines) <= most_figures) {
    plot <- plot + figures_of_tiles(data[data$first != data$second, ])
  }
  if ("period" %in% names(data)) {
    plot <- plot + ggplot2::facet_wrap("period")
  }
  plot + links_labels(about, paste0(
    "Teal: they move alike. Orange: they move apart.",
    if (anyNA(data$coefficient)) " Grey: no coefficient."
  ))
}

# Fill and legend of coefficients.
scale_of_coefficients <- function() {
  ggplot2::scale_fill_gradient2(
    low = "#C25614", mid = "#F4F1EC", high = "#0E5A61", midpoint = 0,
    limits = c(-1, 1), na.value = "#DADADA", name = NULL
  )
}

# The coefficient in each tile, white where its ground is dark enough.
figures_of_tiles <- function(data) {
  known <- data[!is.na(data$coefficient), ]
  known$dark <- known$coefficient > 0.6 | known$coefficient < -0.85
  list(
    ggplot2::geom_text(
      data = known,
      ggplot2::aes(
        label = sprintf("%.2f", .data$coefficient), colour = .data$dark
      ),
      size = 3.2
    ),
    ggplot2::scale_colour_manual(
      values = c("FALSE" = "#333333", "TRUE" = "white"), guide = "none"
    )
  )
}

# Both halves of the matrix, with its diagonal.
both_ways <- function(object, lines) {
  data <- plain_tibble(object)
  kept <- intersect(c("period", "first", "second", "coefficient"), names(data))
  half <- data[kept]
  other <- half
  other[c("first", "second")] <- half[c("second", "first")]
  own <- tibble::tibble(first = lines, second = lines, coefficient = 1)
  if ("period" %in% kept) {
    own <- vctrs::vec_cbind(
      period = rep(unique(data$period), each = length(lines)),
      vctrs::vec_rep(own, length(unique(data$period)))
    )
  }
  all <- vctrs::vec_rbind(half, other, own)
  if ("period" %in% kept) {
    label <- period_label(all$period, facts(object)$calendar)
    all$period <- factor(label, sort(unique(label)))
  }
  all$first <- factor(all$first, lines)
  all$second <- factor(all$second, lines)
  all
}

# Lines that move alike beside each other: by the angle in the plane of the two
# strongest directions of all.
ordered_by_likeness <- function(object) {
  lines <- facts(object)$lines
  r <- diag(length(lines))
  at <- cbind(match(object$first, lines), match(object$second, lines))
  known <- tapply(
    object$coefficient, (at[, 1] - 1) * length(lines) + at[, 2],
    function(r) mean(r, na.rm = TRUE)
  )
  place <- as.numeric(names(known)) - 1
  known[is.na(known)] <- 0
  r[cbind(place %/% length(lines) + 1, place %% length(lines) + 1)] <- known
  r[lower.tri(r)] <- t(r)[lower.tri(r)]
  if (length(lines) < 3) {
    return(lines)
  }
  strongest <- eigen(r, symmetric = TRUE)$vectors[, 1:2]
  angle <- atan2(strongest[, 2], strongest[, 1])
  order <- order(angle)
  # The circle is cut where neighbours differ most.
  gap <- diff(c(angle[order], angle[order[[1]]] + 2 * pi))
  cut <- which.max(gap)
  lines[order[c(seq_along(order)[-seq_len(cut)], seq_len(cut))]]
}

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
      caption = links_caption(about)
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
row_of_pair <- function(object, pair, call = caller_env()) {
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
      sprintf(
        "`pair` is %s; it must name two series.", in_words(quoted(pair))
      ),
      i = sprintf("The series are %s.", in_words(facts(object)$lines, 8)),
      call = call
    )
  }
  here[[1]]
}

matrix_of_pairs <- function(object) {
  about <- facts(object)
  lines <- about$lines
  if (length(lines) > most_labelled) {
    abort_backfill(
      "argument",
      sprintf(
        "A matrix of %d series would be illegible.", length(lines)
      ),
      ">" = sprintf(
        "Draw the heat map, or correlate up to %d of them.", most_labelled
      )
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

links_labels <- function(about, subtitle) {
  what <- if (about$of == "value") in_words(about$measures, 3) else about$of
  ggplot2::labs(
    title = sprintf(
      "%s of %s%s",
      c(
        pearson = "Correlations", spearman = "Rank correlations",
        kendall = "Rank correlations", covariance = "Covariances"
      )[[about$method]],
      if (about$on == "changes") "changes in " else "", gsub("_", " ", what)
    ),
    subtitle = subtitle, caption = links_caption(about)
  )
}

links_caption <- function(about) {
  sprintf("Source: %s.", in_words(basename(about$sources)))
}
