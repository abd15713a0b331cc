#' Draw differences between groups
#'
#' The figures of each group, with their middle: orange where it differs from
#' that of the others by more than chance.
#'
#' @param object Differences, from [group_differences()].
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow"), zone = "WET"
#' )
#' daily <- roll_up(crossings, every = "day")
#' autoplot(group_differences(daily, "weekend"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_group_differences <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  about <- facts(object)
  groups <- plain_tibble(object)
  groups$line <- lines_of_result(object)
  groups <- groups[rows_in_panels(groups$line, highlight), ]
  groups$line <- factor(groups$line, unique(groups$line))
  groups$middle <- groups[[about$stat]]
  groups$sure <- !is.na(groups$p) & groups$p <= 1 - about$confidence
  points <- about$points
  points$line <- factor(
    names_of_lines(points[c(about$series, "measure")], about$several),
    levels(groups$line)
  )
  points <- points[!is.na(points$line) & !is.na(points[[about$by]]), ]
  flow <- amounts_from_zero(about, points$value)
  ggplot2::ggplot(points, ggplot2::aes(.data[[about$by]], .data$value)) +
    theme_backfill() +
    ggplot2::geom_point(
      position = ggplot2::position_jitter(width = 0.22, height = 0, seed = 1),
      colour = "#8C8C8C", alpha = 0.45, size = 1.1
    ) +
    ggplot2::geom_errorbar(
      data = groups, ggplot2::aes(
        y = .data$middle, ymin = .data$middle, ymax = .data$middle,
        colour = .data$sure
      ), width = 0.7, linewidth = 1.3
    ) +
    teal_and_orange("FALSE", "TRUE") +
    amount_axis(flow, figure_labels(about$unit)) +
    in_panels(nlevels(groups$line), "free_y") +
    ggplot2::labs(
      title = sprintf(
        "%s by %s", sentence_case(subject_in_words(about, object)),
        gsub("_", " ", about$by)
      ),
      subtitle = glue(
        "Dots: {period_noun(about$calendar, 2)}. Bars: the {about$stat} of",
        "each group, orange where it differs from the others by more than",
        "chance."
      ),
      x = NULL, y = NULL, caption = season_caption(
        about, if (!flow) not_from_zero
      )
    )
}
