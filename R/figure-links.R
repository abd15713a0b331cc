#' Draw ranked links
#'
#' A map of the candidates by how many periods they come before the target, for
#' the twenty whose strongest link is least likely to be chance. Links that
#' stand out are framed.
#'
#' @param object Ranked links, from [rank_links()].
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' autoplot(rank_links(roll_up(nights, every = "month"), "Lantern"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_links <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  shown <- first_few(unique(object$candidate), 20)
  data <- plain_tibble(object)[object$candidate %in% shown, ]
  data$line <- factor(data$candidate, rev(shown))
  data$lead <- factor(data$ahead, sort(unique(data$ahead)))
  data$panel <- ifelse(
    data$horizon == 0, "The figures themselves", sprintf(
      "Changes over %s",
      vapply(data$horizon, count_of_steps, "", calendar = about$calendar)
    )
  )
  named <- data[data$q < 0.1 & !is.na(data$q), ]
  ggplot2::ggplot(data, ggplot2::aes(.data$lead, .data$line)) +
    theme_backfill() +
    ggplot2::geom_tile(
      ggplot2::aes(fill = .data$coefficient), colour = "white", linewidth = 0.4
    ) +
    ggplot2::geom_tile(
      data = named, fill = NA, colour = "#222222", linewidth = 0.9
    ) +
    figures_of_tiles(data) +
    scale_of_coefficients() +
    ggplot2::facet_wrap("panel") +
    ggplot2::theme(
      legend.position = "right", panel.grid.major = ggplot2::element_blank()
    ) +
    ggplot2::labs(
      x = sprintf(
        "%s that it comes before %s",
        sentence_case(if (is.null(about$calendar)) {
          "days of the table"
        } else {
          period_noun(about$calendar, 2)
        }), about$target
      ),
      y = NULL, title = sprintf("What goes before %s", about$target),
      subtitle = paste(
        "Correlations of changes. Framed: what stands out from chance among so",
        "many."
      ),
      caption = source_in_words(about)
    )
}
