#' Draw latest figures
#'
#' A tile for each series: its latest value, the period, its changes, and the
#' small line that led there.
#'
#' Each small line has a scale of its own, from its lowest to its highest value.
#'
#' @param object Latest figures, from [latest()].
#' @param highlight Names of the series to draw, where there are more than
#'   twelve.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' autoplot(latest(roll_up(nights, every = "month")))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_latest <- function(object, highlight = NULL, ...) {
  refuse_further(...)
  about <- facts(object)
  line <- lines_of_result(object)
  check_highlight(highlight, line)
  drawn <- utils::head(
    which(is.null(highlight) | line %in% highlight), tiles_drawn
  )
  tiles <- tile_words(object[drawn, ], line[drawn], about)
  columns <- tile_columns(nrow(tiles))
  # The lower a tile, the more of it the texts need.
  height <- if (nrow(tiles) > 2 * columns) 0.5 else 0.8
  path <- paths_of(about, tiles, height)
  ggplot2::ggplot(path, ggplot2::aes(.data$x, .data$y)) +
    theme_backfill() +
    ggplot2::theme(
      axis.text = ggplot2::element_blank(),
      axis.line.x = ggplot2::element_blank(),
      axis.ticks.x = ggplot2::element_blank(),
      panel.grid.major.y = ggplot2::element_blank(),
      panel.background = ggplot2::element_rect(fill = "#F5F6F6", colour = NA),
      panel.spacing = ggplot2::unit(14, "pt")
    ) +
    ggplot2::geom_line(
      colour = house_colours[[1]], linewidth = 0.8, na.rm = TRUE
    ) +
    ggplot2::geom_point(
      data = path[path$last, ], colour = house_colours[[2]], size = 2.4
    ) +
    tile_texts(tiles, height) +
    ggplot2::facet_wrap(
      "line", ncol = columns, labeller = short_names(96 %/% columns)
    ) +
    ggplot2::coord_cartesian(xlim = c(-0.02, 1.02), ylim = c(-0.08, 2.1)) +
    ggplot2::labs(
      title = sprintf("Latest %s", subject_in_words(about, object)),
      subtitle = "Small lines: the figures before, each on a scale of its own.",
      x = NULL, y = NULL, caption = season_caption(about, if (
        length(drawn) < sum(is.null(highlight) | line %in% highlight)
      ) sprintf("%d of %d series.", length(drawn), length(line)))
    )
}

tiles_drawn <- 12

# As even rows as may be, of up to four.
tile_columns <- function(count) {
  c(1, 2, 3, 2, 3, 3, 4, 4, 3, 4, 4, 4)[[max(count, 1)]]
}

# The texts of each tile.
tile_words <- function(object, line, about) {
  moved <- function(change, percent, since) {
    by <- ifelse(
      is.na(percent),
      with_sign(format_change(change, about$unit), change),
      format_cells(percent, "%")
    )
    ifelse(is.na(change), "", paste(by, since))
  }
  number <- function(back) {
    calendar <- lay_calendar_over(about$calendar, object$period)
    period_label(period_start(
      period_number(object$period, calendar) - back, calendar
    ), calendar)
  }
  data.frame(
    line = factor(line, line), value = in_unit(object$value, about),
    at = paste0(
      number(0), ifelse(object$age > 0, ", the latest whole one", "")
    ),
    change = moved(
      object$change, object$percent, sprintf("on %s", number(1))
    ),
    year = if (about$yearly) {
      moved(object$year_change, object$year_percent, "on a year before")
    } else {
      ""
    }
  )
}

# The small lines, their places from 0 to 1 in both directions.
paths_of <- function(about, tiles, height) {
  path <- about$path
  path$line <- factor(
    names_of_lines(path[c(about$series, "measure")], about$several),
    levels(tiles$line)
  )
  path <- path[!is.na(path$line), ]
  unit <- function(x, by) {
    stats::ave(as.numeric(x), by, FUN = function(x) {
      ends <- range(x, na.rm = TRUE)
      if (ends[[1]] == ends[[2]]) x * 0 + 0.5 else (x - ends[[1]]) / diff(ends)
    })
  }
  path$x <- unit(path$period, path$line)
  path$y <- height * unit(path$value, path$line)
  path$last <- !duplicated(path$line, fromLast = TRUE)
  path
}

# Evenly from the top of the tile down to above the line.
tile_texts <- function(tiles, height) {
  text <- function(column, down, size, colour, ...) {
    y <- 1.85 - down * (1.65 - height)
    ggplot2::geom_text(
      data = tiles, ggplot2::aes(0, y, label = .data[[column]]),
      hjust = 0, size = size, colour = colour, ...
    )
  }
  list(
    text("value", 0, 7.5, "#1F1F1F", fontface = "bold"),
    text("at", 0.42, 3.5, "#5F5F5F"), text("change", 0.71, 3.5, "#333333"),
    text("year", 1, 3.5, "#333333")
  )
}
