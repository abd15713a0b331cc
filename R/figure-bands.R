#' Draw bands
#'
#' A bar for each series, of the share of its periods in each band; the lowest
#' in orange, the highest in teal.
#'
#' @param object The counts of [count_bands()].
#' @param ... Not used.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- add_growth(roll_up(nights, every = "month"), over = "1 year")
#' autoplot(count_bands(add_bands(monthly, c(-5, 0, 5), of = "growth_1_year")))
#' @exportS3Method ggplot2::autoplot
autoplot.backfill_band_counts <- function(object, ...) {
  refuse_further(...)
  data <- plain_tibble(object)
  series <- data[setdiff(names(data), c("band", "periods", "share"))]
  line <- names_of_lines(series)
  data$line <- factor(line, rev(unique(line)))
  data <- data[!is.na(data$share), ]
  note <- facts(object)$note
  of <- if (note$of == "value") in_words(unique(data$measure)) else note$of
  ggplot2::ggplot(
    data, ggplot2::aes(.data$share, .data$line, fill = .data$band)
  ) +
    theme_backfill() +
    band_layers(data) +
    ggplot2::scale_x_continuous(
      labels = scales::label_percent(),
      expand = ggplot2::expansion(mult = c(0, 0.02))
    ) +
    ggplot2::theme(
      legend.position = "top", legend.justification = "left",
      panel.grid.major.y = ggplot2::element_blank()
    ) +
    ggplot2::labs(
      title = sprintf("Bands of %s", note_in_words(note, gsub("_", " ", of))),
      fill = NULL, x = "Share of periods", y = NULL,
      subtitle = glue(
        "In the bars: the number of {period_noun(facts(object)$calendar, 2)}."
      ),
      caption = source_in_words(facts(object))
    )
}

# The bars, their numbers, and the colours of both.
band_layers <- function(data) {
  bands <- nlevels(data$band)
  colours <- grDevices::colorRampPalette(c(
    "#C25614", "#F2B98D", "#F4F1EC", "#8CC2C4", "#0E5A61"
  ))(max(bands, 2))
  data$label <- ifelse(data$share >= 0.06, data$periods, "")
  data$dark <- as.integer(data$band) %in% c(1, bands) & bands > 2
  list(
    ggplot2::geom_col(
      position = ggplot2::position_stack(reverse = TRUE), width = 0.7,
      colour = "white"
    ),
    ggplot2::geom_text(
      data = data,
      ggplot2::aes(
        label = .data$label, colour = .data$dark, group = .data$band
      ),
      position = ggplot2::position_stack(vjust = 0.5, reverse = TRUE),
      size = 3.6
    ),
    ggplot2::scale_colour_manual(
      values = c("FALSE" = "#333333", "TRUE" = "white"), guide = "none"
    ),
    ggplot2::scale_fill_manual(values = colours, drop = FALSE)
  )
}
