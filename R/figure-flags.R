#' Draw flags
#'
#' Each series with its baseline and limits, and the flagged periods as labelled
#' points, a panel per series.
#'
#' @param object Flags, from [flag_periods()].
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), when = "month", series = "inn",
#'   measures = c(guest_nights = "flow")
#' )
#' autoplot(flag_periods(
#'   roll_up(nights, every = "month"), "a cycle before", c(percent = 12)
#' ))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_flags <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  check_any(object[!is.na(object$value), ], "figures")
  about <- facts(object)
  flow <- all_flows(about$measures)
  data <- flags_drawn(object, highlight, flow)
  flagged <- data[data$flag %in% TRUE, ]
  panels <- nlevels(data$line)
  labelled <- flagged[
    with_room(flagged, data$period, if (panels > 2) 0.22 else 0.12),
  ]
  ggplot2::ggplot(
    data,
    ggplot2::aes(.data$period, group = .data$line, text = .data$told)
  ) +
    theme_backfill() +
    baseline_layers(data, panels) +
    flagged_layers(data, labelled) +
    period_axis(about$calendar) +
    amount_axis(flow, room = c(0.06, 0.1)) +
    in_panels(panels, "free_y") +
    ggplot2::labs(
      x = NULL, y = NULL,
      title = sprintf(
        "%s, and what departs from its past",
        sentence_case(subject_in_words(about, object))
      ),
      subtitle = paste0(
        "Dashed: the baseline, from prior periods alone. Shaded: within the ",
        "limits. Orange: flagged",
        if (nrow(labelled) < nrow(flagged)) " (the largest are named)", "."
      ),
      caption = season_caption(
        about, sprintf("Baseline: %s.", baseline_in_words(about))
      )
    )
}

# Of each row, how far off it is where it is flagged; where none is, whether it
# is judged.
weight_of_flags <- function(object) {
  size <- ifelse(is.na(object$score), object$percent, object$score)
  flagged <- object$flag %in% TRUE
  if (any(flagged)) {
    ifelse(flagged, pmax(abs(size), 1, na.rm = TRUE), 0)
  } else {
    as.numeric(!is.na(object$flag))
  }
}

# The periods drawn, with the label of each.
flags_drawn <- function(object, highlight, flow) {
  line <- lines_of_result(object)
  data <- data.frame(
    line = factor(line, unique(line)), period = object$period,
    value = object$value, baseline = object$baseline, lower = object$lower,
    upper = object$upper, flag = object$flag, percent = object$percent,
    judgement = object$judgement
  )[rows_in_panels(line, highlight, weight_of_flags(object)), ]
  data <- droplevels(data)
  percent <- sprintf(" %+.0f%%", data$percent)
  data$label <- paste0(
    period_label(data$period, facts(object)$calendar),
    ifelse(is.na(data$percent), "", percent)
  )
  data$row <- seq_len(nrow(data))
  data$told <- told_of_points(
    data$line, period_label(data$period, facts(object)$calendar),
    lapply(data[c("value", "baseline", "lower", "upper")], format_figures),
    data$judgement
  )
  # Limits that reach far beyond would flatten all else.
  known <- range(data$value, data$baseline, if (flow) 0, na.rm = TRUE)
  data$lower <- pmax(data$lower, known[[1]] - 0.3 * diff(known))
  data$upper <- pmin(data$upper, known[[2]] + 0.3 * diff(known))
  # Where there is no limit, the band breaks off.
  data$stretch <- cumsum(is.na(data$upper) | !duplicated(data$line))
  data
}

# The band of the limits, the baseline and the line of values.
baseline_layers <- function(data, panels) {
  list(
    ggplot2::geom_ribbon(data = data[!is.na(data$upper), ], ggplot2::aes(
      ymin = .data$lower, ymax = .data$upper, group = .data$stretch
    ), fill = "#9C9C9C", alpha = 0.22),
    ggplot2::geom_line(
      ggplot2::aes(y = .data$baseline), colour = "#5F5F5F", linewidth = 0.5,
      linetype = "dashed", na.rm = TRUE
    ),
    ggplot2::geom_line(
      ggplot2::aes(y = .data$value), colour = house_colours[[1]], na.rm = TRUE,
      linewidth = if (nrow(data) / panels > 400) 0.35 else 0.8
    )
  )
}

flagged_layers <- function(data, labelled) {
  flagged <- data[data$flag %in% TRUE, ]
  named <- flagged
  named$label[!named$row %in% labelled$row] <- ""
  list(
    ggplot2::geom_point(
      data = flagged, ggplot2::aes(y = .data$value),
      colour = house_colours[[2]], size = 2.2
    ),
    labels_apart(
      vctrs::vec_rbind(
        named, along_lines(data, "period", "value", "line", n = 150)
      ),
      ggplot2::aes(y = .data$value, label = .data$label),
      colour = "#7E3408", size = 3, box.padding = 0.45
    )
  )
}

# The rows of flagged periods that are labelled: the largest, and others where
# none is within `gap` of the axis.
with_room <- function(flagged, period, gap) {
  at <- as.numeric(flagged$period)
  room <- gap * as.numeric(diff(range(as.numeric(period))))
  kept <- integer()
  for (row in order(-abs(flagged$value - flagged$baseline))) {
    near <- kept[flagged$line[kept] == flagged$line[row]]
    if (all(abs(at[near] - at[row]) >= room)) kept <- c(kept, row)
  }
  kept
}
