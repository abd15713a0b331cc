# Periods as lines.

figure_lines <- function(data, x, of, headroom, axis, many) {
  moving <- if (of == "value") moving_columns(x)
  shapes <- shapes_of_lines(data, of, if (length(moving) > 0) x[[moving]])
  panels <- levels(data$panel)
  averaged <- length(moving) > 0
  ggplot2::ggplot(
    shapes$whole,
    ggplot2::aes(
      .data$period, .data$figure, group = .data$line, colour = .data$line,
      text = .data$told
    )
  ) +
    theme_backfill() +
    ggplot2::scale_colour_manual(values = line_colours(data)) +
    period_axis(facts(x)$calendar) +
    value_axis(data, axis, facts(x)$added[[of]]$unit, headroom) +
    middle_half_layers(many) +
    steps_layer(shapes$joins, "dotted", faint = averaged) +
    faint_layer(shapes$solid, averaged) +
    middle_layer(many$middle) +
    strong_layers(shapes) +
    steps_layer(shapes$imputed, "dashed", faint = averaged) +
    line_labels(
      shapes$named, axis$log, function(ends) names_in_panels(ends, x)
    ) +
    (if (length(panels) > 1) {
      ggplot2::facet_wrap("panel", ncol = 1, scales = "free_y")
    }) +
    ggplot2::labs(
      title = figure_title(x, panels, of),
      subtitle = lines_subtitle(
        x, data, moving, nrow(shapes$partial) > 0,
        NROW(shapes$imputed) > 0, many$said
      ),
      y = if (length(panels) == 1 && of == "value") panels
    )
}

# What of each line is drawn how: `whole` its whole values, `solid` those that
# were recorded, `strong` the thick line (the moving average where there is
# one), `named` where the line is labelled, `partial` the hollow points, `joins`
# the dotted steps to them and `imputed` the dashed ones.
shapes_of_lines <- function(data, of, average = NULL) {
  values <- of == "value"
  whole <- whole_figures(data, of)
  solid <- whole
  solid$figure[values & whole$standing %in% "imputed"] <- NA
  strong <- solid
  named <- whole
  if (!is.null(average)) {
    strong$figure <- average
    # Lines too short for the average are named at their values.
    averaged <- whole$line %in% whole$line[!is.na(strong$figure)]
    named$figure[averaged] <- strong$figure[averaged]
  }
  # And lines without a whole period at their partial ones.
  bare <- !named$line %in% named$line[!is.na(named$figure)]
  named$figure[bare] <- data$figure[bare]
  hollow <- values & data$standing %in% "partial" & !is.na(data$figure)
  list(
    whole = whole, solid = solid, strong = strong, named = named,
    partial = data[hollow, ],
    # What is partial is joined to its neighbours for the eye alone.
    joins = if (values) dashed_steps(data, "partial"),
    imputed = if (values) dashed_steps(whole, "imputed")
  )
}

# Without the values of partial periods.
whole_figures <- function(data, of) {
  partial <- !data$standing %in% c("complete", "imputed")
  data$figure[of == "value" & partial] <- NA
  data
}

# The values behind an average, or the lines that are not lifted out.
faint_layer <- function(solid, averaged) {
  if (!averaged && all(solid$lifted)) {
    return()
  }
  faint <- if (averaged) solid else solid[!solid$lifted, ]
  ggplot2::geom_line(
    data = of_several(faint), linewidth = 0.5, alpha = 0.45, na.rm = TRUE
  )
}

strong_layers <- function(shapes) {
  strong <- shapes$strong[shapes$strong$lifted, ]
  list(
    ggplot2::geom_line(data = of_several(strong), linewidth = 1, na.rm = TRUE),
    ggplot2::geom_point(data = lonely_points(shapes$whole), size = 1.2),
    ggplot2::geom_point(data = lonely_points(strong), size = 1.8),
    ggplot2::geom_point(
      data = shapes$partial, shape = 21, fill = "white", size = 2
    )
  )
}

lines_subtitle <- function(x, data, moving, partial, imputed, many) {
  every <- period_noun(facts(x)$calendar)
  note <- if (length(moving) > 0) facts(x)$added[[moving]]
  said <- c(
    if (!is.null(many)) {
      many
    } else if (length(moving) > 0) {
      sprintf("Thin: %s by %s. Thick: %s.", every, every, note$short)
    },
    if (partial) {
      sprintf("Hollow, dotted: partial %s.", period_noun(facts(x)$calendar, 2))
    },
    if (imputed) "Dashed: filled in."
  )
  if (length(said) > 0) paste(said, collapse = " ")
}
