monthly_of <- function(
  value, from = "2028-01-01", kind = "level", by = "month"
) {
  when <- seq(as.Date(from), by = by, length.out = length(value))
  roll_up(
    records_of(when[!is.na(value)], x = value[!is.na(value)], kind = kind), by,
    cadence = by
  )
}

test_that("a seasonal index by hand, step by step", {
  # Quarters of three years around a level of 10 that jumps to 20 in the third:
  # the averages of 2 by 4 quarters are
  value <- c(8, 12, 14, 6, 8, 12, 14, 6, 16, 24, 28, 12)
  centred <- c(NA, NA, 10, 10, 10, 10, 11, 13.5, 16.75, 19.25, NA, NA)
  quarterly <- monthly_of(value, by = "quarter")
  ratio <- value / centred
  raw <- c(
    mean(ratio[c(5, 9)]), mean(ratio[c(6, 10)]), mean(ratio[c(3, 7)]),
    mean(ratio[c(4, 8)])
  )
  index <- seasonal_index(quarterly)
  expect_equal(index$index, raw / mean(raw))
  expect_identical(index$n, rep(2L, 4))
  expect_equal(index$sd[[1]], stats::sd(ratio[c(5, 9)]))
  expect_identical(as.character(index$position), paste0("Q", 1:4))
  sheet <- summary(index, type = "worksheet")
  expect_named(
    sheet,
    c(
      "measure", "period", "position", "value", "centred_average", "ratio",
      "raw_index", "normaliser", "index", "adjusted", "standing"
    )
  )
  expect_equal(sheet$raw_index, rep(raw, 3))
  expect_equal(sheet$normaliser, rep(1 / mean(raw), 12))
  expect_identical(as.character(sheet$position), rep(paste0("Q", 1:4), 3))
  expect_equal(sheet$centred_average, centred)
  expect_equal(sheet$ratio, ratio)
  expect_equal(sheet$adjusted, value / rep(raw / mean(raw), 3))
  expect_identical(which(sheet$standing == "lost"), c(1L, 2L, 11L, 12L))
  # The same by differences, and left as it comes out.
  off <- value - centred
  raw <- c(
    mean(off[c(5, 9)]), mean(off[c(6, 10)]), mean(off[c(3, 7)]),
    mean(off[c(4, 8)])
  )
  expect_equal(
    seasonal_index(quarterly, form = "additive")$index, raw - mean(raw)
  )
  expect_equal(
    seasonal_index(quarterly, form = "additive", normalise = FALSE)$index, raw
  )
  # Against the average of the averages of the positions.
  means <- tapply(value, rep(1:4, 3), mean)
  overall <- seasonal_index(quarterly, method = "overall average")
  expect_equal(overall$index, as.vector(means / mean(means)))
  # The median, and the mean without the extremes, of three ratios are the
  # middle one.
  middle <- tapply(value / mean(means), rep(1:4, 3), stats::median)
  for (combine in c("median", "trimmed mean")) {
    found <- seasonal_index(
      quarterly, method = "overall average", combine = combine,
      normalise = FALSE
    )
    expect_equal(found$index, as.vector(middle), label = combine)
  }
})

test_that("indices agree with stats::decompose where every period is whole", {
  withr::local_seed(61)
  for (cycle in c(4, 7, 12, 24, 53)) {
    value <- exp(rnorm(5 * cycle + 3)) + rep(
      seq_len(cycle), length.out = 5 * cycle + 3
    )
    # Positions are weekdays, else those of the numbers of days since 1970.
    x <- monthly_of(value, by = "day", from = if (cycle == 7) {
      "1970-01-05"
    } else {
      "1970-01-01"
    })
    for (form in c("multiplicative", "additive")) {
      base <- stats::decompose(stats::ts(value, frequency = cycle), form)
      found <- seasonal_index(x, cycle = cycle, form = form, combine = "mean")
      expect_equal(
        found$index, base$figure, tolerance = 1e-12, label = paste(cycle, form)
      )
      sheet <- summary(found, type = "worksheet")
      expect_equal(
        sheet$centred_average, as.vector(base$trend), tolerance = 1e-12,
        label = paste(cycle, form)
      )
    }
  }
})

