#' Draw how much adjusted figures were revised
#'
#' The mean revision of figures by their age, and of their change on the period
#' before; the last ones are on the right, as along time.
#'
#' @param object Revisions, from [season_revisions()].
#' @param highlight Names of the series to draw, where there are many.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' autoplot(season_revisions(roll_up(nights, every = "month")))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_season_revisions <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  about <- facts(object)
  noun <- period_noun(about$calendar)
  line <- lines_of_result(object)
  of <- c("The figure", sprintf("Its change on the %s before", noun))
  data <- data.frame(
    line = rep(line, 2), age = rep(object$age, 2),
    size = c(object$revision, object$change_revision),
    of = factor(rep(of, each = nrow(object)), of)
  )
  data <- data[rows_in_panels(data$line, highlight), ]
  ggplot2::ggplot(data, ggplot2::aes(.data$age, .data$size)) +
    theme_backfill() +
    ggplot2::geom_line(
      ggplot2::aes(colour = .data$of), linewidth = 0.8, na.rm = TRUE
    ) +
    ggplot2::geom_point(
      ggplot2::aes(colour = .data$of), size = 1.8, na.rm = TRUE
    ) +
    teal_and_orange(of[[1]], of[[2]]) +
    ggplot2::scale_x_reverse(breaks = seq(0, ages_compared, 3)) +
    amount_axis(TRUE, figure_labels(
      if (about$form == "multiplicative") "share" else about$unit
    )) +
    in_small_panels(length(unique(data$line))) +
    ggplot2::theme(legend.position = "top") +
    ggplot2::labs(
      title = "How much adjusted figures were revised",
      subtitle = sprintf(
        "Mean revision once later %s were known, by the age of the figure.",
        period_noun(about$calendar, 2)
      ),
      x = sprintf("Age in %s; 0 is the last", period_noun(about$calendar, 2)),
      y = NULL, colour = NULL, caption = season_caption(about)
    )
}
