#' Draw a grid
#'
#' Every row as a faint line over the columns, with their average on top; or a
#' map of tiles.
#'
#' @param object A grid, from [cycle_grid()].
#' @param type `"lines"`, such as every day over its hours, or years over their
#'   months; or `"tiles"`. By default lines where the columns are in an order of
#'   time and there are more than 12 rows.
#' @param highlight Names of the series to draw, where there are more than
#'   eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' autoplot(cycle_grid(crossings, rows = "weekday", columns = "hour"))
#' autoplot(cycle_grid(crossings, rows = "date", columns = "hour"))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_grid <- function(object, type = NULL, highlight = NULL, ...) {
  refuse_further(...)
  season <- facts(object)
  line <- lines_of_result(object)
  data <- data.frame(
    line = factor(line, unique(line)), row = object$row,
    column = as.integer(object$column), value = object$value
  )[rows_in_panels(line, highlight), ]
  data$line <- droplevels(data$line)
  type <- type %||% if (season$rows %in% c("date", "year")) "lines" else "tiles"
  check_one_of(type, c("lines", "tiles"), "type")
  panels <- nlevels(data$line)
  plot <- if (type == "lines") {
    grid_of_lines(data, season)
  } else {
    grid_of_tiles(data, season)
  }
  plot + in_panels(panels, if (type == "lines") "free_y" else "fixed") +
    position_axis(levels(object$column), panels) +
    ggplot2::labs(
      x = NULL, y = NULL, title = sprintf(
        "%s of %s by %s and %s", sentence_case(statistic_in_words(season$stat)),
        in_words(measures_in_words(unique(object$measure), season)),
        season$rows, season$columns
      )
    )
}

grid_of_lines <- function(data, season) {
  rows <- nlevels(data$row)
  average <- stats::aggregate(value ~ line + column, data, mean)
  few <- rows <= most_labelled
  # Where a cell has no figures, a line breaks off.
  whole <- expand.grid(
    column = sort(unique(data$column)), row = levels(data$row),
    line = levels(data$line)
  )
  whole <- merge(whole, data, all.x = TRUE)
  ggplot2::ggplot(whole, ggplot2::aes(.data$column, .data$value)) +
    theme_backfill() +
    ggplot2::geom_line(
      ggplot2::aes(group = .data$row), na.rm = TRUE, colour = "#7A7A7A",
      linewidth = if (few) 0.5 else 0.25, alpha = max(0.06, min(0.8, 20 / rows))
    ) +
    ggplot2::geom_line(
      data = average, colour = house_colours[[1]], linewidth = 1.3
    ) +
    (if (few) row_labels(data)) +
    amount_axis(all(data$value >= 0, na.rm = TRUE)) +
    ggplot2::coord_cartesian(clip = "off") +
    ggplot2::theme(
      plot.margin = ggplot2::margin(8, if (few) 40 else 24, 8, 8),
      panel.spacing = ggplot2::unit(if (few) 40 else 16, "pt")
    ) +
    ggplot2::labs(
      subtitle = sprintf(
        "Grey: each of %s. Teal: their average.", count_of(rows, season$rows)
      ),
      caption = season_caption(season)
    )
}

# The rows of a grid, named at the right end of their lines.
row_labels <- function(data) {
  ends <- data[rev(!duplicated(rev(paste(data$line, data$row)))), ]
  ends$column <- max(data$column)
  names_at_ends(
    ends[order(ends$row), ], "value", "row", 0.1, data$value, size = 3.2,
    colour = "#5F5F5F"
  )
}

grid_of_tiles <- function(data, season) {
  rows <- nlevels(data$row)
  high <- diff(range(data$value)) == 0 | data$value > min(data$value) + 0.55 *
    diff(range(data$value))
  written <- rows * length(unique(data$column)) <= 100 &&
    nlevels(data$line) == 1
  digits <- decimals_for(signif(data$value, 3))
  data$label <- plain_formatC(
    data$value, digits = min(1, digits), format = "f", big.mark = ","
  )
  data$at <- rows + 1 - as.integer(data$row)
  step <- max(1, ceiling(rows / 40))
  shown <- seq(1, rows, step)
  ggplot2::ggplot(data, ggplot2::aes(.data$column, .data$at)) +
    theme_backfill() +
    ggplot2::geom_tile(
      ggplot2::aes(fill = .data$value), colour = if (rows <= 60) "white",
      linewidth = 0.4
    ) +
    (
      if (written) ggplot2::geom_text(
        ggplot2::aes(label = .data$label), size = 3.1,
        colour = ifelse(high, "white", "#333333")
      )
    ) +
    ggplot2::scale_fill_gradient(
      low = "#F4F1EC", high = house_colours[[1]], labels = scales::label_comma()
    ) +
    ggplot2::scale_y_continuous(
      breaks = rows + 1 - shown, labels = levels(data$row)[shown],
      expand = ggplot2::expansion(add = 0.1)
    ) +
    ggplot2::theme(
      panel.grid.major.y = ggplot2::element_blank(),
      axis.line.x = ggplot2::element_blank(), legend.position = "right"
    ) +
    ggplot2::labs(fill = NULL, caption = season_caption(season),
                  subtitle = paste(
                    "The darker, the higher. Where there is no tile, there",
                    "are no figures."
                  ))
}