test_that("the known index of the demo inns comes back within its error", {
  truth <- truths()$inns
  steady <- names(truth$month_index)
  records <- inns()
  index <- seasonal_index(
    roll_up(records[records$inn %in% steady, ], "month")
  )
  known <- unlist(lapply(sort(steady), function(inn) {
    truth$month_index[[inn]] / mean(truth$month_index[[inn]])
  }))
  # A month's index is a mean of n ratios, each as far off as one error of the
  # file.
  off <- (index$index / known - 1) / (truth$error_sd / sqrt(index$n))
  # Of 24, one in 50 times one would lie beyond 3.5 by chance.
  expect_lt(max(abs(off)), 3.5)
  expect_lt(abs(mean(off)), 0.3)
  days <- roll_up(crossings(), "day")
  weekday <- seasonal_index(
    days[days$measure == "market", ], combine = "median"
  )
  expect_equal(
    weekday$index,
    with(truths()$crossings$market, weekday_index / mean(weekday_index)),
    tolerance = 0.02
  )
  expect_true(all(
    c("2030-11-18", "2030-11-20", "2030-11-22") %in% weekday$disagree
  ))
})

test_that("each position missing once, a whole year missing, and 24 points", {
  season <- c(0.3, 0.4, 0.6, 0.8, 1.1, 1.4, 1.9, 2, 1.3, 0.9, 0.6, 0.7)
  value <- (100 + 0.5 * (1:60)) * rep(season, 5)
  known <- season / mean(season)
  # The centred average of a trend in season is not quite the trend.
  expect_equal(seasonal_index(monthly_of(value))$index, known, tolerance = 4e-3)
  missing <- seasonal_index(monthly_of(replace(
    value, 12 * rep(1:3, 4) + 1:12, NA
  )))
  expect_equal(missing$index, known, tolerance = 5e-3)
  expect_identical(summary(missing)$bridged, 12L)
  year <- seasonal_index(monthly_of(replace(value, 25:36, NA)))
  expect_equal(year$index, known, tolerance = 5e-3)
  # Centred averages that would be bridged for the most part are not made.
  expect_identical(sum(!is.na(summary(year, type = "worksheet")$ratio)), 36L)
  # Bridged by the mean of the same month before and after; by the one there is
  # at an end of the series.
  gap <- summary(
    seasonal_index(monthly_of(replace(value, c(3, 30), NA)), combine = "mean"),
    type = "worksheet"
  )
  filled <- replace(
    value, c(3, 30), c(value[[15]], (value[[18]] + value[[42]]) / 2)
  )
  expect_equal(
    gap$centred_average,
    as.vector(stats::filter(filled, c(0.5, rep(1, 11), 0.5) / 12))
  )
  # A lone month in a year and a half without any has no average worth the name.
  lone <- summary(
    seasonal_index(monthly_of(replace(value, c(21:28, 30:38), NA))),
    type = "worksheet"
  )
  expect_true(is.na(lone$ratio[[29]]))
  expect_identical(as.character(lone$standing[[29]]), "lost")
  expect_false(anyNA(lone$ratio[c(7:14, 45:54)]))
  short <- seasonal_index(monthly_of(value[1:24]))
  expect_equal(short$index, known, tolerance = 5e-3)
  expect_identical(short$n, rep(1L, 12))
  expect_true(is.na(summary(short)$positions_p))
  expect_error(
    seasonal_index(monthly_of(value[1:23])), "23 periods, 1.9 cycles",
    class = "backfill_error_season"
  )
  # A month without a row is as good as one that is empty, whatever the order of
  # the rows.
  x <- monthly_of(replace(value, c(14, 30), NA))
  expect_identical(
    seasonal_index(x[sample(which(!is.na(x$value))), ])$index,
    seasonal_index(x)$index
  )
  # One series too short beside one that is not.
  when <- seq(as.Date("2028-01-01"), by = "month", length.out = 36)
  two <- roll_up(
    records_of(
      c(when, when[1:9]), g = rep(c("long", "short"), c(36, 9)),
      x = c(value[1:36], 1:9), series = "g"
    ),
    "month"
  )
  expect_warning(
    found <- seasonal_index(two), "short has 9 periods",
    class = "backfill_warning_season"
  )
  expect_identical(is.na(found$index), rep(c(FALSE, TRUE), each = 12))
})

