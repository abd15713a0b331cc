layers_of <- function(plot) ggplot2::ggplot_build(plot)$data

test_that("a partial month is a hollow point, which only dots run through", {
  monthly <- add_moving(roll_up(crossings(), "month", enough = 0.95), 12)
  layers <- layers_of(autoplot(monthly))
  partial <- monthly$value[monthly$standing == "partial"]
  hollow <- Filter(
    function(layer) "shape" %in% names(layer) && all(layer$shape == 21), layers
  )
  expect_length(hollow, 1)
  expect_setequal(hollow[[1]]$y, partial)
  lines <- Filter(function(layer) "linewidth" %in% names(layer), layers)
  dotted <- vapply(lines, function(layer) {
    all(layer$linetype == "dotted")
  }, NA)
  joins <- lines[[which(dotted)]]
  expect_true(all(joins$y %in% partial | joins$yend %in% partial))
  expect_true(all(partial %in% c(joins$y, joins$yend)))
  lines <- lines[!dotted]
  expect_false(any(unlist(lapply(lines, `[[`, "y")) %in% partial))
  # The thin line is the value, the thick one its mean; both are there with all
  # they have.
  thick <- lines[[which.max(vapply(
    lines, function(layer) max(layer$linewidth), 0
  ))]]
  expect_setequal(stats::na.omit(thick$y), stats::na.omit(monthly$moving_mean))
})

test_that("a flow's axis starts at zero; one that does not says so in the figure", {
  axis <- function(plot) {
    ggplot2::ggplot_build(plot)$layout$panel_params[[1]]$y.range
  }
  day <- as.Date("2031-01-01") + 0:59
  flow <- autoplot(roll_up(records_of(day, kilos = 1000 + 0:59), "day"))
  expect_lte(axis(flow)[[1]], 0)
  level <- autoplot(roll_up(
    records_of(day, price = 1000 + 0:59, kind = "level"), "day"
  ))
  expect_gt(axis(level)[[1]], 900)
  expect_match(level$labels$caption, "does not start at zero")
  expect_no_match(flow$labels$caption, "does not start at zero")
})

test_that("growth is drawn as bars around zero, one for each figure", {
  monthly <- add_growth(roll_up(inns(), "month"), over = "1 year")
  plot <- autoplot(monthly, of = "growth_1_year")
  bars <- layers_of(plot)[[1]]
  expect_setequal(bars$y, stats::na.omit(monthly$growth_1_year))
  expect_match(
    plot$labels$title, "guest nights over 1 year|guest_nights over 1 year"
  )
  expect_no_warning(layers_of(plot))
})

test_that("up to eight series are labelled; of more, the named ones are brought out", {
  labels_of <- function(plot) {
    unlist(lapply(
      layers_of(plot), function(layer) as.character(layer$label)
    ))
  }
  expect_setequal(
    labels_of(autoplot(roll_up(inns(), "month"))),
    c("Wherry", "Lantern", "Anchor", "Hearth")
  )
  # One of which no period is whole is named at its hollow points.
  day <- as.Date("2031-01-01") + c(0:89, 3:20)
  short <- records_of(
    day, kilos = 1, stall = rep(c("whole", "short"), c(90, 18)),
    series = "stall"
  )
  expect_setequal(
    labels_of(autoplot(roll_up(short, "month"))), c("whole", "short")
  )
  month <- rep(sprintf("2031-%02d", 1:12), 12)
  port <- rep(letters[1:12], each = 12)
  many <- roll_up(
    records_of(month, port = port, kilos = seq_along(port), series = "port"),
    "month"
  )
  expect_setequal(
    labels_of(autoplot(many, highlight = c("c", "k"))), c("c", "k")
  )
  expect_error(
    autoplot(many, highlight = "z"), "not a series",
    class = "backfill_error_argument"
  )
  expect_error(
    autoplot(many, of = "port"), "not a column of figures",
    class = "backfill_error_column"
  )
})

