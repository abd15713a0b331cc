#' Draw turning points
#'
#' The column with its lows and highs marked, and the spells between them
#' shaded; a running anomaly in a panel below the anomaly itself. Those of a
#' profile over the positions of the average cycle.
#'
#' @param object Turning points, from [turning_points()].
#' @param highlight Names of the series to draw, where there are more than four.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' crossings <- read_records(
#'   demo_file("crossings.csv"), when = "time",
#'   measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' daily <- add_anomaly(
#'   roll_up(crossings, every = "day"), "weekday", running = TRUE
#' )
#' autoplot(
#'   turning_points(daily, span = "60 days", of = "running_anomaly"),
#'   highlight = "market"
#' )
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_turns <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  about <- facts(object)
  if (is.null(about$points)) {
    abort_backfill(
      "input",
      "Turning points of a profile have no axis of time; draw the profile",
      "itself."
    )
  }
  data <- points_of_turns(about, highlight)
  marks <- marks_of_turns(object, data)
  ggplot2::ggplot(data, ggplot2::aes(.data$period, .data$figure)) +
    theme_backfill() +
    shaded_spells(object, data) +
    ggplot2::geom_hline(yintercept = 0, colour = "#9A9A9A", linewidth = 0.3) +
    ggplot2::geom_linerange(
      data = data[data$bar, ],
      ggplot2::aes(ymin = 0, ymax = .data$figure, colour = .data$figure > 0),
      linewidth = 0.3, na.rm = TRUE
    ) +
    teal_and_orange("TRUE", "FALSE") +
    ggplot2::geom_line(
      data = data[!data$bar, ], colour = house_colours[[1]], linewidth = 0.8,
      na.rm = TRUE
    ) +
    turn_layers(marks) +
    period_axis(about$calendar) +
    ggplot2::scale_y_continuous(
      labels = scales::label_comma(), breaks = breaks_within(data$figure),
      expand = ggplot2::expansion(if (nlevels(data$panel) > 2) 0.42 else 0.28)
    ) +
    ggplot2::facet_wrap(
      "panel", ncol = if (nlevels(data$panel) > 4) 2 else 1, scales = "free_y",
      labeller = short_names()
    ) +
    ggplot2::labs(
      x = NULL, y = NULL, title = sprintf(
        "Turning points of %s", subject_in_words(about, about$points)
      ),
      subtitle = sprintf(
        paste0(
          "Shaded: from each low to the next high. Lowest and highest ",
          "within %s on either side%s."
        ), about$span,
        if (any(!nzchar(marks$label))) "; the largest swings are named" else ""
      ),
      caption = season_caption(about)
    )
}

# The figures of each series, and what they run over above them, as bars, in
# panels below each other.
points_of_turns <- function(about, highlight) {
  line <- names_of_lines(
    about$points[c(about$series, "measure")], about$several
  )
  rows <- rows_in_panels(line, highlight)
  data <- data.frame(about$points[rows, ], line = line[rows], bar = FALSE)
  shown <- unique(data$line)
  data$panel <- turn_panel(data$line, about$of, shown)
  if ("below" %in% names(data)) {
    above <- data
    above$figure <- above$below
    above$bar <- TRUE
    above$panel <- turn_panel(
      data$line, sub("^running_", "", about$of), shown
    )
    data <- rbind(above, data)
  }
  order <- order(match(data$line, shown), seq_len(nrow(data)))
  data$panel <- factor(data$panel, unique(data$panel[order]))
  data
}

turn_panel <- function(line, what, shown) {
  if (what == "value") {
    return(line)
  }
  paste0(if (length(shown) > 1) paste0(line, ": "), gsub("_", " ", what))
}

marks_of_turns <- function(object, data) {
  about <- facts(object)
  marks <- data.frame(
    period = object$period, figure = object$value, turn = object$turn,
    line = lines_of_result(object)
  )
  marks <- marks[marks$line %in% data$line, ]
  if (nrow(marks) == 0) {
    return(NULL)
  }
  panel <- turn_panel(marks$line, about$of, unique(data$line))
  marks$panel <- factor(panel, levels(data$panel))
  named <- marks$panel %in% NA
  for (own in split(seq_len(nrow(marks)), marks$panel)) {
    named[own] <- rank(-swings(marks$figure[own]), ties.method = "first") <=
      max(4, 24 %/% nlevels(data$panel))
  }
  marks$label <- ifelse(named, period_label(marks$period, about$calendar), "")
  span <- tapply(data$figure, data$panel, function(figure) {
    diff(range(figure, 0, na.rm = TRUE))
  })
  marks$room <- 0.06 * span[as.character(marks$panel)]
  marks
}

# How far each of the turns in their order lies from those beside it.
swings <- function(figure) {
  steps <- abs(diff(figure))
  pmax(c(0, steps), c(steps, 0))
}

# Of hundreds of points those without a name are not in its way.
turn_layers <- function(marks) {
  if (is.null(marks)) {
    return(NULL)
  }
  labelled <- if (nrow(marks) > 200) marks[nzchar(marks$label), ] else marks
  list(
    ggplot2::geom_point(
      data = marks, ggplot2::aes(fill = .data$turn), shape = 21,
      size = if (nrow(marks) > 200) 1.4 else 2.8, colour = "white"
    ),
    teal_and_orange("high", "low", "fill"),
    labels_apart(
      labelled, ggplot2::aes(label = .data$label), size = 3.1,
      colour = "#333333", direction = "y", point.padding = 0.3,
      nudge_y = ifelse(labelled$turn == "high", 1, -1) * labelled$room
    )
  )
}

# From each low to the next high.
shaded_spells <- function(object, data) {
  found <- summary(object)
  spells <- data.frame(
    start = found$start, end = found$end, line = lines_of_result(found)
  )
  spells <- merge(spells, unique(data[c("panel", "line")]))
  if (nrow(spells) > 0) ggplot2::geom_rect(
    data = spells,
    ggplot2::aes(
      xmin = .data$start, xmax = .data$end, ymin = -Inf, ymax = Inf
    ),
    inherit.aes = FALSE, fill = house_colours[[2]], alpha = 0.1
  )
}
