# Axes and labels of every figure on six tables that are hard to draw.
awkward_tables <- function() {
  day <- seq(as.Date("2029-01-01"), as.Date("2031-12-31"), 1)
  wave <- sin(seq_along(day) / 58)
  of <- function(site, load, price = load) data.frame(day, site, load, price)
  rolled <- function(..., keep = TRUE) {
    roll_up(as_records(
      rbind(...)[keep, ], "day", c(load = "flow", price = "level"),
      series = "site"
    ), "month")
  }
  mills <- lapply(1:30, function(i) of(sprintf("mill %02d", i), i * (3 + wave)))
  list(
    names = rolled(
      of(strrep("a very long name of a mill ", 6), 600 + 50 * wave, 40 + wave),
      of("<b>%d\\n{x}</b>", 500 + 80 * wave, 20 + wave)
    ),
    unlike = rolled(of("Kell", 1e9 * (2 + wave), 1e-4 * (3 + wave))),
    thirty = rolled(do.call(rbind, mills)),
    holes = rolled(
      of("Kell", 9 + wave, -wave), keep = -c(40:140, 200, 300, 500:800)
    ),
    below = rolled(of("Kell", 1000 * wave - 400, -5 + 1e-3 * wave)),
    still = rolled(of("Kell", 7, 0), of("Brod", 7, 3))
  )
}

# What is drawn in a panel, the labels in it, and how far its axis reaches.
reach_of_panel <- function(built, i) {
  panel <- built$layout$layout$PANEL[[i]]
  heights <- function(labelled) {
    out <- unlist(lapply(built$data, function(layer) {
      at <- intersect(c("y", "ymin", "ymax", "yend"), names(layer))
      if (is.null(layer$label) != labelled) layer[layer$PANEL == panel, at]
    }))
    range(out[is.finite(out)], 0)
  }
  list(
    drawn = heights(FALSE), labels = heights(TRUE),
    axis = range(built$layout$panel_params[[i]]$y.range, 0)
  )
}

holds_all <- function(reach) {
  slack <- 1e-9 * diff(reach$axis)
  all(vapply(reach[c("drawn", "labels")], function(held) {
    held[[1]] >= reach$axis[[1]] - slack && held[[2]] <= reach$axis[[2]] + slack
  }, NA))
}

# At least half of the axis is for what is drawn, the rest for labels.
is_filled <- function(reach) {
  drawn <- diff(reach$drawn)
  drawn == 0 || diff(reach$axis) <= 2 * drawn
}

test_that("axes hold all that is drawn and little more, whatever the table", {
  figures <- list(
    lines = autoplot, years = \(m) autoplot(m, type = "years"),
    bars = \(m) autoplot(m, type = "bars"),
    growth = \(m) autoplot(add_growth(m, over = "1 year")),
    moving = \(m) autoplot(add_moving(m, window = 3)),
    share = \(m) autoplot(add_share(m)), flags = \(m) autoplot(flag_periods(m)),
    boxes = \(m) autoplot(series_summary(m)),
    ranks = \(m) autoplot(rank_series(m)),
    wide = \(m) autoplot(widen(m, "series")), latest = \(m) autoplot(latest(m)),
    season = \(m) autoplot(seasonal_index(m, form = "additive")),
    profile = \(m) autoplot(cycle_profile(m, "month")),
    trend = \(m) autoplot(trend_line(m, of = "value")),
    turning = \(m) autoplot(turning_points(m, span = 3)),
    shifts = \(m) autoplot(level_shifts(m)),
    pairs = \(m) autoplot(correlations(m)),
    project = \(m) autoplot(project(m, 6, form = "additive"))
  )
  file <- withr::local_tempfile(fileext = ".png")
  tables <- awkward_tables()
  tried <- expand.grid(figure = names(figures), table = names(tables))
  if (!thorough()) {
    tried <- tried[withr::with_seed(11, sample(nrow(tried), 14)), ]
  }
  refused <- character()
  all_tried <- paste(tried$figure, "of", tried$table)
  for (i in seq_len(nrow(tried))) {
    table <- as.character(tried$table[[i]])
    figure <- as.character(tried$figure[[i]])
    what <- all_tried[[i]]
    plot <- suppressMessages(tryCatch(
      figures[[figure]](tables[[table]]), backfill_error = function(e) NULL
    ))
    if (is.null(plot)) {
      refused <- c(refused, what)
      next
    }
    if (table == "names") expect_silent(write_figure(plot, file))
    built <- ggplot2::ggplot_build(plot)
    # Places that are named one by one, and tiles, have no measure of height.
    if (built$layout$panel_scales_y[[1]]$is_discrete() || figure == "latest") {
      next
    }
    reach <- lapply(seq_along(built$layout$panel_params), function(i) {
      reach_of_panel(built, i)
    })
    expect_true(all(vapply(reach, holds_all, NA)), label = what)
    expect_true(all(vapply(reach, is_filled, NA)), label = what)
  }
  # Years below each other of thirty series.
  expect_setequal(refused, intersect(all_tried, "years of thirty"))
})
