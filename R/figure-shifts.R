#' Draw level shifts
#'
#' The figures of each series with the level that was found, each shift with the
#' interval of its date.
#'
#' @param object Shifts, from [level_shifts()].
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(tide = "flow"), zone = "WET"
#' )
#' autoplot(level_shifts(roll_up(crossings, every = "week")))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_shifts <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  about <- facts(object)
  lines <- lines_of_result(summary(object))
  shifted <- as.numeric(lines %in% lines_of_result(object))
  drawn <- lines[rows_in_panels(lines, highlight, shifted)]
  in_drawn <- function(data) {
    data$line <- factor(
      names_of_lines(data[c(about$series, "measure")], about$several), drawn
    )
    data[!is.na(data$line), ]
  }
  points <- in_drawn(about$points)
  shifts <- in_drawn(plain_tibble(object))
  flow <- amounts_from_zero(about, points$value)
  ggplot2::ggplot(points, ggplot2::aes(.data$period)) +
    theme_backfill() +
    (if (nrow(shifts) > 0) {
      ggplot2::geom_rect(
        data = shifts, ggplot2::aes(
          xmin = .data$from, xmax = .data$to, ymin = -Inf, ymax = Inf
        ), inherit.aes = FALSE, fill = house_colours[[2]], alpha = 0.14
      )
    }) +
    ggplot2::geom_line(
      ggplot2::aes(y = .data$value), colour = "#A8A8A8", linewidth = 0.5
    ) +
    ggplot2::geom_step(
      ggplot2::aes(y = .data$fitted), data = with_shifts_only(points, shifts),
      colour = house_colours[[2]], linewidth = 1.1
    ) +
    (if (nrow(shifts) > 0) shift_labels(shifts, points, about)) +
    period_axis(about$calendar) +
    amount_axis(flow, figure_labels(about$unit), c(0.02, 0.12)) +
    in_panels(length(drawn), "free_y") +
    ggplot2::labs(
      title = sprintf("Level shifts of %s", subject_in_words(about, points)),
      subtitle = paste(
        "Grey: the figures. Orange: the level, where it shifts by more than",
        "chance; shaded: the interval of the date."
      ),
      x = NULL, y = NULL, caption = season_caption(
        about, if (!flow) not_from_zero
      )
    )
}

# The levels of series that shift.
with_shifts_only <- function(points, shifts) {
  points[points$line %in% shifts$line, ]
}

# To the left of a date that lies far on the right.
shift_labels <- function(shifts, points, about) {
  ends <- as.numeric(range(points$period))
  late <- as.numeric(shifts$period) > ends[[1]] + 0.75 * diff(ends)
  shifts$beside <- ifelse(late, 1.05, -0.05)

  shifts$label <- sprintf(
    "%s %s", period_label(shifts$period, about$calendar),
    with_sign(in_unit(shifts$size, about), shifts$size)
  )
  ggplot2::geom_text(
    data = shifts, ggplot2::aes(
      .data$period, Inf, label = .data$label, hjust = .data$beside
    ), vjust = 1.4, size = 3.4, colour = "#7E3408"
  )
}
