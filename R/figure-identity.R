#' Draw an identity
#'
#' By how much the sides of an identity differ in each period: orange where that
#' is more than the tolerance, which is shaded.
#'
#' @param object What was checked, from [check_identity()].
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' monthly <- roll_up(add_measures(crossings, all = market + tide), "month")
#' autoplot(check_identity(monthly, all ~ market + 0.99 * tide))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_identity <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  about <- facts(object)
  data <- plain_tibble(object)[!is.na(object$held), ]
  line <- names_of_lines(data[about$series])
  data$line <- if (length(line) > 0) line else rep("", nrow(data))
  data <- data[rows_in_panels(data$line, highlight), ]
  data$line <- factor(data$line, unique(data$line))
  ggplot2::ggplot(data, ggplot2::aes(.data$period, .data$difference)) +
    theme_backfill() +
    ggplot2::annotate(
      "rect", xmin = min(data$period), xmax = max(data$period),
      ymin = -about$tolerance, ymax = about$tolerance, fill = "#9C9C9C",
      alpha = 0.25
    ) +
    ggplot2::geom_hline(yintercept = 0, colour = "#333333", linewidth = 0.4) +
    ggplot2::geom_segment(
      ggplot2::aes(xend = .data$period, yend = 0, colour = .data$held),
      linewidth = 0.9
    ) +
    ggplot2::geom_point(ggplot2::aes(colour = .data$held), size = 1.6) +
    teal_and_orange("TRUE", "FALSE") +
    period_axis(about$calendar) +
    ggplot2::scale_y_continuous(labels = scales::label_comma()) +
    in_panels(nlevels(data$line), "free_y") +
    ggplot2::labs(
      title = sprintf("Does %s hold?", about$identity),
      subtitle = sprintf(
        "The left side less the right. Orange: broken%s.",
        if (about$tolerance > 0) "; shaded: the tolerance" else ""
      ),
      x = NULL, y = NULL, caption = season_caption(about)
    )
}
