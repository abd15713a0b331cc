# Lists as figures: gaps, rankings, cycles that suggest themselves, and tables
# with periods or series side by side.

#' Draw a list
#'
#' Gaps as bars over the time that they last, rankings and suggested cycles as
#' bars from the first rank down, and a wide table as the lines that stand in
#' it.
#'
#' @param object Gaps, from [gaps()]; a ranking, from [rank_changes()] or
#'   [rank_series()]; cycles, from [suggest_cycle()]; or a wide table, from
#'   [widen()].
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @section Errors: `backfill_error_input` where there is nothing to draw.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' autoplot(gaps(monthly))
#' autoplot(rank_changes(monthly, n = 3, order = "falls"))
#' autoplot(widen(monthly, side = "series"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_gaps <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  check_any(object, "gaps")
  data <- plain_tibble(object)
  line <- lines_of_result(object)
  data$line <- factor(line, rev(unique(line)))
  calendar <- lay_calendar_over(about$calendar, data$to)
  data$end <- period_start(period_number(data$to, calendar) + 1, calendar)
  data$place <- c(
    before = "Before the first value", within = "Within",
    after = "After the last value"
  )[data$place]
  ggplot2::ggplot(data, ggplot2::aes(
    x = .data$from, xend = .data$end, y = .data$line, yend = .data$line,
    colour = .data$place
  )) +
    theme_backfill() +
    ggplot2::theme(legend.position = "top") +
    ggplot2::geom_segment(linewidth = 4) +
    ggplot2::scale_y_discrete(labels = short_in_middle) +
    ggplot2::scale_colour_manual(values = c(
      "Before the first value" = "#9A9A9A", "After the last value" = "#9A9A9A",
      Within = house_colours[[2]]
    )) +
    ggplot2::expand_limits(x = about$ends) +
    period_axis(about$calendar) +
    ggplot2::labs(
      title = sprintf(
        "%s without a value", sub("^(.)", "\\U\\1", period_noun(
          about$calendar, 2
        ), perl = TRUE)
      ),
      x = NULL, y = NULL, colour = NULL, caption = season_caption(about)
    )
}

#' @rdname autoplot.backfill_gaps
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_ranking <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  check_any(object, "ranks")
  data <- plain_tibble(object)
  changes <- about$ranked == "changes"
  percent <- changes && about$as == "percent"
  data$figure <- data[[
    if (percent) "percent" else if (changes) "change" else "value"
  ]]
  at <- period_label(data[[if (changes) "to" else "period"]], about$calendar)
  place <- paste(lines_of_result(object), at, sep = ", ")
  data$place <- factor(place, rev(unique(place)))
  data$panel <- paste(
    if (length(unique(data$measure)) > 1) data$measure else "",
    data[["within"]] %||% ""
  )
  panels <- length(unique(data$panel))
  data <- data[data$rank <= max(1, bars_drawn %/% panels), ]
  several <- length(unique(data$measure)) > 1
  bars_of_list(data, if (percent) "%" else about$unit) +
    (if (panels > 1) {
      # Each measure has a unit of its own.
      ggplot2::facet_wrap(
        "panel", scales = if (several) "free" else "free_y", ncol = 1
      )
    }) +
    ggplot2::labs(
      title = sprintf("%s %s", ranked_words[[
        if (changes) about$order else "series"
      ]], in_words(unique(data$measure))),
      x = NULL, y = NULL, caption = season_caption(
        about, if (nrow(data) < nrow(object)) sprintf(
          "The first %d of %d.", nrow(data), nrow(object)
        )
      )
    )
}

# As many as can be read.
bars_drawn <- 24

ranked_words <- c(
  largest = "Largest movements of", smallest = "Smallest movements of",
  rises = "Rises of", falls = "Falls of", flattest = "Flattest stretches of",
  series = "First in"
)

