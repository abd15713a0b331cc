#' Draw the onset and end of seasons
#'
#' The values of a series, their departures from the mean, and the running sum
#' of these, above each other along the same time; the seasons are shaded.
#'
#' @param object Seasons, from [season_spells()].
#' @param highlight Name of the series to draw, where there are several; by
#'   default the first.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' spells <- season_spells(roll_up(nights, every = "month"))
#' autoplot(spells, highlight = "Lantern")
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_season_spells <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  about <- facts(object)
  lines <- lines_of_result(object)
  check_highlight(highlight, lines)
  drawn <- (highlight %||% lines)[[1]]
  points <- about$points[
    names_of_lines(
      about$points[c(about$series, "measure")], about$several
    ) == drawn,
  ]
  spells <- plain_tibble(object)[lines == drawn & !is.na(object$onset), ]
  spells$until <- period_start(
    period_number(spells$end, lay_calendar_over(about$calendar, spells$end)) +
      1,
    lay_calendar_over(about$calendar, spells$end)
  )
  panels <- c(
    value = "Value", anomaly = "Above or below the mean",
    running = "Running sum of that"
  )
  data <- do.call(rbind, lapply(names(panels), function(column) {
    data.frame(
      panel = factor(panels[[column]], panels), period = points$period,
      figure = points[[column]]
    )
  }))
  ggplot2::ggplot(data, ggplot2::aes(.data$period, .data$figure)) +
    theme_backfill() +
    (if (nrow(spells) > 0) {
      ggplot2::geom_rect(
        data = spells, ggplot2::aes(
          xmin = .data$onset, xmax = .data$until, ymin = -Inf, ymax = Inf
        ), inherit.aes = FALSE, fill = house_colours[[2]], alpha = 0.14
      )
    }) +
    ggplot2::geom_hline(
      data = data.frame(panel = factor(panels[-1], panels)),
      ggplot2::aes(yintercept = 0), colour = "#333333", linewidth = 0.4
    ) +
    ggplot2::geom_line(
      colour = house_colours[[1]], linewidth = 0.6, na.rm = TRUE
    ) +
    (if (all(points$value >= 0, na.rm = TRUE)) {
      ggplot2::geom_blank(data = data.frame(
        panel = factor("Value", panels), period = points$period[[1]], figure = 0
      ))
    }) +
    period_axis(about$calendar) +
    ggplot2::scale_y_continuous(labels = figure_labels(about$unit)) +
    ggplot2::facet_wrap("panel", ncol = 1, scales = "free_y") +
    ggplot2::labs(
      title = sprintf("When the season of %s starts and ends", gsub(
        "_", " ", drawn
      )),
      subtitle = "Shaded: from the lowest running sum to the highest, by year.",
      x = NULL, y = NULL, caption = season_caption(about)
    )
}
