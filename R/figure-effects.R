#' Draw effects of the calendar
#'
#' Each effect with its interval, a panel for each series: orange where it was
#' found.
#'
#' @param object Effects, from [calendar_effects()].
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' autoplot(calendar_effects(roll_up(nights, every = "month")))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_calendar_effects <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  data <- plain_tibble(object)
  data$effect <- factor(data$effect, rev(unique(data$effect)))
  name <- lines_of_result(object)
  lines <- unique(name)
  drawn <- lines[order(tapply(
    data$joint_p, factor(name, lines), min, na.rm = FALSE
  ))][seq_len(min(length(lines), most_effects_drawn))]
  data$line <- factor(name, intersect(lines, drawn))
  data$sure <- data$verdict == "found"
  data <- data[!is.na(data$line), ]
  drawn_intervals(
    data, ggplot2::aes(.data$estimate, .data$effect), unit_of_effects(about)
  ) +
    in_small_panels(length(drawn)) +
    ggplot2::labs(
      title = sprintf(
        "%s: effects of the calendar",
        sentence_case(subject_in_words(about, object))
      ),
      subtitle = sprintf(
        paste(
          "One more such day in place of an average one, with its %g%%",
          "interval; orange where found%s."
        ), 100 * about$confidence,
        if (any(data$effect %in% weekday_names)) ", weekdays together" else ""
      ),
      x = NULL, y = NULL, caption = season_caption(
        about, if (length(lines) > most_effects_drawn) sprintf(
          "The %d surest of %s series.", most_effects_drawn,
          thousands(length(lines))
        )
      )
    )
}

most_effects_drawn <- 9
