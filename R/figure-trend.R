#' Draw trend lines
#'
#' The figures of each series, with the straight line through them and its
#' equation: solid where there is a trend, dashed where there is none to speak
#' of.
#'
#' @param object Trend lines, from [trend_line()].
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' autoplot(trend_line(deseasonalise(monthly)))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_trends <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  season <- facts(object)
  lines <- trends_drawn(object, highlight)
  points <- points_of_trends(season, lines)
  lines$line <- factor(lines$line, levels(points$line))
  alone <- nlevels(points$line) == 1
  if (!alone) {
    with_equation <- paste(levels(lines$line), lines$equation, sep = ": ")
    levels(points$line) <- levels(lines$line) <- with_equation
  }
  flow <- all_flows(season$measures) && all(points$figure >= 0)
  of <- if (season$of == "adjusted") "without the season" else
    gsub("_", " ", season$of)
  ggplot2::ggplot(points, ggplot2::aes(.data$period, .data$figure)) +
    theme_backfill() +
    ggplot2::geom_line(
      ggplot2::aes(group = .data$line), colour = "#A8A8A8", linewidth = 0.5
    ) +
    ggplot2::geom_point(colour = "#7A7A7A", size = 1) +
    ggplot2::geom_segment(data = lines, ggplot2::aes(
      x = .data$from, xend = .data$to, y = .data$start, yend = .data$end,
      linetype = .data$sure
    ), colour = house_colours[[2]], linewidth = 1.1, na.rm = TRUE) +
    ggplot2::scale_linetype_manual(
      values = c("TRUE" = "solid", "FALSE" = "dashed")
    ) +
    period_axis(season$calendar) +
    amount_axis(flow, room = c(0.02, 0.08)) +
    in_panels(nlevels(points$line), "free_y") +
    ggplot2::labs(
      x = NULL, y = NULL, title = sprintf(
        "Trend of %s",
        in_words(measures_in_words(unique(object$measure), season))
      ),
      subtitle = paste(c(if (alone) lines$equation, glue(
        "Grey: {of}. Orange: the line through it, dashed where it cannot be",
        "told from chance."
      )), collapse = "\n"),
      caption = season_caption(
        season, if (!flow) not_from_zero
      )
    )
}

trends_drawn <- function(object, highlight) {
  line <- lines_of_result(object)
  rows <- rows_in_panels(line, highlight)
  lines <- plain_tibble(object)[rows, ]
  lines$line <- factor(line[rows], unique(line))
  lines$sure <- !is.na(lines$p) & lines$p < 0.05
  lines$equation <- trend_equations(object)[rows]
  lines
}

points_of_trends <- function(season, lines) {
  points <- season$points
  points$figure <- points[[season$of]]
  line <- names_of_lines(points[c(season$series, "measure")], season$several)
  points$line <- factor(line, levels(lines$line))
  droplevels(points[points$line %in% lines$line, ])
}
