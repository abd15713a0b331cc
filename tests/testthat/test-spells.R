# Onset and end of seasons: planted ones are dated, and series without one are
# said to have none.

days_of <- function(value, from) {
  when <- as.Date(from) + seq_along(value) - 1
  roll_up(records_of(when, rain = value), "day")
}

months_of <- function(value) {
  values_in(periods_from("month", length(value)), value)
}

# A wet season in each year between two dates that move a little.
wet_years <- function(years, noise = 0) {
  when <- seq(as.Date(sprintf("%d-01-01", min(years))),
              as.Date(sprintf("%d-12-31", max(years))), by = "day")
  onset <- as.Date(sprintf("%d-04-20", years)) + c(-9, 4, 0, 11, -3, 6)[
    seq_along(years)
  ]
  end <- as.Date(sprintf("%d-09-10", years)) + c(2, -8, 5, 0, 7, -4)[
    seq_along(years)
  ]
  wet <- rowSums(outer(when, onset, ">=") & outer(when, end, "<=")) > 0
  value <- ifelse(wet, 10, 1) + if (noise > 0) rexp(length(when)) * noise else 0
  list(x = days_of(value, when[[1]]), onset = onset, end = end)
}

test_that("planted seasons are dated to the day, and their spread is theirs", {
  planted <- wet_years(2021:2026)
  found <- season_spells(planted$x)
  expect_identical(found$onset, planted$onset)
  expect_identical(found$end, planted$end)
  expect_identical(
    found$periods, as.integer(planted$end - planted$onset) + 1L
  )
  expect_equal(found$total, 10 * found$periods)
  whole <- summary(found)
  late <- as.numeric(format(planted$onset, "%j"))
  expect_equal(whole$onset_sd, sd(late - 1 * (format(
    planted$onset, "%Y"
  ) == "2024")))
  expect_identical(whole$earliest_onset, planted$onset[[1]])
  expect_identical(whole$latest_end, planted$end[[5]])
  expect_lt(whole$p, 0.01)
  expect_output(print(found), "The years agree by more than chance")
  expect_s3_class(autoplot(found), "ggplot")
})

test_that("with noise the onset is near, and later years change no earlier one's data", {
  withr::local_seed(51)
  planted <- wet_years(2021:2026, noise = 4)
  found <- season_spells(planted$x)
  expect_lt(mean(abs(as.numeric(found$onset - planted$onset))), 4)
  expect_lt(max(abs(as.numeric(found$end - planted$end))), 12)
  # The rise is the sum above the mean of what lies in the season.
  points <- planted$x$value
  mean <- mean(vapply(split(
    points, format(planted$x$period, "%m-%d")
  ), mean, 0)[-60])
  inside <- planted$x$period >= found$onset[[2]] &
    planted$x$period <= found$end[[2]]
  expect_equal(found$rise[[2]], sum(points[inside] - mean), tolerance = 0.01)
})

test_that("two seasons a year are found where there are two", {
  month <- c(0, 0, 6, 8, 6, 0, 0, 0, 4, 5, 0, 0)
  found <- season_spells(months_of(rep(month, 6)), seasons = 2)
  expect_identical(
    unique(found$season), 1:2
  )
  whole <- summary(found)
  expect_identical(whole$average_onset, c("March", "September"))
  expect_identical(whole$average_end, c("May", "October"))
  expect_identical(
    format(found$onset[found$season == 2], "%m"), rep("09", 6)
  )
  one <- summary(season_spells(months_of(rep(month, 6))))
  expect_identical(one$average_onset, "March")
})

test_that("a season over the year's end is of the year that it starts in", {
  month <- c(5, 5, 0, 0, 0, 0, 0, 0, 0, 0, 5, 5)
  found <- season_spells(months_of(rep(month, 5)))
  dated <- found[!is.na(found$onset), ]
  expect_identical(format(dated$onset, "%Y-%m"), sprintf("%d-11", 2020:2023))
  expect_identical(dated$year, 2020:2023)
  expect_true(all(dated$periods == 4))
})

test_that("series without a season are told so as often as is said", {
  withr::local_seed(52)
  p <- function(r) {
    mean(replicate(80, {
      v <- as.numeric(stats::arima.sim(list(ar = r), 96))
      summary(season_spells(months_of(v)))$p < 0.05
    }))
  }
  expect_lt(p(0.01), 0.13)
  expect_lt(p(0.7), 0.13)
  sure <- replicate(30, summary(season_spells(months_of(
    rnorm(96) + sin(2 * pi * seq_len(96) / 12)
  )))$p)
  expect_gt(mean(sure < 0.05), 0.95)
})

test_that("years that lack too much are not dated, and nothing crosses series", {
  planted <- wet_years(2021:2024)
  x <- planted$x
  x$value[format(x$period, "%Y") == "2022" &
            format(x$period, "%m") %in% c("05", "06")] <- NA
  x$standing[is.na(x$value)] <- "empty"
  found <- season_spells(x)
  expect_identical(is.na(found$onset), c(FALSE, TRUE, FALSE, FALSE))
  expect_output(print(found), "Not dated: 1 season")
  nights <- roll_up(inns(), "month")
  all <- season_spells(nights)
  alone <- season_spells(nights[nights$inn == "Lantern", ])
  expect_equal(
    as.data.frame(all)[all$inn == "Lantern", ], as.data.frame(alone),
    ignore_attr = TRUE
  )
})

test_that("what cannot be dated is refused, and the command line dates it too", {
  expect_error(
    season_spells(roll_up(crossings(), "hour")), "days, weeks or months",
    class = "backfill_error_input"
  )
  expect_error(season_spells(months_of(rnorm(60)), reach = "1 year"),
               class = "backfill_error_over")
  expect_error(
    season_spells(months_of(rep(c(0, 1), c(6, 30))), seasons = 5), "fewer than",
    class = "backfill_error_season"
  )
  folder <- withr::local_tempdir()
  run <- function(...) {
    command_line(
      "season", demo_file("inns.csv"), "--when", "month", "--series", "inn",
      "--measure", "guest_nights:flow", ..., dir = folder
    )
  }
  ran <- run("--spells", "1", "--averages", "--format", "csv", "--quiet")
  expect_identical(ran$status, 0L)
  given <- data.table::fread(text = ran$out)
  expect_identical(
    given$average_onset[given$inn == "Lantern"], "May"
  )
  expect_identical(run("--reach", "2")$status, 2L)
  expect_identical(run("--spells", "1", "--cycle", "12")$status, 2L)
})

test_that("a series without a season does not keep another from its own", {
  month <- c(0, 0, 6, 8, 6, 0, 0, 0, 0, 0, 0, 0)
  when <- seq(as.Date("2020-01-01"), by = "month", length.out = 48)
  two <- roll_up(records_of(
    rep(when, 2), port = rep(c("Holm", "Sund"), each = 48),
    rain = c(rep(month, 4), rep(5, 48)), series = "port", kind = "level"
  ), "month")
  found <- season_spells(two)
  expect_identical(unique(found$port), "Holm")
  expect_output(print(found), "Sund has no season")
  expect_equal(
    as.data.frame(found), as.data.frame(season_spells(
      two[two$port == "Holm", ]
    )),
    ignore_attr = TRUE
  )
  expect_error(season_spells(two[two$port == "Sund", ]), "has no season",
               class = "backfill_error_season")
})