test_that("tests of the season are those of base R, but for what the centred average takes", {
  withr::local_seed(62)
  value <- (50 + 10 * rep(sin(1:12), 6) + rnorm(72)) * 1.01^(1:72)
  index <- seasonal_index(
    monthly_of(value), form = "additive", normalise = FALSE
  )
  tests <- summary(index)
  sheet <- summary(index, type = "worksheet")
  part <- sheet$difference[!is.na(sheet$difference)]
  month <- factor(rep(1:12, 6)[!is.na(sheet$difference)])
  expect_equal(
    tests$ranks_h, unname(stats::kruskal.test(part, month)$statistic)
  )
  expect_equal(tests$ranks_p, stats::kruskal.test(part, month)$p.value)
  table <- stats::anova(stats::lm(part ~ month))
  free <- 60 - 12 - 4
  f <- table$`Mean Sq`[[1]] / (table$`Sum Sq`[[2]] / free)
  expect_equal(tests$positions_f, f)
  expect_equal(tests$positions_p, stats::pf(f, 11, free, lower.tail = FALSE))
  expect_equal(tests$explained, table$`Sum Sq`[[1]] / sum(table$`Sum Sq`))
  at <- seq_along(part)
  table <- stats::anova(
    stats::lm(part ~ month), stats::lm(part ~ month + month:at)
  )
  f <- (table$`Sum of Sq`[[2]] / 11) / (table$RSS[[2]] / (free - 11))
  expect_equal(tests$drift_f, f)
  # The verdicts go by the worse of figures and ranks, with as many degrees of
  # freedom as neighbours are worth that go together.
  off <- stats::resid(stats::lm(part ~ month))
  memory <- sum(off[-1] * off[-length(off)]) / sum(off^2)
  expect_equal(tests$memory, memory)
  worth <- if (memory > 0) (1 - memory^2) / (1 + memory^2) else 1
  ranked <- stats::anova(
    stats::lm(rank(off) ~ month), stats::lm(rank(off) ~ month + month:at)
  )
  f_ranks <- (ranked$`Sum of Sq`[[2]] / 11) / (ranked$RSS[[2]] / (free - 11))
  p_of <- function(f, free, within) {
    stats::pf(f, free * worth, within * worth, lower.tail = FALSE)
  }
  expect_equal(tests$drift_p, max(p_of(c(f, f_ranks), 11, free - 11)))
  ranked <- stats::anova(stats::lm(rank(part) ~ month))
  f_ranks <- ranked$`Mean Sq`[[1]] / (ranked$`Sum Sq`[[2]] / free)
  expect_equal(
    tests$season_p, max(p_of(c(tests$positions_f, f_ranks), 11, free))
  )
  known <- !is.na(sheet$value)
  expect_equal(
    tests$removed,
    1 - stats::var(sheet$adjusted[known]) / stats::var(sheet$value[known])
  )
  expect_equal(tests$range_before, diff(range(value)))
  # With ties, which differences from one overall average of whole numbers have.
  tied <- seasonal_index(
    monthly_of(sample(1:5, 60, TRUE)), form = "additive",
    method = "overall average"
  )
  sheet <- summary(tied, type = "worksheet")
  expect_equal(summary(tied)$ranks_h,
               unname(
                 stats::kruskal.test(
                   round(sheet$difference, 9), factor(rep(1:12, 5))
                 )$statistic
               ))
  # A season that moves is told so, as is a ratio that stands apart.
  moving <- monthly_of(
    100 + 10 * as.vector(outer(sin(1:12), seq(0, 2, length.out = 8))) +
      rnorm(96, sd = 0.5)
  )
  expect_lt(summary(seasonal_index(moving, form = "additive"))$drift_p, 1e-6)
  odd <- replace(value, 31, 3 * value[[31]])
  found <- seasonal_index(monthly_of(odd))
  expect_identical(found$disagree[[7]], "2030")
})

