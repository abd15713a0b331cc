# A seasonal index that follows a season that moves: combine = "moving mean".

monthly_series <- function(..., from = "2022-01-01", by = "month") {
  value <- list(...)
  when <- seq(as.Date(from), by = by, length.out = length(value[[1]]))
  long <- data.frame(
    when = rep(when, length(value)), value = unlist(value),
    quay = rep(names(value), each = length(when))
  )
  roll_up(as_records(
    long[!is.na(long$value), ], "when", c(value = "level"), series = "quay"
  ), by, cadence = by)
}

# A trend, a season each of whose positions wanders, and noise.
wandering <- function(n, cycle = 12, by = 0.05, noise = 0.02) {
  rounds <- ceiling(n / cycle)
  season <- matrix(0.3 * sin(2 * pi * seq_len(cycle) / cycle), cycle, rounds)
  news <- matrix(stats::rnorm(cycle * rounds, sd = by), cycle)
  season <- season + t(apply(news, 1, cumsum))
  season <- as.vector(sweep(season, 2, colMeans(season)))[seq_len(n)]
  rest <- stats::rnorm(n, sd = noise)
  list(
    value = 100 * exp(0.004 * seq_len(n) + season + rest),
    adjusted = 100 * exp(0.004 * seq_len(n) + rest)
  )
}

shares <- c(1, 0.95, 0.9, 0.85, 0.8, 0.7, 0.6, 0.5, 0.4, 0.3)

# The likelihood of the differences of levels that wander, from their whole
# covariance, all positions with one noise.
likelihood_of <- function(part, position, share) {
  moves <- (1 - share)^2 / share
  each <- lapply(split(part, position), function(x) {
    x <- x[!is.na(x)]
    n <- length(x) - 1
    covariance <- diag(2 + moves, n)
    covariance[abs(row(covariance) - col(covariance)) == 1] <- -1
    d <- diff(x)
    c(n, drop(d %*% solve(covariance, d)), log(det(covariance)))
  })
  sums <- Reduce(`+`, each)
  -(sums[[1]] * log(sums[[2]] / sums[[1]]) + sums[[3]]) / 2
}

# Parts as ratios of their positions' means, and in units of how far off they
# lie where positions vary unlike each other.
in_units <- function(part, position, ratio) {
  mean_of <- function(x) {
    stats::ave(x, position, FUN = function(x) mean(x, na.rm = TRUE))
  }
  if (ratio) part <- part / mean_of(part)
  off <- abs(part - mean_of(part))
  differ <- stats::kruskal.test(off, position)$p.value < 0.1
  if (differ) part / mean_of(off) else part
}

chosen_share <- function(part, position, ratio) {
  part <- in_units(part, position, ratio)
  found <- vapply(shares, \(share) likelihood_of(part, position, share), 0)
  if (max(found) > found[[1]] + 2.706 / 2) shares[[which.max(found)]] else 1
}

moving_means <- function(part, position, cycle, share, ratio) {
  n <- length(part)
  raw <- vapply(seq_len(n), function(i) {
    at <- which(position == position[[i]] & !is.na(part))
    weight <- share^(abs(at - i) / cycle)
    sum(weight * part[at]) / sum(weight)
  }, 0)
  ends <- if (cycle %% 2 == 0) 0.5
  weight <- c(ends, rep(1, if (cycle %% 2 == 0) cycle - 1 else cycle), ends)
  around <- as.numeric(stats::filter(raw, weight / cycle))
  known <- which(!is.na(around))
  around <- around[pmin(pmax(seq_len(n), known[[1]]), known[[length(known)]])]
  if (ratio) raw / around else raw - around
}

line_around <- function(adjusted, i, half) {
  n <- length(adjusted)
  width <- min(n, 2 * half + 1)
  from <- max(1, min(i - half, n - width + 1))
  at <- seq(from, length.out = width)
  away <- abs(at - i) / (1 + max(abs(at - i)))
  fit <- stats::lm(y ~ x, data.frame(x = at - i, y = adjusted[at]),
                   weights = (1 - away^3)^3)
  unname(stats::coef(fit)[[1]])
}

