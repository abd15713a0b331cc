#' Draw how often verdicts are wrong
#'
#' A column for each verdict, a row for each world in which it would be wrong:
#' the highest rate of all lengths, in percent, orange beyond twice the stated
#' share.
#'
#' @param object Rates, from [verdict_rates()].
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' autoplot(verdict_rates("trend_line"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_verdict_rates <- function(object, ...) {
  refuse_further(...)
  rates <- plain_tibble(object)
  rates <- rates[rates$kind == "wrong" & rates$given >= 0.05, ]
  rates$line <- sprintf("%s\n%s", rates$verb, rates$verdict)
  worst <- rates[order(-rates$rate), ]
  worst <- worst[!duplicated(worst[c("line", "world")]), ]
  worst$world <- factor(worst$world, rev(unique(rates$world)))
  worst$line <- factor(worst$line, unique(rates$line))
  worst$far <- worst$rate > 2 * worst$stated
  # What flags are is a share of periods, and small.
  worst$text <- sprintf(
    ifelse(worst$stated < 0.05, "%.1f", "%.0f"), 100 * worst$rate
  )
  ggplot2::ggplot(worst, ggplot2::aes(.data$line, .data$world)) +
    theme_backfill() +
    ggplot2::geom_tile(
      ggplot2::aes(fill = .data$far), colour = "white", linewidth = 0.6
    ) +
    ggplot2::geom_text(
      ggplot2::aes(label = .data$text), colour = "white",
      size = min(3.6, 115 / nlevels(worst$world))
    ) +
    teal_and_orange("FALSE", "TRUE", "fill") +
    ggplot2::scale_x_discrete(position = "top", labels = function(text) {
      vapply(strsplit(text, "\n"), function(part) {
        paste(c(in_column(part[[1]]), strwrap(part[[2]], 13)),
              collapse = "\n")
      }, "")
    }) +
    ggplot2::theme(
      panel.grid = ggplot2::element_blank(),
      axis.line = ggplot2::element_blank(),
      axis.text.x.top = ggplot2::element_text(size = ggplot2::rel(0.74)),
      axis.text.y = ggplot2::element_text(
        size = ggplot2::rel(min(1, 30 / nlevels(worst$world)))
      ),
      axis.ticks = ggplot2::element_blank()
    ) +
    ggplot2::labs(
      title = "How often a verdict is wrong",
      subtitle = paste(
        "Percent of cases that get it though nothing is there, at the",
        "length where that is most.\nOrange: more than twice what is stated."
      ),
      x = NULL, y = NULL, caption = sprintf(
        "Simulated by the project itself, %s.", max(as.character(rates$date))
      )
    )
}

# The name of a verb, broken where it is wider than a column.
in_column <- function(verb) {
  verb <- sub("_", "_\n", verb)
  sub("^([^\n]+)([^\n]{13})$", "\\1-\n\\2", verb)
}