test_that("a file too short for the average is drawn by its values, named, and promises no average", {
  month <- rep(sprintf("2031-%02d", 1:6), 2)
  short <- roll_up(
    records_of(
      month, port = rep(c("a", "b"), each = 6), kilos = 1:12, series = "port"
    ),
    "month"
  )
  plot <- autoplot(add_moving(short, 12))
  expect_null(plot$labels$subtitle)
  labels <- Filter(
    function(layer) "label" %in% names(layer), layers_of(plot)
  )[[1]]
  expect_identical(as.character(labels$label), c("a", "b"))
  expect_equal(labels$y, c(6, 12), tolerance = 0.01)
  # With only one of them too short, that one is named at its last value, the
  # other at its average.
  mixed <- roll_up(
    records_of(
      month[-1], port = rep(c("a", "b"), each = 6)[-1], kilos = 1:11,
      series = "port"
    ),
    "month"
  )
  labels <- Filter(
    function(layer) "label" %in% names(layer),
    layers_of(autoplot(add_moving(mixed, 6)))
  )[[1]]
  expect_equal(labels$y, c(5, mean(6:11)), tolerance = 0.01)
})

test_that("titles say what became of the records", {
  titled <- function(kind, use = NULL, unit = NULL, ...) {
    kinds <- list(kilos = measure(kind, unit))
    x <- as_records(
      tibble::tibble(
        day = as.Date("2031-01-01") + 0:99, kilos = 1:100 + 0, ...
      ), "day", c(kinds, if (...length() > 0) list(price = "level"))
    )
    autoplot(roll_up(x, "month", use = use))$labels$title
  }
  expect_identical(titled("flow"), "Total kilos per month")
  expect_identical(titled("level"), "Mean kilos per month")
  expect_identical(titled("level", "last", "kg"), "Last kilos (kg) per month")
  expect_identical(titled("counter"), "Increase of kilos per month")
  expect_identical(titled("level", "90%"), "90% quantile of kilos per month")
  expect_identical(
    titled("flow", price = 1), "Total kilos and mean price per month"
  )
  expect_identical(
    titled("level", c(kilos = "count"), "kg"),
    "Number of records of kilos per month"
  )
})

test_that("the axis of time names the year, whatever the span", {
  dates <- as.Date(c("2031-01-01", "2032-01-01", NA))
  expect_identical(backfill:::date_labels(dates), c("2031", "2032", NA))
  expect_identical(
    backfill:::date_labels(dates + c(0, 31, 0)), c("2031-01", "2032-02", NA)
  )
  expect_identical(
    backfill:::date_labels(dates + c(0, 7, 0)),
    c("2031-01-01", "2032-01-08", NA)
  )
})

test_that("a single lifted series is named, and growth of many series says what it is in percent", {
  month <- rep(sprintf("2031-%02d", 1:12), 12)
  port <- rep(letters[1:12], each = 12)
  many <- add_growth(roll_up(
    records_of(month, port = port, kilos = seq_along(port), series = "port"),
    "month"
  ))
  plot <- autoplot(many, of = "growth_1_month", highlight = "c")
  expect_identical(
    unlist(
      lapply(layers_of(plot), function(layer) as.character(layer$label))
    ),
    "c"
  )
  expect_identical(plot$labels$title, "Growth of kilos over 1 month")
  marks <- ggplot2::ggplot_build(plot)$layout$panel_params[[1]]$y$get_labels()
  expect_true(all(grepl("%$", marks[!is.na(marks)])))
})

test_that("what was filled in is dashed, and no solid line runs through it", {
  monthly <- impute_gaps(roll_up(inns(), "month"), "seasonal")
  plot <- autoplot(monthly)
  layers <- layers_of(plot)
  dashed <- Filter(
    function(layer) {
      "linetype" %in% names(layer) && all(layer$linetype == "dashed")
    },
    layers
  )
  expect_length(dashed, 1)
  imputed <- monthly$value[monthly$standing == "imputed"]
  expect_true(all(imputed %in% c(dashed[[1]]$y, dashed[[1]]$yend)))
  solid <- Filter(
    function(layer) "linewidth" %in% names(layer) && all(layer$linetype == 1),
    layers
  )
  at <- paste(as.numeric(monthly$period), monthly$value)[
    monthly$standing == "imputed"
  ]
  expect_false(any(
    at %in% unlist(lapply(solid, function(layer) paste(layer$x, layer$y)))
  ))
  expect_match(plot$labels$subtitle, "Dashed: filled in")
})