test_that("ratios that stand apart are those beyond what the largest of all robust deviations would be", {
  monthly <- roll_up(inns(), "month")
  march <- monthly$inn == "Lantern" & monthly$period == as.Date("2030-03-01")
  monthly$value[march] <- 1.4 * monthly$value[march]
  index <- seasonal_index(monthly, combine = "mean")
  sheet <- summary(index, type = "worksheet")
  apart <- character()
  for (inn in unique(sheet$inn)) {
    here <- which(sheet$inn == inn & !is.na(sheet$ratio))
    month <- as.POSIXlt(sheet$period[here])$mon
    middle <- stats::ave(sheet$ratio[here], month, FUN = stats::median)
    off <- abs(sheet$ratio[here] / middle - 1)
    count <- stats::ave(off, month, FUN = length)
    off[count < 3] <- NA
    place <- stats::ave(sheet$ratio[here], month, FUN = rank)
    makes <- place == count %/% 2 + 1 | place == (count + 1) %/% 2
    known <- sort(off[!is.na(off) & !makes])
    parts <- sum(!is.na(off))
    limit <- 1.05 * 1.4826 * known[length(known) %/% 2 + 1] *
      stats::qt(1 - 0.025 / parts, parts / 2 - 1)
    year <- format(sheet$period[here], "%Y")
    named <- paste(inn, year, month.name[month + 1])
    apart <- c(apart, named[which(off > limit)])
  }
  odd <- nzchar(index$disagree)
  expect_setequal(
    apart, paste(index$inn, index$disagree, index$position)[odd]
  )
  expect_gt(sum(odd), 0)
})

test_that("a season is not said to move, nor ratios to stand apart, more often than by chance", {
  withr::local_seed(37)
  for (n in c(26, 30, 35, 42, 60, 84)) {
    when <- seq(as.Date("2020-01-01"), by = "month", length.out = n)
    noise <- records_of(
      rep(when, 300), g = rep(1:300, each = n), x = 100 + rnorm(300 * n),
      series = "g", kind = "level"
    )
    index <- suppressWarnings(seasonal_index(roll_up(noise, "month")))
    moves <- summary(index)$drift_p < 0.05
    expect_lt(sum(moves, na.rm = TRUE), 0.1 * 300, label = n)
    apart <- tapply(nzchar(index$disagree), index$g, any)
    expect_lt(sum(apart), 0.1 * 300, label = n)
  }
  # One season under a trend, as differences: the ratios move, and the sentence
  # names the form that fits.
  when <- seq(as.Date("2020-01-01"), by = "month", length.out = 84)
  x <- records_of(when, x = 100 + 1:84 + 20 * sin(2 * pi * 1:84 / 12) +
    rnorm(84), kind = "level")
  expect_output(
    print(seasonal_index(roll_up(x, "month"), form = "multiplicative")),
    "but not as\\s+differences; `form`\\s+as\\s+\"additive\" fits better"
  )
  ratios <- seasonal_index(roll_up(x, "month"), form = "multiplicative")
  expect_lt(summary(ratios)$drift_p, 0.05)
  decided <- seasonal_index(roll_up(x, "month"), form = "auto")
  expect_gte(summary(decided)$drift_p, 0.05)
})

test_that("neither one outlier nor uneven months make a season, or one that moves", {
  withr::local_seed(68)
  lines <- 200
  when <- seq(as.Date("2020-01-01"), by = "month", length.out = 60)
  spread <- ifelse(1:60 %% 12 %in% 1:3, 4, 1)
  uneven <- matrix(stats::rnorm(60 * lines), 60) * spread
  far <- matrix(stats::rnorm(60 * lines), 60)
  far[cbind(sample(60, lines, TRUE), seq_len(lines))] <- 9
  wandering <- apply(matrix(stats::rnorm(60 * lines), 60), 2, cumsum)
  for (value in list(uneven, far, wandering)) {
    x <- roll_up(records_of(
      rep(when, lines), g = rep(seq_len(lines), each = 60),
      x = as.vector(value), series = "g", kind = "level"
    ), "month")
    tests <- summary(seasonal_index(x, form = "additive"))
    # Twice what is stated, and two standard errors of 200 cases.
    expect_lt(mean(tests$season_p < 0.05), 0.1 + 0.042)
    expect_lt(mean(tests$drift_p < 0.05), 0.1 + 0.042)
  }
  # By the analysis of variance alone uneven months do.
  x <- roll_up(records_of(
    rep(when, lines), g = rep(seq_len(lines), each = 60),
    x = as.vector(uneven), series = "g", kind = "level"
  ), "month")
  plain <- summary(seasonal_index(x, form = "additive"))
  expect_gt(mean(plain$positions_p < 0.05), 0.1)
})

test_that("no season is found in noise more often than by chance", {
  withr::local_seed(63)
  when <- seq(as.Date("2020-01-01"), by = "month", length.out = 72)
  noise <- records_of(
    rep(when, 400), g = rep(1:400, each = 72),
    x = exp(rnorm(400 * 72, 4, 0.05)), series = "g", kind = "level"
  )
  tests <- summary(seasonal_index(roll_up(noise, "month")))
  # Of 400 at a level of 5%, 3.3 standard errors either way.
  for (p in tests[c("positions_p", "ranks_p", "drift_p")]) {
    expect_lt(abs(mean(p < 0.05) - 0.05), 0.036)
  }
  expect_lt(mean(tests$season_p < 0.05), 0.05 + 0.036)
})

