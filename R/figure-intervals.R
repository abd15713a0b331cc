# Points with intervals on lines of their own, beside a line at zero.

# `data` has the point, the ends `lower` and `upper`, and whether it is `sure`,
# which is orange.
drawn_intervals <- function(data, mapping, unit) {
  ggplot2::ggplot(data, mapping) +
    theme_backfill() +
    ggplot2::geom_vline(xintercept = 0, colour = "#333333", linewidth = 0.4) +
    ggplot2::geom_errorbarh(
      ggplot2::aes(
        xmin = .data$lower, xmax = .data$upper, colour = .data$sure
      ), height = 0, linewidth = 0.9, na.rm = TRUE
    ) +
    ggplot2::geom_point(
      ggplot2::aes(colour = .data$sure), size = 2.6, na.rm = TRUE
    ) +
    teal_and_orange("FALSE", "TRUE") +
    ggplot2::scale_x_continuous(labels = figure_labels(unit))
}
