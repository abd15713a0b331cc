# How much adjusted figures were revised: against an index made anew at each
# earlier end, one end at a time.

seasonal_months <- function(years, noise = 0.05, seed = 3) {
  withr::local_seed(seed)
  season <- 1 + 0.3 * sin(2 * pi * (seq_len(12 * years) - 1) / 12)
  100 * season * exp(cumsum(stats::rnorm(12 * years, 0.003, noise / 2)) +
                       stats::rnorm(12 * years, 0, noise))
}

months_of <- function(...) {
  values <- list(...)
  data <- do.call(rbind, Map(function(value, mill) {
    data.frame(month = seq(
      as.Date("2020-01-01"), by = "month", length.out = length(value)
    ), mill, sacks = value)
  }, values, names(values)))
  roll_up(
    as_records(data, "month", c(sacks = "flow"), "mill"), "month",
    cadence = "month"
  )
}

# One row for each age, by the public verbs alone.
by_hand <- function(value, form, ...) {
  adjusted <- function(until) {
    x <- months_of(a = value[seq_len(until)])
    deseasonalise(x, seasonal_index(x, form = form, ...))$adjusted
  }
  n <- length(value)
  now <- adjusted(n)
  ends <- seq(max(24, n - 12 - 59), n - 12)
  change <- function(a, t) {
    if (form == "additive") a[t] - a[t - 1] else a[t] / a[t - 1] - 1
  }
  ahead <- lapply(ends, adjusted)
  do.call(rbind, lapply(0:23, function(age) {
    each <- do.call(rbind, Map(function(end, then) {
      t <- end - age
      if (t < 1) return(NULL)
      off <- if (form == "additive") now[t] - then[t] else now[t] / then[t] - 1
      was <- if (t > 1) change(then, t) else NA
      is <- if (t > 1) change(now, t) else NA
      c(abs(off), was, is)
    }, ends, ahead))
    data.frame(
      age = age, n = nrow(each), revision = mean(each[, 1]),
      changes = sum(!is.na(each[, 2])),
      change_revision = mean(abs(each[, 2] - each[, 3]), na.rm = TRUE),
      usual_change = mean(abs(each[, 3]), na.rm = TRUE),
      sign_held = mean(sign(each[, 2]) == sign(each[, 3]), na.rm = TRUE)
    )
  }))
}

test_that("revisions are those of an index made anew at each earlier end", {
  value <- seasonal_months(5)
  for (form in c("multiplicative", "additive")) {
    for (combine in c("mean without outliers", "median")) {
      made <- season_revisions(months_of(a = value), form = form,
                               combine = combine)
      hand <- by_hand(value, form, combine = combine)
      expect_equal(
        as.data.frame(made)[names(hand)], hand, label = paste(form, combine)
      )
    }
  }
})

test_that("one series changes nothing in another, nor the order of rows", {
  value <- list(a = seasonal_months(6), b = seasonal_months(4, 0.1, 5),
                short = seasonal_months(2))
  together <- do.call(months_of, value)
  expect_warning(
    mixed <- season_revisions(together[sample(nrow(together)), ]), NA
  )
  both <- as.data.frame(mixed)
  expect_setequal(both$mill, c("a", "b"))
  expect_output(print(mixed), "short is too short")
  for (name in c("a", "b")) {
    alone <- as.data.frame(season_revisions(do.call(months_of, value[name])))
    expect_equal(both[both$mill == name, ], alone, ignore_attr = TRUE)
  }
})

test_that("a season without noise is never revised, a change of it is", {
  steady <- 100 * (1 + 0.3 * sin(2 * pi * (0:95) / 12))
  still <- as.data.frame(season_revisions(months_of(a = steady)))
  expect_lt(max(still$revision), 1e-12)
  turned <- steady
  turned[49:96] <- 100 * (1 - 0.3 * sin(2 * pi * (48:95) / 12))
  moved <- as.data.frame(season_revisions(months_of(a = turned)))
  expect_gt(moved$revision[[1]], 0.05)
})

test_that("missing months have no revision, and a short table says what it needs", {
  value <- seasonal_months(6)
  holed <- months_of(a = replace(value, c(40, 50), NA))
  made <- as.data.frame(season_revisions(holed))
  whole <- as.data.frame(season_revisions(months_of(a = value)))
  expect_lt(made$changes[[1]], whole$changes[[1]])
  expect_false(anyNA(made$revision))
  expect_error(
    season_revisions(months_of(a = value[1:30])), "three cycles",
    class = "backfill_error_season"
  )
})

test_that("a shell and a figure have the same revisions", {
  ran <- backfill_cli(
    "season", demo_file("inns.csv"), "--when", "month", "--series", "inn",
    "--measure", "guest_nights:flow", "--every", "month", "--revisions",
    "--format", "csv"
  )
  expect_identical(ran$status, 0L, label = ran$err)
  nights <- roll_up(read_records(
    demo_file("inns.csv"), "month", c(guest_nights = "flow"), "inn"
  ), "month")
  made <- season_revisions(nights)
  shown <- utils::read.csv(text = ran$out)
  expect_equal(shown$revision, made$revision)
  drawn <- ggplot2::ggplot_build(autoplot(made))$data[[1]]
  expect_equal(sort(drawn$y), sort(c(made$revision, made$change_revision)))
})
