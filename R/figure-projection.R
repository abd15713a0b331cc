#' Draw a projection
#'
#' Each series with its projection, dashed, and the interval around it, a panel
#' per series.
#'
#' @inheritParams autoplot.backfill_periods
#' @param object A projection, from [project()].
#' @param of,... Another column than `value`, and events or an axis of one's
#'   own, are drawn as of any periods table, which leaves the projection out and
#'   says so.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' autoplot(project(roll_up(nights, every = "month"), "1 year"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_projection <- function(
  object, of = NULL, highlight = NULL, ...
) {
  role <- facts(object)
  made <- role$projected
  of <- of %||% made$of
  # A shell gives all of them, also those that ask for nothing.
  asked <- Filter(function(one) !is.null(one) && !isFALSE(one), list(...))
  if (of != made$of || length(asked) > 0) {
    return(autoplot.backfill_periods(
      object, of = of, highlight = highlight, ...
    ))
  }
  measures <- role$measures[unique(object$measure)]
  flow <- all_flows(measures)
  data <- projection_drawn(object, highlight)
  ggplot2::ggplot(
    data, ggplot2::aes(
      .data$period, .data$value, group = .data$line, text = .data$told
    )
  ) +
    theme_backfill() +
    projection_layers(data) +
    period_axis(role$calendar) +
    amount_axis(flow) +
    in_panels(nlevels(data$line), "free_y") +
    ggplot2::labs(
      x = NULL, y = NULL,
      title = sprintf(
        "%s, projected over %s",
        sentence_case(in_words(measures_in_words(names(measures), role))),
        count_of_periods(made$steps, role$calendar)
      ),
      subtitle = sprintf(
        "Dashed: %s, in season. Shaded: meant to hold %g%%.",
        carried_in_words(made), 100 * made$confidence
      ),
      caption = paste0(
        if (!flow) "The value axis need not start at zero. ",
        source_in_words(role)
      )
    )
}

projection_drawn <- function(object, highlight) {
  line <- line_names(object)
  of <- facts(object)$projected$of
  figures <- plain_tibble(object)[
    c("period", of, "standing", "lower", "upper")
  ]
  names(figures)[[2]] <- "value"
  rows <- rows_in_panels(line, highlight)
  data <- data.frame(line = factor(line, unique(line)), figures)[rows, ]
  data$told <- told_of_points(
    data$line, period_label(data$period, facts(object)$calendar),
    lapply(data[c("value", "lower", "upper")], format_figures), data$standing
  )
  droplevels(data[order(data$line, data$period), ])
}

# The past as a line, its partial periods hollow, and what is projected dashed
# in its limits, from the last whole value on.
projection_layers <- function(data) {
  ahead <- data$standing == "projected"
  past <- data
  past$value[data$standing %in% c("partial", "projected")] <- NA
  joint <- past[!is.na(past$value), ]
  joint <- joint[!duplicated(joint$line, fromLast = TRUE), ]
  dashed <- rbind(joint, data[ahead, ])
  dashed <- dashed[order(dashed$line, dashed$period), ]
  list(
    ggplot2::geom_ribbon(
      data = data[ahead & !is.na(data$lower), ],
      ggplot2::aes(ymin = .data$lower, ymax = .data$upper),
      fill = house_colours[[1]], alpha = 0.18
    ),
    ggplot2::geom_line(
      data = past, colour = house_colours[[1]], linewidth = 0.8, na.rm = TRUE
    ),
    ggplot2::geom_line(
      data = dashed, colour = house_colours[[1]], linewidth = 0.8,
      linetype = "dashed"
    ),
    ggplot2::geom_point(
      data = data[data$standing %in% "partial" & !is.na(data$value), ],
      shape = 21, fill = "white", size = 2, colour = house_colours[[1]]
    )
  )
}

carried_in_words <- function(made) {
  if (made$base == "auto") {
    return("what missed least so far, carried on")
  }
  sprintf(
    "the %s without its season carried on",
    sub("through it$", "through each series", bases[[made$base]])
  )
}