test_that("the season taken out and put back is what was there, from other spans and series too", {
  withr::local_seed(64)
  value <- exp(rnorm(60))
  x <- monthly_of(value)
  index <- seasonal_index(x[1:36, ])
  there <- deseasonalise(x, index)
  expect_equal(there$adjusted, value / rep(index$index, 5))
  expect_equal(
    reseasonalise(there, index)$reseasonalised, value, tolerance = 1e-15
  )
  negative <- monthly_of(value - 2)
  additive <- seasonal_index(negative, form = "additive")
  back <- reseasonalise(deseasonalise(negative, additive), additive)
  expect_equal(back$reseasonalised, value - 2, tolerance = 1e-14)
  monthly <- roll_up(inns(), "month")
  own <- deseasonalise(monthly, seasonal_index(monthly))
  expect_equal(
    own$adjusted, summary(seasonal_index(monthly), type = "worksheet")$adjusted
  )
  # Each series takes its own, whatever the order; the index of one is for all.
  backwards <- deseasonalise(
    monthly[rev(seq_len(nrow(monthly))), ], seasonal_index(monthly)
  )
  expect_identical(backwards$adjusted, rev(own$adjusted))
  lantern <- seasonal_index(monthly[monthly$inn == "Lantern", ])
  all <- deseasonalise(monthly, lantern)
  expect_equal(
    all$adjusted,
    monthly$value / lantern$index[as.POSIXlt(monthly$period)$mon + 1]
  )
  # Of one that lacks a series there is none for it.
  two <- seasonal_index(monthly)
  two <- two[two$inn %in% c("Lantern", "Hearth"), ]
  expect_identical(is.na(deseasonalise(monthly, two)$adjusted),
                   is.na(monthly$value) | !monthly$inn %in%
                     c("Lantern", "Hearth"))
  expect_error(
    deseasonalise(roll_up(monthly, "quarter"), lantern), "of months",
    class = "backfill_error_input"
  )
  week <- function(weekdays) {
    day <- as.Date("2031-01-06") + 0:60
    x <- records_of(day[as.POSIXlt(day)$wday %in% weekdays], x = 5)
    roll_up(x, calendar("working day", workdays = weekdays))
  }
  expect_error(
    deseasonalise(week(1:5), seasonal_index(week(1:6))), "do not have",
    class = "backfill_error_input"
  )
  expect_error(
    deseasonalise(monthly, lantern$index), "not a seasonal index",
    class = "backfill_error_input"
  )
  expect_error(
    deseasonalise(monthly_of(value - 2), index), "below zero|above zero",
    class = "backfill_error_season"
  )
})

test_that("an index kept in a file is the same when it is read back", {
  monthly <- roll_up(inns(), "month")
  index <- seasonal_index(monthly, combine = "median")
  file <- withr::local_tempfile(fileext = ".json")
  write_index(index, file)
  back <- read_index(file)
  expect_identical(back$index, index$index)
  expect_identical(deseasonalise(monthly, back), deseasonalise(monthly, index))
  expect_identical(
    utils::capture.output(print(back))[1:2],
    utils::capture.output(print(index))[1:2]
  )
  expect_error(
    summary(back), "neither its tests", class = "backfill_error_input"
  )
  days <- roll_up(landings(), calendar(
    "working day", workdays = 1:5,
    holidays = read_holidays(
      demo_file("holidays.ics")
    )
  ))
  own <- seasonal_index(days[days$measure == "price", ])
  write_index(own, file)
  kept <- attr(read_index(file), "backfill")$calendar
  was <- attr(own, "backfill")$calendar[names(kept)]
  was["source"] <- list(NULL) # which the sources of the index name
  expect_identical(kept, structure(was, class = "backfill_calendar"))
  expect_true(
    demo_file("holidays.ics") %in% attr(read_index(file), "backfill")$sources
  )
  writeLines("{\"backfill\": \"seasonal index\"}", file)
  expect_error(
    read_index(file), "holds no seasonal index", class = "backfill_error_file"
  )
  writeLines("nonsense", file)
  expect_error(
    read_index(file), "holds no seasonal index", class = "backfill_error_file"
  )
})

