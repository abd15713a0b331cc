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
  if (!"period" %in% names(object)) {
    abort_backfill(
      "input", "A figure that was made of records is not drawn over time.",
      ">" = "summary() lists the records."
    )
  }
  points <- trace_points(object)
  brought_out <- points[points$part != "other" & !is.na(points$figure), ]
  flow <- all_flows(about$measures[setdiff(object$measure, NA)]) && all(
    points$figure >= 0, na.rm = TRUE
  )
  ggplot2::ggplot(points, ggplot2::aes(.data$period, .data$figure)) +
    theme_backfill() +
    ggplot2::geom_segment(
      data = steps_of_lines(points, c("imputed", "projected")), ggplot2::aes(
        xend = .data$period_to, yend = .data$figure_to,
        linetype = ifelse(.data$dashed, "dashed", "solid")
      ), colour = "#A8A8A8", linewidth = 0.5
    ) +
    ggplot2::scale_linetype_identity() +
    ggplot2::geom_point(
      data = brought_out,
      ggplot2::aes(colour = .data$part, size = .data$part)
    ) +
    teal_and_orange("used", "traced") +
    ggplot2::scale_size_manual(values = c(used = 2, traced = 3.5)) +
    line_labels(points) +
    period_axis(about$calendar) +
    amount_axis(flow, room = c(0.02, 0.08)) +
    trace_words(object, points, flow)
}

# The part that each of the values has in the figure.
trace_points <- function(object) {
  points <- facts(object)$points
  own <- points$period %in% object$period[[1]] &
    points$line == lines_of_result(object)[[1]]
  # Several lines are named at their ends.
  points$panel <- ""
  points$lifted <- TRUE
  points$part <- ifelse(own, "traced", ifelse(points$used, "used", "other"))
  points
}

parts_in_words <- function(points) {
  traced <- any(points$part == "traced")
  paste(c(
    if (traced) "Orange: the value of that period.",
    if (any(points$part == "used")) sprintf(
      "Teal: %s that went into it.", if (traced) "others" else "the values"
    ),
    if (any(points$standing %in% c("imputed", "projected"))) {
      "Dashed: filled in or projected."
    }
  ), collapse = " ")
}

trace_words <- function(object, points, flow) {
  about <- facts(object)
  one <- plain_tibble(object)[1, ]
  ggplot2::labs(
    x = NULL, y = NULL, title = sprintf(
      "%s of %s", sentence_case(gsub("_", " ", one$column)), about$where
    ),
    subtitle = paste(c(
      sprintf("%s.", sentence_case(one$formula)),
      parts_in_words(points)
    ), collapse = "\n"),
    caption = paste(c(
      if (!flow) not_from_zero,
      source_in_words(about)
    ), collapse = " ")
  )
}
