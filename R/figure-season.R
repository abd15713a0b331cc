#' Draw a seasonal index
#'
#' @param object A seasonal index, from [seasonal_index()].
#' @param type `"index"`: bars from the average, at each position. `"ratios"`:
#'   every ratio as a dot behind its index, the latest cycle's in orange, those
#'   that are outliers named. `"adjusted"`: the values and what they are without
#'   the season, over time. `"positions"`: the values of each position side by
#'   side, from cycle to cycle, with their mean, such as all Januaries, all
#'   Februaries.
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @section Errors: `backfill_error_argument`; `backfill_error_input` for types
#'   other than `"index"` of an index that was read from a file.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' index <- seasonal_index(roll_up(nights, every = "month"))
#' autoplot(index)
#' autoplot(index, type = "ratios")
#' autoplot(index, type = "adjusted")
#' autoplot(index, type = "positions")
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_seasonal_index <- function(
  object, type = "index", highlight = NULL, ...
) {
  refuse_further(...)
  check_one_of(type, c("index", "ratios", "adjusted", "positions"), "type")
  season <- facts(object)
  line <- lines_of_result(object)
  data <- data.frame(
    line = factor(line, unique(line)), position = as.integer(object$position),
    index = object$index, odd = object$disagree
  )[rows_in_panels(line, highlight), ]
  if (type %in% c("index", "ratios")) {
    # A series without an index has none to draw, as the index has said.
    data <- data[!is.na(data$index), ]
  }
  data$line <- droplevels(data$line)
  steps <- if (type != "index") season_steps(object, levels(data$line))
  plot <- switch(
    type, index = figure_index(data, season),
    ratios = figure_ratios(
      data, steps, season
    ),
    adjusted = figure_adjusted(steps, season),
    positions = figure_position_years(steps, season, levels(object$position))
  )
  panels <- nlevels(data$line)
  if (type != "adjusted") {
    plot <- plot + position_axis(levels(object$position), panels)
  }
  # Indices compare from panel to panel; differences only in one unit.
  alike <- type %in% c("index", "ratios") &&
    (season$form == "multiplicative" || length(unique(object$measure)) == 1)
  plot + theme_backfill() +
    in_panels(panels, if (alike) "fixed" else "free_y") +
    (if (panels > 1) ggplot2::theme(panel.spacing = ggplot2::unit(
      14, "pt"
    ))) + ggplot2::labs(x = NULL)
}

# The worksheet's rows of the lines to draw, with the position of each and a
# number for its cycle.
season_steps <- function(index, lines) {
  sheet <- summary(index, type = "worksheet")
  season <- facts(index)
  line <- lines_of_result(sheet)
  rows <- which(line %in% lines)
  sheet <- plain_tibble(sheet)[rows, ]
  calendar <- lay_calendar_over(season$calendar, sheet$period)
  number <- period_number(sheet$period, calendar)
  cycle <- check_cycle(season$cycle$length, season$calendar)
  at <- as.integer(cycle$position(number, calendar))
  # What is left out as an outlier is drawn where it stands.
  average <- sheet[[average_of_sheet(sheet)]]
  sheet$part <- if (season$form == "multiplicative") {
    sheet$value / average
  } else {
    sheet$value - average
  }
  label <- cycle_label(number, calendar, season$cycle)
  # A cycle's number by the first period of each.
  round <- (number - at) %/% season$cycle$length
  data.frame(
    line = factor(line[rows], lines), position = at, round = round - min(round),
    label = label, sheet[c(
      "period", "value", "part", "index", "adjusted", "standing"
    )]
  )
}

season_title <- function(season, what) {
  measured <- if (season$of == "value") {
    in_words(measures_in_words(names(season$measures), season))
  } else {
    gsub("_", " ", season$of)
  }
  if (nzchar(what)) {
    sprintf("%s of %s", what, measured)
  } else {
    sentence_case(measured)
  }
}

index_axis <- function(season) {
  base <- neutral(season)
  list(
    ggplot2::geom_hline(yintercept = base, colour = "#333333", linewidth = 0.4),
    ggplot2::scale_y_continuous(labels = scales::label_comma(), n.breaks = 6)
  )
}

figure_index <- function(data, season) {
  base <- neutral(season)
  data$side <- ifelse(data$index < base, "below", "above")
  ggplot2::ggplot(data) +
    # From the average, which bars of ggplot2 cannot start from.
    ggplot2::geom_rect(
      ggplot2::aes(xmin = .data$position - 0.42, xmax = .data$position + 0.42,
                   ymin = base, ymax = .data$index, fill = .data$side)
    ) +
    teal_and_orange("above", "below", "fill") +
    index_axis(season) +
    ggplot2::labs(
      title = season_title(season, "Seasonal index"), y = NULL,
      subtitle = sprintf(
        "%s an average %s is %d. Above in teal, below in orange.%s",
        if (season$form == "multiplicative") {
          "Shares of the average:"
        } else {
          "Differences:"
        },
        period_noun(season$calendar), base,
        if (shows_latest(season)) " Each is the latest." else ""
      ),
      caption = season_caption(season, "Bars start at the average.")
    )
}