test_that("positions are those of the calendar", {
  position <- function(x, cycle = NULL) {
    cycle <- backfill:::check_cycle(cycle, attr(x, "backfill")$calendar)
    along <- backfill:::along_series(x, "value")
    cycle$labels[backfill:::positions_along(along, cycle)$position]
  }
  days <- monthly_of(1:800, by = "day", from = "2031-02-26")
  at <- position(days, "1 year")
  expect_identical(at[days$period == as.Date("2032-02-29")], "02-28")
  expect_identical(at[days$period == as.Date("2032-03-01")], "03-01")
  expect_identical(
    position(days)[1:7],
    c(
      "Wednesday", "Thursday", "Friday", "Saturday", "Sunday", "Monday",
      "Tuesday"
    )
  )
  weeks <- monthly_of(1:120, by = "week", from = "2032-06-07")
  label <- period_name(weeks$period, "week")
  expect_identical(position(weeks)[label == "2032-W53"], "W52")
  expect_identical(
    position(weeks)[label != "2032-W53"],
    sub(".*-", "", label[label != "2032-W53"])
  )
  # On the day on which the clock is put back, an hour comes twice, and the next
  # keeps its name.
  hours <- roll_up(
    records_of(
      as.POSIXct("2031-10-25 22:00", tz = "UTC") + 3600 * 0:9, x = 1:10,
      zone = "WET"
    ),
    "hour"
  )
  expect_identical(
    position(hours, "1 day"),
    sprintf("%02d:00", c(23, 0, 1, 1, 2, 3, 4, 5, 6, 7))
  )
  expect_identical(position(hours, "1 week")[[10]], "Sunday 07:00")
  fiscal <- roll_up(
    records_of(as.Date("2031-04-01") + 0:400, x = 1),
    calendar("quarter", year_start = 4)
  )
  expect_identical(position(fiscal)[1:4], paste0("Q", 1:4))
  expect_identical(
    position(monthly_of(1:7, from = "1970-01-01"), 5),
    c("1", "2", "3", "4", "5", "1", "2")
  )
})

test_that("bad calls are refused, and what would mend them is said", {
  flow <- roll_up(crossings(), "hour")
  expect_error(
    seasonal_index(flow, form = "multiplicative"), "additive",
    class = "backfill_error_season"
  )
  market <- roll_up(landings(), "day")
  expect_error(
    seasonal_index(market), "working day", class = "backfill_error_season"
  )
  monthly <- roll_up(inns(), "month")
  expect_error(
    seasonal_index(monthly, cycle = "2 weeks"), "whole number of months",
    class = "backfill_error_window"
  )
  expect_error(
    seasonal_index(monthly, cycle = 1), "at least 2",
    class = "backfill_error_window"
  )
  expect_error(
    seasonal_index(roll_up(monthly, "year")), "not known",
    class = "backfill_error_argument"
  )
  expect_error(
    seasonal_index(monthly, form = "both"), class = "backfill_error_argument"
  )
  expect_error(seasonal_index(inns()), class = "backfill_error_input")
  expect_error(seasonal_index(monthly[0, ]), class = "backfill_error_input")
})

test_that("a multiplicative form stays above zero, or is refused with the additive one named", {
  withr::local_seed(121)
  month <- seq(as.Date("2026-01-01"), by = "month", length.out = 60)
  falling <- 4 - 0.05 * (1:60)
  falling <- pmax(falling, 0.02) * (1 + 0.2 * cos(2 * pi * (1:60) / 12))
  one <- roll_up(records_of(month, x = falling, kind = "level"), "month")
  expect_error(
    project(one, "2 years", base = "line"), "additive",
    class = "backfill_error_season"
  )
  steep <- pmax(4 - 0.2 * (1:60), 0.05) * (
    1 + 0.2 * cos(2 * pi * (1:60) / 12)
  )
  two <- roll_up(
    records_of(
      rep(month, 2), g = rep(c("a", "b"), each = 60),
      x = c(steep, rep(5, 60) + (1:60) / 20), series = "g", kind = "level"
    ),
    "month"
  )
  expect_error(
    add_remainder(two[two$g == "a", ]), "additive",
    class = "backfill_error_season"
  )
  expect_warning(
    left <- add_remainder(two), "in a: none is given",
    class = "backfill_warning_season"
  )
  expect_true(all(is.na(left$remainder[left$g == "a"])))
  expect_lt(max(abs(left$remainder[left$g == "b"])), 0.1)
  expect_warning(
    ahead <- project(two, "2 years", base = "line"),
    class = "backfill_warning_season"
  )
  projected <- ahead[ahead$standing == "projected", ]
  expect_identical(unique(projected$g), "b")
  expect_true(all(
    projected$lower <= projected$value & projected$value <= projected$upper
  ))
  expect_no_warning(project(two, "2 years"))
  expect_no_warning(add_remainder(
    two, seasonal_index(two, form = "additive")
  ))
})

