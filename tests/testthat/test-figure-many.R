# Figures of more lines than can be named.

# Twelve stalls of a season; 3 the largest, 5 doubles, 8 falls in one month.
stalls <- function(count = 12) {
  month <- seq(as.Date("2028-01-01"), by = "month", length.out = 48)
  withr::local_seed(6)
  table <- do.call(rbind, lapply(seq_len(count), function(i) {
    season <- 1 + 0.3 * sin(1:48 / 12 * 2 * pi)
    course <- (100 + 5 * i + 300 * (i == 3)) * season
    grown <- if (i == 5) seq(1, 2, length.out = 48) else 1
    dip <- ifelse(i == 8 & 1:48 == 30, 0.4, 1)
    data.frame(
      month = month, stall = sprintf("stall %d", i),
      sold = round(course * grown * dip * stats::rlnorm(48, 0, 0.02)),
      staff = 2 + i %% 3 + (i == 4) * 5 + stats::runif(48)
    )
  }))
  roll_up(as_records(
    table, "month", c(sold = "flow", staff = "level"), series = "stall"
  ), "month")
}

lifted_lines <- function(plot) {
  colours <- unlist(lapply(ggplot2::ggplot_build(plot)$data, function(data) {
    if (!is.null(data$text)) data$text[data$colour != "#B9B9B9"]
  }))
  unique(sub("\n.*", "", colours))
}

test_that("of many lines the highest, the most changed and the oddest stand out, and the middle of all", {
  x <- stalls()
  sold <- x[x$measure == "sold", ]
  plot <- autoplot(sold)
  expect_setequal(lifted_lines(plot), c("stall 3", "stall 5", "stall 8"))
  said <- gsub("\n", " ", plot$labels$subtitle)
  for (one in c(
    "stall 3 (highest on average)", "stall 5 (changed most)",
    "stall 8 (furthest from the course of the others)", "all 12 series"
  )) {
    expect_true(grepl(one, said, fixed = TRUE), label = one)
  }
  half <- Filter(function(data) "ymin" %in% names(data),
                 ggplot2::ggplot_build(plot)$data)[[1]]
  first <- sold$value[sold$period == min(sold$period)]
  expect_equal(
    c(half$ymin[[1]], half$ymax[[1]]),
    unname(stats::quantile(first, c(0.25, 0.75)))
  )
  # Who names lines himself gets these; few lines are all named.
  expect_setequal(
    lifted_lines(autoplot(sold, highlight = "stall 2")), "stall 2"
  )
  expect_null(autoplot(stalls(3))$labels$subtitle)
})

test_that("each panel has its own, and growth is not judged by its growth", {
  x <- stalls()
  plot <- autoplot(x)
  expect_true(all(c("stall 3 / sold", "stall 4 / staff") %in%
                    lifted_lines(plot)))
  expect_match(plot$labels$subtitle, "in each panel highest on average")
  grown <- add_growth(x[x$measure == "sold", ], "1 year")
  plot <- autoplot(grown, of = "growth_1_year")
  expect_no_match(plot$labels$subtitle, "changed most")
  expect_true("stall 8" %in% lifted_lines(plot))
})

test_that("panels are few, the caption says of how many, and what was found is among them", {
  month <- seq(as.Date("2027-01-01"), by = "month", length.out = 60)
  value <- withr::with_seed(4, lapply(1:20, function(i) {
    100 + stats::rnorm(60) + if (i > 18) rep(c(0, 20), each = 30) else 0
  }))
  boats <- roll_up(as_records(data.frame(
    month = rep(month, 20), boat = rep(sprintf("boat %02d", 1:20), each = 60),
    kilos = unlist(value)
  ), "month", c(kilos = "flow"), series = "boat"), "month")
  caption_of <- function(plot) gsub("\n", " ", plot$labels$caption)
  bars <- suppressMessages(autoplot(boats, type = "bars"))
  expect_length(unique(ggplot2::layer_data(bars, 1)$PANEL), 8)
  expect_match(caption_of(bars), "^Drawn: 8 of 20 series[.]")
  shifts <- suppressMessages(autoplot(level_shifts(boats)))
  expect_match(caption_of(shifts), "^Drawn: [2-8] of 20 series, those with")
  panels <- ggplot2::ggplot_build(shifts)$layout$layout$line
  expect_true(all(c("boat 19", "boat 20") %in% panels))
  one <- autoplot(boats, type = "bars", highlight = "boat 03")
  expect_no_match(caption_of(one), "Drawn")
})

test_that("a distribution has bars and axes that suit each measure", {
  x <- roll_up(as_records(data.frame(
    month = seq(as.Date("2027-01-01"), by = "month", length.out = 60),
    kilos = withr::with_seed(5, stats::rnorm(60, 100, 10)),
    lots = withr::with_seed(6, stats::rnorm(60, 9000, 900))
  ), "month", c(kilos = "flow", lots = "flow")), "month")
  plot <- autoplot(x, type = "distribution")
  expect_match(plot$labels$subtitle, "Bars are 10 [(]kilos[)] and 500 [(]lots")
  for (i in 1:2) {
    bars <- ggplot2::layer_data(plot, i)
    expect_gt(sum(bars$count > 0), 5)
    expect_identical(sum(bars$count), 60)
  }
})

test_that("of many turning points the largest swings are named", {
  x <- roll_up(as_records(data.frame(
    day = as.Date("2029-01-01") + 0:999,
    tide = withr::with_seed(7, 100 + stats::rnorm(1000)) +
      replace(rep(0, 1000), 500, 50)
  ), "day", c(tide = "level")), "day")
  plot <- autoplot(turning_points(x, span = "3 days"))
  names <- plot$layers[[length(plot$layers)]]$data
  expect_lte(nrow(names), 24)
  expect_true("2030-05-15" %in% names$label)
  expect_match(plot$labels$title, "Turning points of tide")
})
