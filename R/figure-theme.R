#' The look of the figures
#'
#' A ggplot2 theme: quiet grid, text in dark grey, titles to the left.
#'
#' @param base_size Size of the text in points.
#' @return A ggplot2 theme, to be added to a plot.
#' @examples
#' ggplot2::ggplot(
#'   data.frame(day = 1:5, landed = c(3, 5, 4, 6, 5)), ggplot2::aes(day, landed)
#' ) +
#'   ggplot2::geom_line() +
#'   theme_backfill()
#' @export
theme_backfill <- function(base_size = 12) {
  ggplot2::theme_minimal(base_size = base_size) +
    ggplot2::theme(
      text = ggplot2::element_text(colour = "#333333"),
      plot.background = ggplot2::element_rect(fill = "white", colour = NA),
      plot.title = ggplot2::element_text(
        face = "bold", size = ggplot2::rel(1.25)
      ),
      plot.title.position = "plot",
      plot.caption = ggplot2::element_text(
        colour = "#6B6B6B", hjust = 0, size = ggplot2::rel(0.75)
      ),
      plot.caption.position = "plot",
      plot.subtitle = ggplot2::element_text(colour = "#555555"),
      panel.grid.minor = ggplot2::element_blank(),
      panel.grid.major.x = ggplot2::element_blank(),
      panel.grid.major.y = ggplot2::element_line(
        colour = "#E4E4E4", linewidth = 0.4
      ),
      axis.line.x = ggplot2::element_line(colour = "#9A9A9A", linewidth = 0.4),
      axis.ticks.x = ggplot2::element_line(colour = "#9A9A9A", linewidth = 0.4),
      strip.text = ggplot2::element_text(face = "bold", hjust = 0),
      strip.clip = "off",
      legend.position = "none",
      plot.margin = ggplot2::margin(8, 24, 8, 8)
    )
}

# Deep teal, burnt orange and greys first; tints of them for up to eight lines,
# each of which is labelled as well.
house_colours <- c(
  "#0E5A61", "#C25614", "#5F5F5F", "#4C9FA3", "#E39A5C", "#1F1F1F", "#9C9C9C",
  "#7E3408"
)

# Where the figures come from, below the plot; `about` are the facts of a table.
source_in_words <- function(about) {
  sprintf("Source: %s.", in_words(basename(about$sources)))
}