#' @rdname autoplot.backfill_gaps
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_cycles <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  data <- plain_tibble(object)
  check_any(data, "cycles")
  data$figure <- data$explained
  place <- paste0(
    lines_of_result(object), ", ", data$cycle, " ",
    period_noun(about$calendar, 2)
  )
  data$place <- factor(place, rev(place))
  bars_of_list(data, "share") + ggplot2::labs(
    title = "Cycles that suggest themselves",
    subtitle = "How much of the changes their positions explain.",
    x = NULL, y = NULL, caption = season_caption(about)
  )
}

#' @rdname autoplot.backfill_gaps
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_wide <- function(object, ...) {
  refuse_further(...)
  about <- facts(object)
  data <- lines_of_wide(object, about)
  check_any(data[!is.na(data$figure), ], "figures")
  many <- nlevels(data$line) > most_labelled
  ends <- data[!is.na(data$figure), ]
  ends <- ends[!duplicated(ends$line, fromLast = TRUE), ]
  ggplot2::ggplot(
    data, ggplot2::aes(.data$period, .data$figure, group = .data$line)
  ) +
    theme_backfill() +
    ggplot2::geom_line(
      ggplot2::aes(colour = .data$line), na.rm = TRUE, linewidth = 0.8,
      alpha = if (many) 0.4 else 1
    ) +
    ggplot2::scale_colour_manual(values = rep_len(
      if (many) "#7A7A7A" else house_colours, nlevels(data$line)
    )) +
    period_axis(about$calendar) +
    ggplot2::scale_y_continuous(labels = scales::label_comma()) +
    (if (!many) {
      labels_apart(ends, ggplot2::aes(
        label = short_in_middle(as.character(.data$line))
      ), size = 3.4)
    }) +
    ggplot2::labs(
      title = if (about$of == "value") {
        in_words(measures_in_words(names(about$measures), about))
      } else {
        gsub("_", " ", about$of)
      }, x = NULL, y = NULL, caption = season_caption(about)
    )
}

# Its cells as rows.
lines_of_wide <- function(object, about) {
  data <- plain_tibble(object)
  across <- about$side == "series"
  beside <- if (across) "period" else c(about$keys, "measure")
  figures <- data[setdiff(seq_along(data), match(beside, names(data)))]
  line <- if (across) names(figures) else names_of_lines(data[beside])
  data.frame(
    line = factor(
      if (across) rep(line, each = nrow(data)) else
        rep(line, length(figures)), unique(line)
    ),
    period = if (across) rep(data$period, length(figures)) else
      rep(about$starts, each = nrow(data)),
    figure = unlist(as.list(figures), use.names = FALSE)
  )
}

check_any <- function(data, what) {
  if (nrow(data) == 0) {
    abort_backfill("input", "There is nothing to draw: there are no {what}.")
  }
}

# A bar for each row, from zero, with its figure beside it.
bars_of_list <- function(data, unit) {
  data$told <- trimws(format_cells(data$figure, unit, data$measure))
  data$below <- data$figure < 0
  # Beside the end of its bar, also where a figure is made to be pointed at.
  data$at <- data$figure + ifelse(data$below, -1, 1) * 0.05 * stats::ave(
    data$figure, data[["panel"]] %||% rep("", nrow(data)),
    FUN = function(figures) diff(range(0, figures))
  )
  ggplot2::ggplot(data, ggplot2::aes(.data$figure, .data$place)) +
    theme_backfill() +
    ggplot2::theme(panel.grid.major.y = ggplot2::element_blank()) +
    ggplot2::geom_col(ggplot2::aes(fill = .data$below), width = 0.7) +
    teal_and_orange("FALSE", "TRUE", "fill") +
    ggplot2::geom_text(
      ggplot2::aes(.data$at, label = .data$told), size = 3.4
    ) +
    ggplot2::scale_y_discrete(labels = short_in_middle) +
    ggplot2::scale_x_continuous(
      labels = figure_labels(unit),
      expand = ggplot2::expansion(mult = 0.1)
    )
}
