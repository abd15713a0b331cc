# Figures of gaps, rankings, cycles and wide tables.

bars_drawn <- function(plot) ggplot2::layer_data(plot, 1)

lengths_drawn <- function(plot) {
  bars <- bars_drawn(plot)
  sort(bars$xmin + bars$xmax)
}

test_that("every result that is a list has a figure with what it lists", {
  m <- roll_up(inns(), "month")
  lost <- gaps(m)
  drawn <- bars_drawn(autoplot(lost))
  expect_identical(nrow(drawn), nrow(lost))
  expect_equal(drawn$x, as.numeric(lost$from))
  falls <- rank_changes(m, n = 4, order = "falls")
  expect_equal(lengths_drawn(autoplot(falls)), sort(falls$percent))
  first <- rank_series(m)
  expect_equal(lengths_drawn(autoplot(first)), sort(first$value))
  for (side in c("series", "periods")) {
    drawn <- bars_drawn(autoplot(widen(m, side)))
    whole <- m$value[m$standing == "complete"]
    expect_equal(sort(drawn$y[!is.na(drawn$y)]), sort(whole), label = side)
  }
  found <- suggest_cycle(roll_up(crossings(), "day"))
  expect_equal(lengths_drawn(autoplot(found)), sort(found$explained))
  none <- gaps(roll_up(records_of(as.Date("2031-01-01") + 0:9, v = 1), "day"))
  expect_error(
    autoplot(none), "no gaps", class = "backfill_error_input"
  )
  expect_error(gaps(m[0, ]), "no rows", class = "backfill_error_input")
})

test_that("figures keep the series columns, to make panels of them", {
  m <- roll_up(inns(), "month")
  panels <- ggplot2::ggplot_build(
    autoplot(m) + ggplot2::facet_wrap(~inn)
  )$layout$layout
  expect_setequal(as.character(panels$inn), unique(m$inn))
})

test_that("only a figure is written as one, and nothing else is taken for a full disk", {
  file <- withr::local_tempfile(fileext = ".png")
  for (other in list(roll_up(inns(), "month"), "x", NULL, mtcars)) {
    expect_error(
      write_figure(other, file), "not a figure",
      class = "backfill_error_argument"
    )
  }
  expect_false(file.exists(file))
})

test_that("labels at the ends of lines stretch no axis, and long names no figure", {
  day <- seq(as.Date("2029-01-01"), as.Date("2031-12-31"), 1)
  long <- strrep("a very long name of a mill ", 6)
  data <- do.call(rbind, lapply(c("Kell", "Brod", long), function(site) {
    data.frame(
      day, site, load = 600 + seq_along(day) %% 7,
      price = 40 + sin(seq_along(day) / 90) + nchar(site) %% 5
    )
  }))
  m <- roll_up(
    as_records(data, "day", c(load = "flow", price = "level"), series = "site"),
    "month"
  )
  drawn <- ggplot2::ggplot_build(autoplot(m))
  ends <- lapply(drawn$layout$panel_params, function(one) one$y.range)
  price <- range(m$value[m$measure == "price"])
  reach <- diff(price)
  expect_true(
    ends[[2]][[1]] > price[[1]] - 0.2 * reach &&
      ends[[2]][[2]] < price[[2]] + 0.2 * reach
  )
  file <- withr::local_tempfile(fileext = ".png")
  figures <- list(
    lines = autoplot(m), bars = autoplot(add_growth(m), "growth_1_month"),
    boxes = autoplot(series_summary(m)), latest = autoplot(latest(m)),
    ranks = autoplot(rank_series(m)), pairs = autoplot(correlations(m)),
    wide = autoplot(widen(m, "series")), season = autoplot(seasonal_index(m)),
    profile = autoplot(cycle_profile(m, "month"))
  )
  for (name in names(figures)) {
    expect_error(write_figure(figures[[name]], file), NA)
    expect_gt(file.size(file), 5000)
  }
})