test_that("an overall average takes a trend for a moving season, and the advice is the centred one", {
  month <- seq(as.Date("2024-01-01"), by = "month", length.out = 84)
  withr::local_seed(122)
  value <- 100 * (1 + 0.01 * (1:84)) *
    (1 + 0.3 * cos(2 * pi * (1:84) / 12)) * exp(rnorm(84, sd = 0.02))
  x <- roll_up(records_of(month, x = value), "month")
  said <- function(...) {
    gsub(
      "\\s+", " ",
      paste(
        utils::capture.output(print(seasonal_index(x, ...))), collapse = " "
      )
    )
  }
  overall <- said(method = "overall average")
  expect_match(
    overall,
    paste(
      "a trend does that to the overall average: `method` as \"centred",
      "average\""
    ),
    fixed = TRUE
  )
  expect_false(grepl("fewer of them", overall))
  expect_match(overall, "of the variation is season", fixed = TRUE)
  expect_match(
    said(), "of the variation around the trend is season", fixed = TRUE
  )
})

test_that("two seasons at once: a week of hours, and whether the day has one course on all weekdays", {
  withr::local_seed(22)
  hours <- 168 * 9
  when <- as.POSIXct("2031-02-03", tz = "WET") + 3600 * seq_len(hours) - 3600
  hour <- rep(0:23, hours / 24)
  weekday <- rep(rep(1:7, each = 24), hours / 168)
  level <- c(5, 6, 6, 6, 5, 1, 0)[weekday] + 3 * sin(2 * pi * hour / 24)
  index_of <- function(x, gap = integer()) {
    x[gap] <- NA
    seasonal_index(
      roll_up(as_records(
        tibble::tibble(when, x), "when", c(x = "level"), zone = "WET"
      ), "hour"), cycle = "week", form = "additive", method = "overall average"
    )
  }
  noise <- stats::rnorm(hours)
  noon <- 2 * (weekday >= 6 & hour %in% 11:13)
  gap <- c(30, 500)
  found <- index_of(level + noise + noon, gap)
  expect_identical(nrow(found), 168L)
  expect_identical(as.character(found$position[[25]]), "Tuesday 00:00")
  tests <- summary(found)
  # By hand, over whole days. One hour of spring is skipped, and its day.
  sheet <- summary(found, type = "worksheet")
  day <- format(sheet$period, "%Y-%m-%d", tz = "WET")
  whole <- day %in% names(which(table(day[!is.na(sheet$difference)]) == 24))
  part <- sheet$difference[whole]
  shape <- part - stats::ave(part, day[whole])
  slot <- format(sheet$period[whole], "%H", tz = "WET")
  own <- stats::ave(shape, format(sheet$period[whole], "%u", tz = "WET"), slot)
  between <- sum((own - stats::ave(shape, slot))^2)
  expect_equal(tests$shape_share, between / sum(shape^2))
  expect_lt(tests$shape_p, 0.05)
  expect_match(
    describe(found), "course of a day differs between weekdays", all = FALSE
  )
  withr::local_seed(5)
  same <- index_of(level + noise)
  expect_gt(summary(same)$shape_p, 0.05)
  expect_match(describe(same), "No difference between weekdays", all = FALSE)
  expect_identical(stats::runif(1), withr::with_seed(5, stats::runif(1)))
  # Another series beside it changes nothing.
  two <- as_records(
    tibble::tibble(
      when = rep(when, 2), s = rep(c("a", "b"), each = hours),
      x = c(level + noise, 40 * noon + rev(noise))
    ), "when", c(x = "level"), series = "s", zone = "WET"
  )
  both <- summary(seasonal_index(
    roll_up(two, "hour"), cycle = "week", form = "additive",
    method = "overall average"
  ))
  expect_identical(both$shape_p[[1]], summary(same)$shape_p)
  daily <- seasonal_index(
    roll_up(as_records(
      tibble::tibble(when, x = level + noise + 20), "when", c(x = "level"),
      zone = "WET"
    ), "hour"),
    cycle = "day"
  )
  expect_false("shape_p" %in% names(summary(daily)))
})