test_that("index and line are those of the formulas, worked out in base R", {
  withr::local_seed(71)
  for (cycle in c(12, 4, 7)) for (form in c("multiplicative", "additive")) {
    ratio <- form == "multiplicative"
    value <- wandering(cycle * 9 + 3, cycle)$value
    by <- c("12" = "month", "4" = "quarter", "7" = "day")[[as.character(cycle)]]
    x <- monthly_series(a = value, by = by)
    index <- seasonal_index(x, cycle = cycle, form, combine = "moving mean")
    # The oracle leaves none out.
    expect_false(any(nzchar(index$disagree)))
    sheet <- summary(index, type = "worksheet")
    without <- function(x, what) if (ratio) x / what else x - what
    position <- (seq_along(value) - 1) %% cycle
    weight <- rep(1, cycle)
    if (cycle %% 2 == 0) weight <- c(0.5, weight[-1], 0.5)
    average <- as.numeric(stats::filter(value, weight / cycle))
    part <- without(value, average)
    first <- moving_means(
      part, position, cycle, chosen_share(part, position, ratio), ratio
    )
    adjusted <- without(value, first)
    line <- vapply(seq_along(value), function(i) {
      line_around(adjusted, i, cycle - 1)
    }, 0)
    said <- paste(cycle, form)
    expect_equal(sheet$local_line, line, tolerance = 1e-9, label = said)
    part <- without(value, line)
    share <- chosen_share(part, position, ratio)
    expect_identical(summary(index)$kept, share, label = said)
    expect_lt(share, 1)
    own <- moving_means(part, position, cycle, share, ratio)
    expect_equal(sheet$index, own, tolerance = 1e-9, label = said)
    # The rows have the latest of each position.
    last <- seq(length(value) - cycle + 1, length(value))
    expect_equal(
      index$index[order(as.integer(index$position))],
      sheet$index[last][order(as.integer(sheet$position[last]))]
    )
    expect_equal(
      sheet$index, if (ratio) sheet$raw_index * sheet$normaliser else
        sheet$raw_index + sheet$normaliser
    )
  }
})

test_that("a season that moves is followed, and one that stays is left alone", {
  withr::local_seed(72)
  missed <- function(x, truth) {
    off <- log(x / truth)
    stats::sd(off, na.rm = TRUE)
  }
  made <- replicate(8, wandering(120), simplify = FALSE)
  still <- replicate(8, wandering(120, by = 0), simplify = FALSE)
  off <- function(worlds, ...) {
    x <- do.call(monthly_series, stats::setNames(
      lapply(worlds, `[[`, "value"), letters[seq_along(worlds)]
    ))
    adjusted <- deseasonalise(x, seasonal_index(x, ...))$adjusted
    truth <- unlist(lapply(worlds, `[[`, "adjusted"))
    vapply(split(seq_along(truth), x$quay), function(rows) {
      missed(adjusted[rows], truth[rows])
    }, 0)
  }
  moving <- off(made, combine = "moving mean")
  expect_lt(mean(moving), 0.6 * mean(off(made)))
  expect_lt(mean(off(still, combine = "moving mean")), 1.02 * mean(off(still)))
  x <- monthly_series(a = still[[1]]$value)
  index <- seasonal_index(x, combine = "moving mean")
  expect_identical(summary(index)$kept, 1)
  # The tests are those of a season that stays.
  tests <- c("season_p", "drift_p", "ratios", "positions_f", "ranks_h")
  expect_equal(
    summary(index)[tests], summary(seasonal_index(x))[tests]
  )
  by_position <- tapply(
    summary(index, type = "worksheet")$index, rep_len(1:12, 120), range
  )
  expect_true(all(vapply(by_position, diff, 0) < 1e-12))
  expect_match(
    backfill:::describe(index), "^No movement of the season was found: one",
    all = FALSE
  )
})

test_that("what rounding leaves does not move", {
  for (form in c("multiplicative", "additive")) {
    for (value in list(rep(5e6, 60), rep(1:12 / 7, 5), seq_len(60) / 3)) {
      index <- seasonal_index(
        monthly_series(a = value), form = form, combine = "moving mean"
      )
      expect_identical(summary(index)$kept, 1, label = paste(form, value[[2]]))
    }
  }
})

test_that("outliers and holes do not decide, nor the unit, nor other series", {
  withr::local_seed(73)
  value <- wandering(108, by = 0.03)$value
  odd <- replace(value, 52, 4 * value[[52]])
  hole <- replace(value, c(30, 31, 60), NA)
  index <- function(...) {
    seasonal_index(monthly_series(...), combine = "moving mean")
  }
  of <- function(index, name) index[index$quay == name, -1]
  all <- index(a = value, b = odd, c = hole, d = 1000 * value)
  expect_equal(of(all, "a"), of(index(a = value), "a"))
  expect_equal(of(all, "d")$index, of(all, "a")$index)
  expect_equal(of(all, "b")$index, of(all, "a")$index, tolerance = 0.02)
  expect_equal(of(all, "c")$index, of(all, "a")$index, tolerance = 0.02)
  expect_true(nzchar(of(all, "b")$disagree[[4]]))
  sheet <- summary(all, type = "worksheet")
  expect_false(anyNA(sheet$index))
  expect_true(is.na(sheet$ratio[sheet$quay == "b"][[52]]))
})

