#' Draw a description
#'
#' Boxes side by side, with the outliers of the box-plot rule named; or
#' histograms with the density of each series or group.
#'
#' @param object A description, from [series_summary()].
#' @param type `"boxes"` or `"histogram"`.
#' @param scales `"shared"` gives all panels of a histogram the same axis of
#'   values, `"own"` each its own.
#' @param highlight Names of the lines to draw in histograms, where there are
#'   more than eight.
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' described <- series_summary(roll_up(nights, every = "month"))
#' autoplot(described)
#' autoplot(described, type = "histogram", scales = "own")
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_series_summary <- function(
  object, type = "boxes", scales = "shared", highlight = NULL, ...
) {
  refuse_further(...)
  check_one_of(type, c("boxes", "histogram"), "type")
  check_one_of(scales, c("shared", "own"), "scales")
  about <- facts(object)
  data <- about$points
  check_any(data[!is.na(data$value), ], "figures")
  keys <- c(about$series, about$by, "measure")
  # The first series on top.
  data$line <- factor(
    names_of_lines(data[keys], about$several), unique(described_lines(object))
  )
  data$figure <- data$value
  if (type == "boxes") {
    return(figure_boxes(object, data, about, highlight))
  }
  figure_histograms(data, about, scales, highlight)
}

figure_boxes <- function(object, data, about, highlight) {
  if (!is.null(highlight)) {
    check_highlight(highlight, levels(data$line))
    object <- object[described_lines(object) %in% highlight, ]
    data <- data[data$line %in% highlight, ]
  }
  boxes <- boxes_of(object, data)
  apart <- data[data$apart, ]
  apart$label <- period_label(apart$period, about$calendar)
  # The names of the furthest, as many as are legible.
  far <- order(-abs(apart$value - boxes$median[match(apart$line, boxes$line)]))
  apart$label[setdiff(seq_along(far), utils::head(far, 12))] <- ""
  flow <- amounts_from_zero(about, data$figure)
  several <- length(unique(data$measure)) > 1
  ggplot2::ggplot(boxes, ggplot2::aes(y = .data$line)) +
    theme_backfill() +
    ggplot2::theme(
      panel.grid.major.y = ggplot2::element_blank(),
      panel.grid.major.x = ggplot2::element_line(
        colour = "#E4E4E4", linewidth = 0.4
      )
    ) +
    ggplot2::geom_boxplot(
      ggplot2::aes(
        xmin = .data$low, xlower = .data$lower_quartile,
        xmiddle = .data$median, xupper = .data$upper_quartile,
        xmax = .data$high
      ),
      stat = "identity", fill = "#8DB8BA", colour = "#0E5A61", width = 0.55,
      orientation = "y", na.rm = TRUE
    ) +
    ggplot2::geom_point(
      data = apart, ggplot2::aes(.data$value), colour = house_colours[[2]],
      size = 2
    ) +
    (if (nrow(apart) > 0) {
      labels_apart(
        apart, ggplot2::aes(.data$value, label = .data$label),
        size = 3.2, colour = "#7E3408"
      )
    }) +
    (if (several) {
      ggplot2::facet_wrap("measure", ncol = 1, scales = "free")
    }) +
    (if (flow) ggplot2::expand_limits(x = 0)) +
    ggplot2::scale_x_continuous(labels = figure_labels(about$unit)) +
    ggplot2::scale_y_discrete(
      limits = if (!several) rev, labels = short_in_middle
    ) +
    ggplot2::labs(
      title = sprintf("Boxes of %s", described_words(about, data)),
      subtitle = paste(
        "Box: the middle half, with the median. Lines: up to 1.5 times its",
        "length. Orange: beyond."
      ),
      x = NULL, y = NULL, caption = season_caption(
        about, if (!flow) not_from_zero
      )
    )
}

# With the last figures within the fences on either side.
boxes_of <- function(object, data) {
  boxes <- plain_tibble(object)
  boxes$line <- factor(described_lines(object), levels(data$line))
  boxes <- boxes[boxes$n > 0, ]
  within <- data[!data$apart, ]
  ends <- function(pick) {
    found <- tapply(within$value, within$line, pick)
    as.vector(found[as.character(boxes$line)])
  }
  boxes$low <- ends(min)
  boxes$high <- ends(max)
  boxes
}

described_words <- function(about, data) {
  by <- if (!is.null(about$by)) sprintf(" by %s", gsub("_", " ", about$by))
  paste0(
    subject_in_words(about, data), by, ", by the ", period_noun(about$calendar)
  )
}

figure_histograms <- function(data, about, scales, highlight) {
  data <- data[rows_in_panels(as.character(data$line), highlight), ]
  data$line <- droplevels(data$line)
  data$bar <- stats::ave(data$figure, data$line, FUN = bin_width)
  widths <- unique(range(data$bar))
  ggplot2::ggplot(data, ggplot2::aes(.data$figure, group = .data$line)) +
    theme_backfill() +
    histogram_bars(data) +
    quantile_layers(quantile_marks(data)) +
    ggplot2::scale_x_continuous(labels = figure_labels(about$unit)) +
    ggplot2::scale_y_continuous(
      expand = ggplot2::expansion(mult = c(0, 0.25)),
      labels = scales::label_comma()
    ) +
    in_panels(nlevels(data$line), if (scales == "own") "free" else "fixed") +
    ggplot2::labs(
      title = sprintf("Distribution of %s", described_words(about, data)),
      subtitle = paste(
        "Black: density. Orange: quantiles, the median thick. Bars are",
        paste0(in_words(vapply(
          widths, width_in_words, "", about$unit
        ), last = " to "), " wide.")
      ),
      x = NULL, y = sprintf("Number of %s", period_noun(about$calendar, 2)),
      caption = season_caption(about)
    )
}

# Bars of each line, as wide as suits it, with the density as high as they are.
histogram_bars <- function(data) {
  lapply(split(data, data$line), function(part) {
    width <- part$bar[[1]]
    list(
      ggplot2::geom_histogram(
        data = part, binwidth = width, boundary = 0, fill = "#8DB8BA",
        colour = "white", linewidth = 0.2
      ),
      ggplot2::geom_density(
        ggplot2::aes(y = ggplot2::after_stat(.data$count) * width),
        data = part, colour = "#1F1F1F", linewidth = 0.6, trim = TRUE
      )
    )
  })
}
