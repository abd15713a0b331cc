#' Draw periods
#'
#' Every series as a line over time, with its moving average, if the table has
#' one, drawn strongly over it. Growth and returns are drawn as bars around
#' zero, a panel per series. Partial periods are hollow points that no line runs
#' through. Measures of one unit share a panel; others have panels that share
#' the time axis.
#'
#' Other types lay the years over each other, the latest drawn strongly over the
#' former ones, or show how the figures are distributed, with quantiles marked.
#'
#' Up to eight series are labelled directly; more are drawn faint, and growth as
#' lines, with the ones named in `highlight` brought out. Where none is named,
#' three of each panel are: the highest on average, the one that changed most
#' from its first quarter to its last, and the one that is once furthest, by its
#' own mean and spread, from the middle of all; the middle half of all is
#' shaded. Of more than 100 lines the others are a band alone.
#'
#' The axis of a flow starts at zero. That of a level does not where its values
#' lie close together, and the figure says so.
#'
#' @param object A periods table, from [roll_up()].
#' @param of Name of the column to draw. By default the one that was calculated
#'   last, or the values where there is none; a moving average of the values is
#'   drawn over them.
#' @param type `"lines"`, `"bars"`, `"years"` or `"distribution"`. By default
#'   bars for growth and returns of up to eight series, else lines.
#' @param panels `"measures"`, so that series are compared in one panel, or
#'   `"series"` for a panel each.
#' @param events A table with the columns `date` (dates, or text of ISO 8601)
#'   and `note`, of what happened: fine lines with their notes above, where
#'   there is a time axis.
#' @param highlight Names of series to bring out where there are more than
#'   eight.
#' @param zero Whether the value axis of lines and years reaches down to zero.
#'   By default that of flows does, and that of levels where zero is not far
#'   off.
#' @param log `TRUE` gives them a logarithmic axis, on which equal percentages
#'   are equal steps.
#' @param limits The ends that their axis is cut at. The caption says how many
#'   figures lie outside, which are not drawn.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @section Errors: `backfill_error_column` where `of` is not a column of
#'   figures; `backfill_error_input` where there is no figure to draw.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), when = "month", series = "inn",
#'   measures = list(
#'     guest_nights = measure("flow", "guest nights")
#'   )
#' )
#' monthly <- add_growth(
#'   add_moving(roll_up(nights, every = "month"), window = 12), over = "1 year"
#' )
#' autoplot(monthly)
#' autoplot(monthly, of = "value", log = TRUE)
#' autoplot(monthly, of = "growth_1_year", type = "distribution")
#' autoplot(add_running_total(monthly), of = "running_total", type = "years")
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_periods <- function(
  object, of = NULL, type = NULL, highlight = NULL, panels = "measures",
  events = NULL, zero = NULL, log = FALSE, limits = NULL, ...
) {
  refuse_further(...)
  check_one_of(panels, c("measures", "series"), "panels")
  of <- of %||% column_to_draw(object)
  check_drawable(object, of)
  object <- without_closed(object, of)
  data <- drawing_data(object, of, highlight)
  note <- facts(object)$added[[of]]
  if (panels == "series") {
    data$panel <- data$line
  }
  bars <- drawn_as_bars(note) && nlevels(data$line) <= most_labelled
  type <- type %||% if (bars) "bars" else "lines"
  check_one_of(type, c("lines", "bars", "years", "distribution"), "type")
  if (type == "years") data$panel <- data$line
  if (type == "bars") {
    shown <- rows_in_panels(as.character(data$line), highlight)
    data <- droplevels(data[shown, ])
  }
  many <- if (type == "lines" && is.null(highlight) && panels == "measures") {
    many_lines(data, of)
  }
  data$lifted <- data$lifted | data$line %in% many$lifted
  axis <- asked_axis(
    zero, log, limits, data, panels_from_zero(object, data),
    type %in% c("lines", "years")
  )
  drawn <- switch(
    type, bars = nlevels(data$line), lines = nlevels(data$panel), 0L
  )
  placed <- if (drawn > 0) place_events(events, object, drawn)
  room <- events_headroom(placed, drawn)
  if (isTRUE(many$band)) data <- data[data$lifted, ]
  data$told <- told_of_rows(data, object, of)
  plot <- switch(
    type,
    bars = figure_bars(data, object, of, room),
    lines = figure_lines(data, object, of, room, axis, many),
    years = figure_years(data, object, of, room, axis),
    distribution = figure_distribution(data, object, of)
  )
  caption <- c(
    figure_caption(object, data, note, type, axis),
    events_caption(placed, drawn)
  )
  plot +
    events_layer(placed) +
    ggplot2::labs(x = NULL, caption = paste(caption, collapse = "\n"))
}

# A line runs on from a market's Friday to its Monday: what is closed, and has
# no figure, breaks none.
without_closed <- function(x, of) {
  along <- along_counted(x, of)
  closed <- along$order[is.na(along$opened) & is.na(along$value)]
  if (is.null(along$opened) || length(closed) == 0) x else x[-closed, ]
}

# The column that was calculated last.
column_to_draw <- function(x) {
  added <- intersect(names(facts(x)$added), names(x))
  added <- Filter(function(name) is.numeric(x[[name]]), added)
  if (length(added) == 0) {
    return("value")
  }
  last <- added[[length(added)]]
  note <- facts(x)$added[[last]]
  if (note$verb == "moving" && note$of == "value") "value" else last
}

check_drawable <- function(object, of) {
  if (!rlang::is_string(of) || !is.numeric(object[[of]])) {
    abort_backfill(
      "column",
      "`of` is {value_in_words(of)}, which is not a column of figures in the",
      "table."
    )
  }
  if (all(is.na(object[[of]]))) {
    abort_backfill(
      "input", "There is nothing to draw: column \"{of}\" has no figures."
    )
  }
}

