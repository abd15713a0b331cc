layers_of <- function(plot) ggplot2::ggplot_build(plot)$data

monthly_nights <- function() roll_up(inns(), "month")

test_that("an index is drawn as bars from the average, its ratios as dots, its values beside the adjusted ones", {
  monthly <- monthly_nights()
  march <- monthly$inn == "Lantern" & monthly$period == as.Date("2030-03-01")
  monthly$value[march] <- 1.4 * monthly$value[march]
  index <- seasonal_index(monthly)
  bars <- layers_of(autoplot(index))[[1]]
  expect_equal(bars$ymax, index$index)
  expect_true(all(bars$ymin == 1))
  sheet <- summary(index, type = "worksheet")
  plot <- autoplot(index, type = "ratios")
  dots <- Filter(
    function(layer) "shape" %in% names(layer), layers_of(plot)
  )[[1]]
  # Those that are left out as outliers, too.
  ratio <- sheet$value / sheet$centred_average
  expect_gt(sum(is.na(sheet$ratio[!is.na(ratio)])), 0)
  expect_setequal(dots$y, stats::na.omit(ratio))
  # Each within its month, the later the further right.
  expect_equal(
    round(dots$x), as.POSIXlt(sheet$period[!is.na(ratio)])$mon + 1
  )
  named <- Filter(
    function(layer) "label" %in% names(layer), layers_of(plot)
  )[[1]]
  expect_setequal(named$label, index$disagree[nzchar(index$disagree)])
  lines <- layers_of(autoplot(index, type = "adjusted"))
  expect_setequal(stats::na.omit(lines[[1]]$y), stats::na.omit(sheet$value))
  expect_setequal(stats::na.omit(lines[[2]]$y), stats::na.omit(sheet$adjusted))
  means <- layers_of(autoplot(index, type = "positions"))[[1]]
  expect_equal(sum(means$y[means$PANEL == 1]),
               sum(tapply(
                 sheet$value[1:46], as.POSIXlt(sheet$period[1:46])$mon, mean,
                 na.rm = TRUE
               )))
  expect_error(autoplot(index, type = "pie"), class = "backfill_error_argument")
  many <- seasonal_index(roll_up(
    records_of(
      rep(monthly_nights()$period[1:36], 9), g = rep(1:9, each = 36), x = 1:324,
      series = "g"
    ),
    "month"
  ))
  expect_message(
    expect_length(unique(layers_of(autoplot(many))[[1]]$PANEL), 8),
    "8 of 9 series", class = "backfill_message_highlight"
  )
  expect_length(
    unique(layers_of(autoplot(many, highlight = c("2", "7")))[[1]]$PANEL), 2
  )
})

test_that("a profile has a line and a band for each group; a grid a line for each row and their average", {
  profile <- cycle_profile(crossings(), "hour", apart = "weekend")
  layers <- layers_of(autoplot(profile))
  expect_setequal(layers[[1]]$ymax, profile$upper)
  expect_setequal(layers[[2]]$y, profile$value)
  grid <- cycle_grid(crossings(), "date", "hour", of = "market")
  layers <- layers_of(autoplot(grid))
  expect_setequal(stats::na.omit(layers[[1]]$y), grid$value)
  expect_equal(layers[[2]]$y, as.vector(tapply(grid$value, grid$column, mean)))
  tiles <- layers_of(autoplot(cycle_grid(
    monthly_nights(), "month", "year"
  )))[[1]]
  expect_identical(nrow(tiles), sum(monthly_nights()$standing == "complete"))
  # January at the top.
  expect_identical(max(tiles$y), 12L + 0)
})

test_that("a trend line is drawn from end to end, a projection dashed from the last whole value with its interval", {
  monthly <- monthly_nights()
  found <- trend_line(deseasonalise(monthly, seasonal_index(monthly)))
  lines <- Filter(
    function(layer) "xend" %in% names(layer), layers_of(autoplot(found))
  )[[1]]
  expect_equal(lines$y, found$start)
  expect_equal(lines$yend, found$end)
  ahead <- project(monthly, 6)
  layers <- layers_of(autoplot(ahead))
  made <- ahead[ahead$standing == "projected", ]
  expect_setequal(layers[[1]]$ymin, made$lower)
  dashed <- Filter(
    function(layer) {
      "linetype" %in% names(layer) &&
        all(layer$linetype == "dashed")
    },
    layers
  )[[1]]
  whole <- monthly[monthly$standing == "complete", ]
  expect_setequal(
    dashed$y, c(made$value, tapply(whole$value, whole$inn, utils::tail, 1))
  )
})