figure_ratios <- function(data, steps, season) {
  steps <- steps[!is.na(steps$part), ]
  last <- max(1, steps$round)
  steps$at <- steps$position + 0.6 * (steps$round / last - 0.5)
  steps$newest <- steps$round == max(steps$round)
  odd <- steps_apart(steps, data)
  named <- nrow(odd) > 0 && nrow(odd) <= 24
  # What is crowded, or moves from dot to dot, is drawn before them.
  before <- nrow(steps) > 1000 || !is.null(season$moving)
  index <- index_layer(data, steps, season)
  by_ratio <- season$form == "multiplicative"
  title <- season_title(season, if (by_ratio) "Ratios" else "Differences")
  ggplot2::ggplot(steps, ggplot2::aes(.data$position, .data$part)) +
    index_axis(season) +
    # Side by side in the order of the cycles.
    (if (!before) index) +
    ggplot2::geom_point(
      ggplot2::aes(x = .data$at, colour = .data$newest),
      size = if (nrow(steps) > 1000) 0.7 else 1.8, alpha = 0.8
    ) +
    (if (before) index) +
    ggplot2::scale_colour_manual(
      values = c("FALSE" = "#7A7A7A", "TRUE" = house_colours[[2]])
    ) +
    (if (named) {
      labels_apart(
        odd, ggplot2::aes(x = .data$at, label = .data$label), size = 3.1,
        colour = "#333333"
      )
    }) +
    ggplot2::labs(
      title = paste(title, if (by_ratio) "to" else "from", "the", gsub(
        "_", " ", reference_name(season$method, season$combine)
      )),
      y = NULL,
      subtitle = paste0(
        "Teal: the index. Dots: each cycle, from the first on the left to ",
        "the latest, in orange.", if (named) " Named: outliers",
        if (named && without_outliers(season$combine)) {
          ", not in the index"
        },
        if (named) "."
      ),
      caption = season_caption(season)
    )
}

# The steps that the index has found to stand apart from their position.
steps_apart <- function(steps, data) {
  apart <- data[nzchar(data$odd), c("line", "position", "odd")]
  apart <- merge(steps, apart)
  named <- strsplit(apart$odd, ", ", fixed = TRUE)
  apart[mapply(`%in%`, apart$label, named) %in% TRUE, ]
}

# A bar at each position, a line where there are very many, or one at each
# where the index moves.
index_layer <- function(data, steps, season) {
  if (!is.null(season$moving)) {
    return(ggplot2::geom_line(
      data = steps, ggplot2::aes(
        x = .data$at, y = .data$index, group = .data$position
      ), colour = house_colours[[1]], linewidth = 0.9
    ))
  }
  if (max(data$position) > 60) {
    return(ggplot2::geom_line(
      data = data, ggplot2::aes(y = .data$index), colour = house_colours[[1]],
      linewidth = 0.7
    ))
  }
  ggplot2::geom_segment(data = data, ggplot2::aes(
    x = .data$position - 0.4, xend = .data$position + 0.4, y = .data$index,
    yend = .data$index
  ), colour = house_colours[[1]], linewidth = 1.3)
}

figure_adjusted <- function(steps, season) {
  additive <- all_flows(season$measures)
  known <- steps[!is.na(steps$value), ]
  ggplot2::ggplot(steps, ggplot2::aes(.data$period)) +
    ggplot2::geom_line(
      ggplot2::aes(y = .data$value), colour = "#A8A8A8", linewidth = 0.5,
      na.rm = TRUE
    ) +
    ggplot2::geom_line(
      ggplot2::aes(y = .data$adjusted), colour = house_colours[[1]],
      linewidth = 1, na.rm = TRUE
    ) +
    period_axis(season$calendar) +
    amount_axis(additive) +
    ggplot2::labs(
      title = season_title(season, "Season taken out"), y = NULL,
      subtitle = sprintf(
        "Grey: %s by %s. Teal: without the season.",
        period_noun(season$calendar), period_noun(season$calendar)
      ),
      caption = season_caption(
        season, if (!additive && min(known$value) > 0) not_from_zero
      )
    )
}

figure_position_years <- function(steps, season, labels) {
  steps <- steps[!is.na(steps$value), ]
  last <- max(1, steps$round)
  steps$at <- steps$position + 0.8 * (steps$round / last - 0.5)
  means <- stats::aggregate(value ~ line + position, steps, mean)
  additive <- all_flows(season$measures)
  ggplot2::ggplot(steps, ggplot2::aes(.data$at, .data$value)) +
    ggplot2::geom_segment(data = means, ggplot2::aes(
      x = .data$position - 0.4, xend = .data$position + 0.4, y = .data$value,
      yend = .data$value
    ), colour = house_colours[[2]], linewidth = 0.9) +
    ggplot2::geom_line(
      ggplot2::aes(group = .data$position), colour = house_colours[[1]],
      linewidth = 0.6
    ) +
    (
      if (length(labels) <= 60) {
        ggplot2::geom_point(colour = house_colours[[1]], size = 1)
      }
    ) +
    amount_axis(additive) +
    ggplot2::labs(
      title = sprintf("%s, the cycles side by side", season_title(season, "")),
      y = NULL,
      subtitle = glue(
        "Teal: the values at each {season$cycle$noun}, from the first cycle to",
        "the latest. Orange: their mean."
      ),
      caption = season_caption(season)
    )
}
