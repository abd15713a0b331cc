# The running year over former ones: a line for each year, from January to
# December.

figure_years <- function(data, x, of, headroom, axis) {
  check_years(data, facts(x)$calendar)
  whole <- data$standing %in% c("complete", "imputed")
  data$figure[of == "value" & !whole] <- NA
  data <- by_day_of_year(data)
  latest <- max(data$year)
  first <- cumsum(c(0, 31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30))
  plot <- ggplot2::ggplot(
    data,
    ggplot2::aes(
      .data$day, .data$figure, group = .data$year, colour = .data$rank
    )
  ) +
    theme_backfill() +
    ggplot2::geom_line(ggplot2::aes(linewidth = .data$rank)) +
    labels_apart(
      names_of_years(data), ggplot2::aes(label = .data$label), size = 3.4,
      nudge_x = 6, box.padding = 0.25
    ) +
    ggplot2::scale_colour_manual(
      values = c(
        latest = house_colours[[1]], before = house_colours[[2]],
        earlier = "#B0B0B0"
      )
    ) +
    ggplot2::scale_linewidth_manual(
      values = c(latest = 1.1, before = 0.8, earlier = 0.5)
    ) +
    ggplot2::scale_x_continuous(
      breaks = first, labels = month.abb, limits = c(0, 385),
      expand = ggplot2::expansion(mult = 0.01)
    ) +
    value_axis(data, axis, facts(x)$added[[of]]$unit, headroom)
  if (nlevels(data$line) > 1) {
    columns <- if (nlevels(data$line) > 2) 2 else 1
    plot <- plot +
      ggplot2::facet_wrap("line", ncol = columns, scales = "free_y")
  }
  plot + ggplot2::labs(
    title = glue("{figure_title(x, levels(data$panel), of)}, year over year"),
    subtitle = sprintf(
      "Teal: %d. Orange: %d. Grey: earlier years.", latest, latest - 1L
    ), y = NULL
  )
}

check_years <- function(data, calendar) {
  if (period_seconds(calendar) >= unit_seconds[["year"]]) {
    abort_backfill(
      "argument",
      "`type` is \"years\", but periods are {period_noun(calendar, 2)}.",
      i = "Years lie over each other where they have several periods each."
    )
  }
  if (nlevels(data$line) > most_labelled) {
    abort_backfill(
      "argument",
      "`type` is \"years\", but there are {nlevels(data$line)} series.",
      ">" = "Draw up to {most_labelled} of them."
    )
  }
}

# Rows with a figure, with their year and day in it, and whether the year is the
# latest, the one before, or an earlier one.
by_day_of_year <- function(data) {
  parts <- as.POSIXlt(data$period)
  data$year <- parts$year + 1900L
  data$day <- parts$yday + parts$hour / 24
  data <- data[!is.na(data$figure), ]
  back <- max(data$year) - data$year
  ranks <- c("latest", "before", "earlier")
  data$rank <- factor(ranks[pmin(back, 2) + 1], rev(ranks))
  data
}

# The last row of each line's year, of many years of the latest two, and what
# their names keep off.
names_of_years <- function(data) {
  ends <- data[!duplicated(data[c("line", "year")], fromLast = TRUE), ]
  if (length(unique(data$year)) > 6) {
    ends <- ends[ends$rank != "earlier", ]
  }
  ends$label <- as.character(ends$year)
  vctrs::vec_rbind(
    ends, along_lines(data, "day", "figure", c("line", "year"))
  )
}
