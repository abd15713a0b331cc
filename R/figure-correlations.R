#' Draw correlations
#'
#' `type = "heat"` is a map of all pairs on a fixed scale from -1 to 1, in an
#' order that puts series which move alike beside each other; the order is the
#' same in every panel of `each` or `by`. `"scatter"` shows two series, and
#' `"matrix"` up to eight of them against each other.
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
  refuse_further(...)
  check_one_of(type, c("heat", "scatter", "matrix"), "type")
  if (all(is.na(object$coefficient))) {
    abort_backfill("input", "There is nothing to draw: no pair is known.")
  }
  if (!is.null(pair) && type != "scatter") {
    abort_backfill(
      "argument", "`pair` is given, but only a scatter is of two series."
    )
  }
  if (type != "heat" && !is.null(facts(object)$by)) {
    abort_backfill(
      "argument", "`type` is \"{type}\", but the pairs are those of groups.",
      ">" = "Draw the heat map, or correlate without `by`."
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
      labels = if (named) short_in_middle, name = NULL
    ) +
    ggplot2::scale_y_discrete(
      labels = if (named) short_in_middle, name = NULL, limits = rev(lines)
    ) +
    ggplot2::coord_fixed() +
    ggplot2::theme(
      legend.position = "right", panel.grid.major = ggplot2::element_blank(),
      axis.line.x = ggplot2::element_blank(),
      axis.text.x = ggplot2::element_text(angle = 40, hjust = 1)
    )
  # Panels beside each other leave less room for figures.
  beside <- ceiling(sqrt(nlevels(data$panel)))
  if (length(lines) * beside <= most_figures + 2 * (beside > 1)) {
    plot <- plot + figures_of_tiles(data[data$first != data$second, ])
  }
  if (nlevels(data$panel) > 1) {
    plot <- plot + ggplot2::facet_wrap("panel")
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

# Both halves of the matrix, with its diagonal, in each panel.
both_ways <- function(object, lines) {
  half <- plain_tibble(object)[c("first", "second", "coefficient")]
  half$panel <- panels_of_pairs(object)
  other <- half
  other[c("first", "second")] <- half[c("second", "first")]
  both <- vctrs::vec_rbind(half, other)
  # A group has lines of its own.
  own <- vctrs::vec_unique(both[c("first", "panel")])
  own[c("second", "coefficient")] <- list(own$first, 1)
  all <- vctrs::vec_rbind(both, own)
  all$first <- factor(all$first, lines)
  all$second <- factor(all$second, lines)
  all
}

# The group, and the period, that each pair belongs to; one level without any.
panels_of_pairs <- function(object) {
  period <- if ("period" %in% names(object)) {
    label <- period_label(object$period, facts(object)$calendar)
    factor(label, sort(unique(label)))
  }
  group <- if ("group" %in% names(object)) {
    factor(object$group, unique(object$group))
  }
  if (is.null(group) && is.null(period)) {
    return(factor(rep("", nrow(object))))
  }
  if (is.null(group) || is.null(period)) {
    return(group %||% period)
  }
  interaction(period, group, sep = ", ", drop = TRUE)
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
    subtitle = subtitle, caption = source_in_words(about)
  )
}
