#' Draw differences between series
#'
#' The mean difference of each pair with its interval: orange where it differs
#' from zero by more than chance.
#'
#' @param object Differences, from [series_differences()].
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' autoplot(series_differences(roll_up(nights, every = "month")))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_series_differences <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  data <- plain_tibble(object)
  data$pair <- sprintf(
    "%s less %s", short_in_middle(data$first), short_in_middle(data$second)
  )
  shown <- utils::head(order(-abs(data$difference)), most_pairs_drawn)
  data <- data[shown, ]
  data$pair <- factor(data$pair, rev(data$pair))
  data$sure <- data$verdict == "differ"
  drawn_intervals(
    data, ggplot2::aes(.data$difference, .data$pair), about$unit
  ) +
    (if (about$several) ggplot2::facet_wrap("measure", scales = "free")) +
    ggplot2::labs(
      title = sprintf(
        "%s: differences between series",
        sentence_case(subject_in_words(about, object))
      ),
      subtitle = sprintf(
        paste(
          "Mean difference over shared %s, with its %g%% interval; orange",
          "where it is more than chance."
        ), period_noun(about$calendar, 2), 100 * about$confidence
      ),
      x = NULL, y = NULL, caption = season_caption(
        about, if ("may wander" %in% data$verdict) {
          "Without an interval: the gap may wander."
        }, if (nrow(object) > most_pairs_drawn) glue(
          "The {most_pairs_drawn} largest of {thousands(nrow(object))} pairs."
        )
      )
    )
}

most_pairs_drawn <- 30
