layers_of <- function(plot) ggplot2::ggplot_build(plot)$data

test_that("autocorrelation is drawn as stems from lag 1 on, with its band, and noise beside it on request", {
  monthly <- roll_up(inns(), "month")
  memory <- autocorrelation(monthly[monthly$inn == "Lantern", ], lags = 24)
  layers <- layers_of(autoplot(memory))
  expect_equal(layers[[1]]$ymax, memory$upper)
  stems <- Filter(
    function(layer) "xend" %in% names(layer) && all(layer$yend == 0), layers
  )[[1]]
  expect_equal(sort(stems$y), sort(memory$coefficient))
  expect_gte(min(stems$x), 1)
  marks <- Filter(function(layer) "xintercept" %in% names(layer), layers)[[1]]
  expect_identical(marks$xintercept, c(12, 24))
  set.seed(7)
  before <- .Random.seed
  noise <- autoplot(memory, reference = TRUE, seed = 3)
  expect_identical(.Random.seed, before)
  data <- noise$data[
    noise$data$line != "guest_nights" & grepl("noise", noise$data$line),
  ]
  set.seed(3)
  expect_equal(
    data$r, as.vector(stats::acf(stats::rnorm(46), 24, plot = FALSE)$acf)[-1]
  )
  cross <- cross_correlation(monthly, "Lantern", "Hearth", lags = 4)
  drawn <- Filter(
    function(layer) "xend" %in% names(layer), layers_of(autoplot(cross))
  )[[1]]
  expect_equal(drawn$y[order(drawn$x)], cross$coefficient)
})

test_that("flags are points on their series, over baseline and limits; turning points have their spells shaded", {
  monthly <- roll_up(inns(), "month")
  flags <- flag_periods(monthly, "a cycle before", c(percent = 10))
  layers <- layers_of(autoplot(flags))
  expect_setequal(stats::na.omit(layers[[2]]$y), stats::na.omit(flags$baseline))
  points <- Filter(function(layer) "shape" %in% names(layer), layers)[[1]]
  expect_setequal(points$y, flags$value[flags$flag %in% TRUE])
  daily <- add_anomaly(roll_up(crossings(), "day"), "weekday", running = TRUE)
  turns <- turning_points(daily, "60 days", of = "running_anomaly")
  plot <- autoplot(turns, highlight = "market")
  marks <- Filter(
    function(layer) "shape" %in% names(layer) && nrow(layer) < 20,
    layers_of(plot)
  )[[1]]
  expect_setequal(marks$y, turns$value[turns$measure == "market"])
  shaded <- Filter(
    function(layer) "xmin" %in% names(layer) && any(layer$ymax == Inf),
    layers_of(plot)
  )[[1]]
  spells <- summary(turns)
  expect_setequal(
    shaded$xmin, as.numeric(spells$start[spells$measure == "market"])
  )
  # The anomaly above, its running sum below, with one axis of time.
  expect_identical(levels(plot$data$panel), c("anomaly", "running anomaly"))
})