test_that("months that vary more than others do not stand apart for that", {
  withr::local_seed(78)
  uneven <- ifelse(seq_len(120) %% 12 %in% 1:3, 4, 1)
  value <- lapply(seq_len(40), function(i) stats::rnorm(120) * uneven)
  names(value) <- seq_along(value)
  index <- seasonal_index(
    do.call(monthly_series, value), form = "additive", combine = "moving mean"
  )
  apart <- tapply(nzchar(index$disagree), index$quay, any)
  # 11 of 100 in the simulated rates; by one limit for all months nearly all.
  expect_lt(mean(apart), 0.35)
})

test_that("the form is that which a season that stays bears out", {
  withr::local_seed(77)
  level <- 100 * 1.012^seq_len(108)
  season <- 20 * sin(2 * pi * seq_len(108) / 12) * (1 + seq_len(108) / 200)
  noise <- stats::rnorm(108)
  forms <- vapply(list(level + season + noise,
                       level * (1 + season / 100) + noise), function(value) {
    x <- monthly_series(a = value)
    index <- seasonal_index(x, form = "auto", combine = "moving mean")
    unique(summary(index, type = "worksheet")$index < 0) |> any()
  }, NA)
  expect_identical(forms, c(TRUE, FALSE))
})

test_that("adjusted values go through files, traces and spans of other years", {
  withr::local_seed(74)
  x <- monthly_series(a = wandering(100)$value, b = wandering(100)$value)
  index <- seasonal_index(x, combine = "moving mean")
  adjusted <- deseasonalise(x, index)
  expect_equal(
    adjusted$adjusted, summary(index, type = "worksheet")$adjusted
  )
  expect_equal(reseasonalise(adjusted, index)$reseasonalised, x$value)
  file <- withr::local_tempfile(fileext = ".json")
  write_index(index, file)
  back <- read_index(file)
  expect_identical(deseasonalise(x, back)$adjusted, adjusted$adjusted)
  # Before and after, the nearest cycle goes on.
  factor <- function(x) {
    matrix((x$value / deseasonalise(x, back)$adjusted)[x$quay == "a"], 12)
  }
  own <- summary(index, type = "worksheet")$index[seq_len(100)]
  later <- monthly_series(
    a = rep(1, 24), b = rep(1, 24), from = "2032-01-01"
  )
  latest <- own[89:100][c(9:12, 1:8)]
  expect_equal(factor(later), cbind(latest, latest), ignore_attr = TRUE)
  earlier <- monthly_series(
    a = rep(1, 24), b = rep(1, 24), from = "2015-01-01"
  )
  expect_equal(
    factor(earlier), cbind(own[1:12], own[1:12]), ignore_attr = TRUE
  )
  kept <- withr::local_tempfile(fileext = ".csv")
  write_periods(adjusted, kept)
  again <- read_periods(kept)
  said <- trace_value(
    again, series = "b", period = "2025-03", column = "adjusted"
  )
  expect_equal(said$figure[[1]], adjusted$adjusted[[139]])
  of_index <- trace_value(index, row = 5, column = "index", made_of = x)
  expect_equal(of_index$figure[[1]], index$index[[5]])
  expect_match(of_index$worked[[1]], "sum(w * x) / sum(w)", fixed = TRUE)
})

test_that("projections and revisions know at each end what was known by then", {
  withr::local_seed(75)
  value <- wandering(96)$value
  x <- monthly_series(a = value)
  ahead <- project(x, 12, base = "level", combine = "moving mean")
  index <- seasonal_index(x, combine = "moving mean")
  adjusted <- deseasonalise(x, index)$adjusted
  expect_equal(ahead$value[97:108], mean(adjusted[85:96]) * index$index)
  revised <- season_revisions(x, combine = "moving mean")
  # The last 60 ends with a cycle behind them.
  off <- vapply(25:84, function(end) {
    early <- monthly_series(a = value[seq_len(end)])
    index <- seasonal_index(early, combine = "moving mean")
    abs(adjusted[[end]] / deseasonalise(early, index)$adjusted[[end]] - 1)
  }, 0)
  expect_identical(revised$n[[1]], 60L)
  expect_equal(revised$revision[[1]], mean(off))
})

test_that("a shell follows a season that moves, too", {
  withr::local_seed(76)
  folder <- withr::local_tempdir()
  months <- seq(as.Date("2022-01-01"), by = "month", length.out = 96)
  utils::write.csv(
    data.frame(month = months, crates = round(10 * wandering(96)$value)),
    file.path(folder, "crates.csv"), row.names = FALSE
  )
  ran <- command_line(
    "season", "crates.csv", "--combine", "moving mean", dir = folder
  )
  expect_identical(ran$status, 0L)
  said <- gsub("\\s+", " ", paste(ran$err, collapse = " "))
  expect_match(said, "moves in crates, and its index with it: a cycle away")
})