test_that("an index of the periods themselves is taken where none is given", {
  monthly <- roll_up(read_records(
    demo_file("inns.csv"), "month", c(guest_nights = "flow"), "inn"
  ), every = "month")
  expect_equal(
    deseasonalise(monthly), deseasonalise(monthly, seasonal_index(monthly))
  )
  # A trend is that of what has no season, where that is there.
  adjusted <- deseasonalise(monthly)
  expect_equal(trend_line(adjusted), trend_line(adjusted, of = "adjusted"))
  expect_equal(trend_line(monthly), trend_line(monthly, of = "value"))
})

test_that("verdicts over many series are set beside what chance alone gives", {
  found <- withr::with_seed(5, {
    made <- expand.grid(
      stringsAsFactors = FALSE,
      month = seq(as.Date("2026-01-01"), by = "month", length.out = 60),
      mill = sprintf("mill %02d", 1:40)
    )
    made$sacks <- 100 + 5 * stats::rnorm(nrow(made)) +
      20 * sinpi(as.POSIXlt(made$month)$mon / 6) * (made$mill == "mill 07")
    monthly <- roll_up(
      as_records(made, "month", c(sacks = "flow"), "mill"), every = "month"
    )
    seasonal_index(monthly)
  })
  p <- summary(found)$season_p
  stand <- p.adjust(p, "BH") < 0.1
  expect_identical(summary(found)$mill[stand], "mill 07")
  said <- cli::ansi_strip(capture.output(print(found)))
  expect_match(
    gsub(" +", " ", paste(said, collapse = " ")), sprintf(
      paste(
        "Of 40 series %d have a season .* By chance alone about 2 of 40 would;",
        "with that counted in, one stands out .*: mill 07[.]"
      ),
      sum(p < 0.05)
    )
  )
})

test_that("what has no noise at all is told as it is", {
  month <- seq(as.Date("2026-01-01"), by = "month", length.out = 48)
  of <- function(value) {
    roll_up(as_records(
      data.frame(month, value), "month", c(value = "level")
    ), "month")
  }
  line <- of(9000 + 1:48)
  found <- trend_line(line)
  expect_equal(found$slope, 1)
  expect_lt(found$p, 1e-6)
  expect_equal(c(found$lower, found$upper), c(1, 1))
  expect_output(print(found), "rises by 12 a year")
  expect_output(
    print(seasonal_index(line, form = "additive")), "every month is the same"
  )
  # A single jump at the end of a line leaves no doubt of the line.
  expect_lt(trend_line(of(c(1:47, 49) + 0))$p, 0.05)
  same <- trend_line(of(rep(5, 48)))
  expect_true(is.na(same$p))
  expect_output(print(same), "stays the same")
  expect_output(
    print(seasonal_index(of(rep(5, 48)))), "every month is the same"
  )
})

test_that("an index of years that start in another month is refused", {
  x <- as_records(data.frame(
    month = seq(as.Date("2026-01-01"), by = "month", length.out = 72),
    kilos = 100 + 10 * sin(1:72)
  ), "month", c(kilos = "flow"))
  quarters <- function(...) roll_up(x, calendar("quarter", ...))
  index <- seasonal_index(quarters(year_start = 4))
  expect_error(
    deseasonalise(quarters(year_start = 2), index),
    "years from April.*years from February", class = "backfill_error_input"
  )
  weeks <- function(pattern, ...) {
    daily <- as_records(data.frame(
      day = as.Date("2026-01-01") + 0:2000, kilos = 1:2001 %% 13 + 5
    ), "day", c(kilos = "flow"))
    roll_up(daily, calendar("month", whole_weeks = pattern, ...))
  }
  index <- seasonal_index(weeks("4-4-5"))
  expect_error(
    deseasonalise(weeks("4-5-4"), index), class = "backfill_error_input"
  )
  expect_silent(deseasonalise(weeks("4-4-5"), index))
  file <- withr::local_tempfile(fileext = ".json")
  write_index(index, file)
  expect_silent(deseasonalise(weeks("4-4-5"), read_index(file)))
})
