#' Draw what a tree predicts
#'
#' Actual against predicted changes: the periods that the tree was fitted to
#' faint, those it is judged on in orange, in a panel of their own, with the
#' line on which both are equal.
#'
#' @param object What [explain_target()] gave.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examplesIf requireNamespace("rpart", quietly = TRUE)
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' autoplot(explain_target(roll_up(nights, every = "month"), "Lantern"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_explained <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  panels <- c(
    later = "Later periods, that it is judged on",
    fit = "Periods that it was fitted to"
  )
  data <- plain_tibble(object)
  data$panel <- factor(panels[data$stretch], panels)
  ends <- range(data$actual, data$predicted)
  ggplot2::ggplot(data, ggplot2::aes(.data$predicted, .data$actual)) +
    theme_backfill() +
    ggplot2::geom_abline(
      slope = 1, intercept = 0, colour = "#5F5F5F", linewidth = 0.5
    ) +
    ggplot2::geom_point(
      ggplot2::aes(colour = .data$stretch), size = 2.4, alpha = 0.8
    ) +
    ggplot2::scale_colour_manual(
      values = c(later = house_colours[[2]], fit = "#8F8F8F")
    ) +
    ggplot2::scale_x_continuous(labels = scales::label_comma()) +
    ggplot2::scale_y_continuous(labels = scales::label_comma()) +
    ggplot2::coord_fixed(xlim = ends, ylim = ends) +
    ggplot2::facet_wrap("panel", nrow = 1) +
    ggplot2::theme(
      panel.grid.major.x = ggplot2::element_line(colour = "#E6E6E6"),
      panel.spacing.x = ggplot2::unit(24, "pt")
    ) +
    ggplot2::labs(
      x = "Predicted change", y = "Actual change",
      title = sprintf(
        "The change of %s %s ahead", about$target,
        count_of_steps(about$ahead, about$calendar)
      ),
      subtitle = paste(strwrap(
        paste(explained_judgement(about), collapse = " "), 110
      ), collapse = "\n"),
      caption = glue("On the line, both are equal. {source_in_words(about)}")
    )
}
