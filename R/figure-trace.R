#' Draw a trace
#'
#' The values of the series over time, with those that went into the figure
#' brought out, and the period that was traced.
#'
#' @param object A trace, from [trace_value()].
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' smooth <- add_moving(roll_up(nights, every = "month"), window = 12)
#' autoplot(trace_value(smooth, "2031-05", "Hearth"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_trace <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  points <- about$points
  one <- plain_tibble(object)[1, ]
  own <- lines_of_result(object) == lines_of_result(object)[[1]]
  into <- object$period[own & object$column == "value"]
  points$part <- ifelse(
    points$period == one$period, "traced",
    ifelse(points$period %in% into, "used", "other")
  )
  brought_out <- points[points$part != "other" & !is.na(points$figure), ]
  label <- period_label(one$period, about$calendar)
  flow <- all_flows(about$measures[one$measure]) && all(
    points$figure >= 0, na.rm = TRUE
  )
  ggplot2::ggplot(points, ggplot2::aes(.data$period, .data$figure)) +
    theme_backfill() +
    ggplot2::geom_line(
      colour = "#A8A8A8", linewidth = 0.5, na.rm = TRUE
    ) +
    ggplot2::geom_point(
      data = brought_out,
      ggplot2::aes(colour = .data$part, size = .data$part)
    ) +
    ggplot2::scale_colour_manual(values = c(
      used = house_colours[[1]], traced = house_colours[[2]]
    )) +
    ggplot2::scale_size_manual(values = c(used = 2, traced = 3.5)) +
    (if (flow) ggplot2::expand_limits(y = 0)) +
    period_axis(about$calendar) +
    ggplot2::scale_y_continuous(
      labels = scales::label_comma(),
      expand = ggplot2::expansion(mult = c(0.02, 0.08))
    ) +
    ggplot2::labs(
      x = NULL, y = NULL, title = sprintf(
        "%s of %s, %s", sentence_case(gsub("_", " ", one$column)),
        about$line, label
      ),
      subtitle = paste(c(
        sprintf("%s.", sentence_case(one$formula)),
        "Orange: the value of that period. Teal: others that went into it."
      ), collapse = "\n"),
      caption = paste(c(
        if (!flow) "The value axis does not start at zero.",
        source_in_words(about)
      ), collapse = " ")
    )
}