test_that("years lie over each other, each where its periods lie in the year, the latest strongest", {
  monthly <- roll_up(inns(), "month")
  one <- add_running_total(monthly[monthly$inn == "Lantern", ])
  plot <- autoplot(one, of = "running_total", type = "years")
  lines <- layers_of(plot)[[1]]
  known <- one[!is.na(one$running_total), ]
  expect_identical(
    length(unique(lines$group)), length(unique(format(known$period, "%Y")))
  )
  expect_setequal(
    paste(lines$x, lines$y),
    paste(as.POSIXlt(known$period)$yday, known$running_total)
  )
  strongest <- lines$y[lines$linewidth == max(lines$linewidth)]
  expect_setequal(
    strongest, known$running_total[known$period >= as.Date("2031-01-01")]
  )
  expect_error(
    autoplot(roll_up(inns(), "year"), type = "years"),
    class = "backfill_error_argument"
  )
})

test_that("a distribution counts every figure once, and its marks are the quantiles", {
  monthly <- add_growth(roll_up(inns(), "month"), over = "1 year")
  one <- monthly[monthly$inn == "Hearth", ]
  layers <- layers_of(autoplot(
    one, of = "growth_1_year", type = "distribution"
  ))
  expect_identical(sum(layers[[1]]$count), sum(!is.na(one$growth_1_year)) + 0)
  quantiles <- stats::quantile(
    one$growth_1_year, c(0.05, 0.25, 0.5, 0.75, 0.95), na.rm = TRUE
  )
  expect_equal(layers[[2]]$xintercept, unname(quantiles))
})

test_that("bands are bars that add up to all", {
  monthly <- add_growth(roll_up(inns(), "month"), over = "1 year")
  counts <- count_bands(add_bands(monthly, c(-5, 0, 5), of = "growth_1_year"))
  bars <- layers_of(autoplot(counts))[[1]]
  expect_equal(as.vector(tapply(bars$xmax - bars$xmin, bars$y, sum)), rep(1, 4))
  expect_equal(sort(bars$xmax - bars$xmin), sort(counts$share))
})

test_that("notes of events do not overlap, and those outside are left out", {
  monthly <- roll_up(inns(), "month")
  one <- monthly[monthly$inn == "Lantern", ]
  events <- data.frame(
    date = c("2029-01-10", "2029-02-10", "2031-10-01", "2040-01-01"),
    note = c(
      "a note that is long enough", "another one of them", "at the end",
      "far off"
    )
  )
  placed <- backfill:::place_events(events, one, 1)
  expect_identical(placed$note, events$note[1:3])
  expect_identical(placed$lane[1:2], c(1L, 2L))
  expect_identical(placed$before, c(FALSE, FALSE, TRUE))
  layers <- layers_of(autoplot(one, events = events))
  notes <- Filter(
    function(layer) any(as.character(layer$label) %in% events$note), layers
  )
  expect_identical(as.character(notes[[1]]$label), events$note[1:3])
  # In several panels letters stand for the notes, which the caption gives.
  panels <- autoplot(
    add_growth(monthly), of = "growth_1_month", events = events
  )
  expect_match(panels$labels$caption, "b another one of them", fixed = TRUE)
  close <- data.frame(date = as.Date("2029-03-01") + 0:3, note = LETTERS[1:4])
  expect_identical(backfill:::place_events(close, one, 3)$lane, 1:4)
  expect_error(
    autoplot(one, events = 1), "date", class = "backfill_error_argument"
  )
})

test_that("figures are as large as asked, in each format", {
  plot <- autoplot(roll_up(inns(), "quarter"))
  folder <- withr::local_tempdir()
  png <- write_figure(
    plot, file.path(folder, "a.png"), width = 640, height = 400
  )
  size <- readBin(png, "raw", 24)[17:24]
  expect_identical(readBin(size, "integer", 2, endian = "big"), c(640L, 400L))
  svg <- write_figure(
    plot, file.path(folder, "a.svg"), width = 650, height = 390
  )
  expect_match(
    paste(readLines(svg, n = 3), collapse = ""),
    "width=\"360(pt)?\" height=\"216(pt)?\""
  )
  pdf <- write_figure(plot, file.path(folder, "a.pdf"))
  expect_identical(readBin(pdf, "raw", 4), charToRaw("%PDF"))
  expect_error(
    write_figure(plot, file.path(folder, "a.gif")),
    class = "backfill_error_file"
  )
  expect_error(
    write_figure(plot, file.path(folder, "b.png"), width = 1),
    class = "backfill_error_argument"
  )
})

