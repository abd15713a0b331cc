#' Draw series as they were known
#'
#' Each series as steps, in a panel of its own: a step is the day on which a new
#' figure, or a later version, was known. Where nothing was known there is no
#' line.
#'
#' @param object Aligned series, from [align_as_of()].
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' ledger <- read_records(demo_file("ledger.csv"), when = "period",
#'   series = "item", known = "entered", measures = c(value = "level")
#' )
#' autoplot(align_as_of(ledger, on = "week"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_aligned <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  rows <- rows_in_panels(object$series, highlight)
  data <- plain_tibble(object)[rows, ]
  data$line <- factor(data$series, unique(data$series))
  ggplot2::ggplot(data, ggplot2::aes(.data$on, .data$value)) +
    theme_backfill() +
    ggplot2::geom_step(
      colour = house_colours[[1]], linewidth = 0.7, na.rm = TRUE
    ) +
    amount_axis(FALSE, room = c(0.04, 0.08)) +
    in_panels(nlevels(data$line), "free_y") +
    ggplot2::labs(
      x = NULL, y = NULL, title = "What was known on each day",
      subtitle = "A step is a new figure, or a later version of one.",
      caption = paste(
        "The value axes do not start at zero.", source_in_words(facts(object))
      )
    )
}