# Changes lie around zero.
drawn_as_bars <- function(note) isTRUE(note$change)

most_labelled <- 8

# One row per row of the table, with its number: line, panel, period, figure,
# standing, and whether the line is brought out.
drawing_data <- function(x, of, highlight) {
  role <- facts(x)
  line <- line_names(x)
  # Measures share a panel where they share kind and unit.
  measures <- role$measures[unique(x$measure)]
  unit <- unlist(Map(
    function(measure, name) measure$unit %||% name, measures, names(measures)
  ))
  kind <- vapply(measures, function(measure) measure$kind, "")
  mixed <- unit %in% unit[duplicated(unit) & !duplicated(paste(unit, kind))]
  panel_of <- ifelse(mixed, sprintf("%s (%s)", unit, kind), unit)
  names(panel_of) <- names(measures)
  lines <- unique(line)
  check_highlight(highlight, lines)
  # Series stand there too, to make panels of them.
  apart <- plain_tibble(x)[setdiff(role$series, drawn_columns)]
  data.frame(
    apart, line = factor(line, lines), panel = factor(
      panel_of[x$measure], unique(panel_of)
    ),
    period = x$period, figure = x[[of]], standing = x$standing,
    lifted = if (length(lines) > most_labelled) line %in% highlight else TRUE,
    row = seq_len(nrow(x)), check.names = FALSE
  )
}

drawn_columns <- c(
  "line", "panel", "period", "figure", "standing", "lifted", "told", "row"
)

figure_bars <- function(data, x, of, headroom) {
  width <- 0.85 * min(
    diff(sort(unique(as.numeric(data$period)))),
    if (by_clock(facts(x)$calendar)) Inf else 366
  )
  note <- facts(x)$added[[of]]
  data <- data[!is.na(data$figure), ]
  data$sign <- ifelse(data$figure < 0, "fall", "rise")
  # What was added is of whole periods alone.
  data$part <- is.null(note) & data$standing == "partial"
  plot <- ggplot2::ggplot(
    data,
    ggplot2::aes(
      .data$period, .data$figure, fill = .data$sign, text = .data$told
    )
  ) +
    theme_backfill() +
    ggplot2::geom_col(
      ggplot2::aes(alpha = .data$part), width = width, position = "identity"
    ) +
    ggplot2::scale_alpha_manual(values = c("FALSE" = 1, "TRUE" = 0.35)) +
    ggplot2::geom_hline(yintercept = 0, colour = "#333333", linewidth = 0.4) +
    teal_and_orange("rise", "fall", "fill") +
    period_axis(facts(x)$calendar) +
    ggplot2::scale_y_continuous(
      labels = figure_labels(note$unit), n.breaks = 5,
      expand = ggplot2::expansion(mult = c(0.05, headroom))
    )
  if (nlevels(data$line) > 1) {
    plot <- plot + reach_of_unit(data, note$unit) +
      ggplot2::facet_wrap(
        "line", ncol = if (nlevels(data$line) > 4) 2 else 1, scales = "free_y",
        labeller = short_names()
      )
  }
  plot + ggplot2::labs(
    title = figure_title(x, levels(data$panel), of),
    subtitle = bars_in_words(data, note, facts(x)$calendar), y = NULL
  )
}

bars_in_words <- function(data, note, calendar) {
  paste(c(
    if (isTRUE(note$change)) {
      "Rises in teal, falls in orange."
    } else if (any(data$figure < 0)) {
      "Above zero in teal, below it in orange."
    },
    if (any(data$part)) sprintf("Pale: partial %s.", period_noun(calendar, 2)),
    "Where there is no bar, none is given."
  ), collapse = " ")
}

# Bars of one unit are to be compared from panel to panel, of others not.
reach_of_unit <- function(data, unit) {
  alike <- if (is.null(unit)) data$panel else rep(unit, nrow(data))
  ends <- lapply(split(data, alike, drop = TRUE), function(one) {
    expand.grid(
      line = unique(one$line), figure = range(0, one$figure),
      period = one$period[[1]]
    )
  })
  ggplot2::geom_blank(
    data = do.call(rbind, ends),
    ggplot2::aes(.data$period, .data$figure), inherit.aes = FALSE
  )
}

figure_caption <- function(x, data, note, type, axis) {
  paste(c(
    axis$said, off_zero_in_words(data, note, type, axis),
    if (any(x$standing == "projected")) "The projection is not drawn.",
    source_in_words(facts(x))
  ), collapse = " ")
}

# Which axes do not start at zero. Bars start there, a percentage of growth has
# no floor to start from, and of an axis that is cut the ends are told.
off_zero_in_words <- function(data, note, type, axis) {
  growth <- isTRUE(note$unit %in% c("%", "return", "points"))
  told <- axis$log || !is.null(axis$limits)
  if (growth || told || !type %in% c("lines", "years")) {
    return(NULL)
  }
  panels <- setdiff(levels(data$panel), axis$from_zero)
  if (length(panels) == 0) {
    return(NULL)
  }
  if (nlevels(data$panel) == 1) {
    return(not_from_zero)
  }
  sprintf("The axis of %s does not start at zero.", in_words(panels))
}

# The moving average to draw over the values: the last one that was added and
# has a figure. A total or a spread is of another size than the values, and is
# drawn apart.
moving_columns <- function(x) {
  added <- facts(x)$added
  of_value <- vapply(added, function(note) {
    note$verb == "moving" && note$of == "value" &&
      !note$stat %in% c("sum", "sd")
  }, NA)
  columns <- intersect(names(added)[of_value], names(x))
  utils::tail(Filter(function(name) !all(is.na(x[[name]])), columns), 1)
}