test_that("an axis is as asked for, and the caption says so", {
  x <- roll_up(inns(), "month")
  x <- x[x$inn %in% c("Lantern", "Anchor"), ]
  caption <- function(...) autoplot(x, ...)$labels$caption
  lower <- function(...) {
    built <- ggplot2::ggplot_build(autoplot(x, ...))
    built$layout$panel_params[[1]]$y.range[[1]]
  }
  expect_lte(lower(), 0)
  expect_no_match(caption(), "axis")
  expect_gt(lower(zero = FALSE), 300)
  expect_match(caption(zero = FALSE), "does not start at zero")
  expect_equal(lower(log = TRUE), log10(min(x$value, na.rm = TRUE)),
               tolerance = 0.02)
  expect_match(caption(log = TRUE), "logarithmic: equal steps are equal perc")
  outside <- sum(x$value > 5000, na.rm = TRUE)
  expect_match(
    caption(limits = c(0, 5000)),
    sprintf("cut at 0 and 5000; %d figures lie outside", outside)
  )
  expect_match(caption(type = "years", log = TRUE), "logarithmic")
  bad <- function(pattern, ...) {
    expect_error(autoplot(x, ...), pattern, class = "backfill_error_argument")
  }
  bad("never reaches zero", log = TRUE, zero = TRUE)
  bad("lower and the upper end", limits = c(5, 1))
  bad("of lines and years", type = "distribution", log = TRUE)
  x$value[3] <- 0
  bad("zero or less", log = TRUE)
  folder <- withr::local_tempdir()
  run <- function(...) {
    command_line(
      "periods", demo_file("inns.csv"), "--when", "month", "--series", "inn",
      "--measure", "guest_nights:flow", "--quiet", ..., dir = folder
    )
  }
  expect_identical(run("--figure", "a.png", "--zero", "no")$status, 0L)
  expect_identical(run("--log")$status, 2L)
  expect_match(
    paste(run("--figure", "a.png", "--limits", "3")$err, collapse = " "),
    "`--limits`"
  )
})

test_that("a figure, a study and a page draw the column that was calculated last", {
  m <- roll_up(as_records(
    data.frame(
      day = as.Date("2029-01-01") + 0:800, v = 1:801 + 5 * sin(1:801)
    ), "day", c(v = "flow")
  ), "month")
  drawn <- function(plot) ggplot2::ggplot_build(plot)$plot$labels
  for (made in list(
    add_growth(m), add_running_total(add_growth(m)), add_moving(m, 3),
    add_moving(add_growth(m), 3, of = "growth_1_month")
  )) {
    last <- names(made)[[ncol(made)]]
    of <- if (identical(names(made), c(names(m), "moving_mean"))) "value" else
      last
    expect_identical(drawn(autoplot(made)), drawn(autoplot(made, of = of)))
    section <- report_section(made)
    expect_identical(drawn(section$figures[[1]]), drawn(autoplot(made)))
  }
})

test_that("an argument that a figure does not take is answered with those that it does", {
  monthly <- roll_up(inns(), "month")
  expect_error(
    autoplot(monthly, column = "value"), "Name a column by `of`",
    class = "backfill_error_argument"
  )
  expect_error(
    autoplot(monthly, colour = "red"), "It takes `of`",
    class = "backfill_error_argument"
  )
})

test_that("a figure has the size of what it is for", {
  plot <- autoplot(roll_up(inns(), "quarter"))
  folder <- withr::local_tempdir()
  size_of <- function(file) {
    bytes <- readBin(file, "raw", 24)
    vapply(list(17:20, 21:24), function(at) {
      sum(as.integer(bytes[at]) * 256^(3:0))
    }, 0)
  }
  file <- file.path(folder, "nights.png")
  write_figure(plot, file, preset = "slide")
  expect_identical(size_of(file), c(1920, 1080))
  write_figure(plot, file, height = 500, preset = "column")
  expect_identical(size_of(file), c(1000, 500))
  expect_error(
    write_figure(plot, file, preset = "stamp"),
    class = "backfill_error_argument"
  )
  ran <- backfill_cli(
    "periods", demo_file("inns.csv"), "--figure", file, "--size", "poster",
    "--quiet"
  )
  expect_identical(ran$status, 0L)
  expect_identical(size_of(file), c(3600, 2250))
})
