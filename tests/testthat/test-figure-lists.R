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
