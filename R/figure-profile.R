#' Draw a profile
#'
#' A line over the positions of the cycle for each series, or for each group of
#' the groups in a panel per series, with the band that holds most of the
#' figures.
#'
#' @param object A profile, from [cycle_profile()].
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' autoplot(cycle_profile(crossings, "hour", apart = "weekday"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_profile <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  season <- facts(object)
  data <- profile_data(object, highlight)
  panels <- if (is.null(season$apart)) 1 else nlevels(data$line)
  banded <- season$stat != "sum" && nlevels(data$group) <= 3
  from_zero <- all(data$value >= 0) && min(data$value) < 0.5 * max(data$value)
  ggplot2::ggplot(
    data,
    ggplot2::aes(
      .data$position, .data$value, group = .data$group, colour = .data$group
    )
  ) +
    theme_backfill() +
    profile_layers(data, banded, nlevels(object$position)) +
    ggplot2::scale_colour_manual(values = house_colours) +
    ggplot2::scale_fill_manual(values = house_colours) +
    position_axis(levels(object$position), panels) +
    amount_axis(from_zero) +
    ggplot2::coord_cartesian(clip = "off") +
    (if (!is.null(season$apart)) in_panels(panels)) +
    room_for_names(levels(data$group)) +
    profile_words(object, data, banded, from_zero)
}

# The rows to be drawn: line, group (what is told apart by colour), position,
# value and band.
profile_data <- function(object, highlight) {
  apart <- facts(object)$apart
  line <- lines_of_result(object)
  data <- data.frame(
    line = factor(line, unique(line)),
    group = if (is.null(apart)) factor(line, unique(line)) else object[[apart]],
    position = as.integer(object$position), value = object$value,
    lower = object$lower, upper = object$upper
  )[rows_in_panels(line, highlight), ]
  data <- droplevels(data[!is.na(data$value), ])
  check_any(data, "figures")
  if (nlevels(data$group) > most_labelled) {
    abort_backfill(
      "argument",
      "There are {nlevels(data$group)} groups, too many to tell apart in a",
      "figure."
    )
  }
  data
}

profile_layers <- function(data, banded, count) {
  ends <- data[rev(!duplicated(rev(paste(data$line, data$group)))), ]
  list(
    if (banded) ggplot2::geom_ribbon(
      ggplot2::aes(ymin = .data$lower, ymax = .data$upper, fill = .data$group),
      alpha = 0.13, colour = NA
    ),
    ggplot2::geom_line(linewidth = 1),
    if (count <= 31) ggplot2::geom_point(size = 1.6),
    if (nlevels(data$group) > 1) names_at_ends(
      ends[order(ends$group), ], "value", "group", count * 0.012,
      data$value, size = 3.5
    )
  )
}

room_for_names <- function(names) {
  room <- 8 + 6.5 * max(nchar(short_in_middle(names)))
  ggplot2::theme(
    plot.margin = ggplot2::margin(8, room, 8, 8),
    panel.spacing.y = ggplot2::unit(14, "pt"),
    panel.spacing.x = ggplot2::unit(room, "pt")
  )
}

profile_words <- function(object, data, banded, from_zero) {
  season <- facts(object)
  ggplot2::labs(
    x = NULL, y = NULL,
    title = sprintf(
      "%s of %s by %s", sentence_case(statistic_in_words(season$stat)),
      in_words(measures_in_words(unique(object$measure), season)), season$at
    ),
    subtitle = if (banded) sprintf(
      "Shaded: %g%% of all figures lie there.", 100 * season$holds
    ),
    caption = season_caption(
      season,
      if (!from_zero && min(data$value) > 0) not_from_zero
    )
  )
}
