# Series compared period by period: against a slow likelihood over whole
# matrices of covariances, and planted differences.

pair_table <- function(..., kind = "level", start = "2020-01-01") {
  values <- list(...)
  data <- do.call(rbind, Map(function(value, mill) {
    data.frame(month = seq(
      as.Date(start), by = "month", length.out = length(value)
    ), mill, sacks = value)
  }, values, names(values)))
  roll_up(
    as_records(data, "month", stats::setNames(kind, "sacks"), "mill"), "month",
    cadence = "month"
  )
}

# The error of a mean and how likely the figures are to wander, by matrices.
mean_by_matrices <- function(y, place) {
  n <- length(y)
  gap <- abs(outer(place, place, "-"))
  kinds <- backfill:::memories_cpp()
  found <- Map(function(keep, noise, weight) {
    own <- if (keep < 1) keep^gap else 1 + outer(place, place, pmin) - place[1]
    v <- (1 - noise) * own + noise * diag(n)
    inverse <- solve(v)
    one <- rep(1, n)
    within <- sum(inverse)
    fitted <- sum(inverse %*% y) / within
    left <- drop(t(y - fitted) %*% inverse %*% (y - fitted))
    list(
      log = -((n - 1) * log(left) + determinant(v)$modulus + log(within)) / 2,
      weight = weight, wanders = keep >= 1,
      spread = left / (n - 1) * sum(v) / n^2
    )
  }, kinds$keep, kinds$noise, kinds$weight)
  take <- function(name) vapply(found, function(one) as.numeric(one[[name]]), 0)
  log <- take("log")
  weight <- take("weight") * exp(log - max(log))
  weight <- weight / sum(weight)
  walks <- take("wanders") == 1
  squared <- sum((weight * take("spread"))[!walks]) / sum(weight[!walks])
  alone <- stats::var(y) / n
  c(
    error = sqrt(max(squared, alone)), wanders = sum(weight[walks]),
    worth = if (squared > alone) 1 + (n - 1) * alone / squared else n
  )
}

test_that("the error of a mean is that of matrices, and p and interval follow", {
  withr::local_seed(7)
  for (keep in c(0, 0.5, 0.8)) {
    for (holes in list(integer(), c(3, 4, 17))) {
      gap <- 2 + as.vector(stats::filter(stats::rnorm(40), keep, "recursive"))
      base <- stats::rnorm(40, 50)
      first <- replace(base + gap, holes, NA)
      made <- as.data.frame(series_differences(
        pair_table(a = first, b = base), confidence = 0.9
      ))
      kept <- setdiff(seq_along(gap), holes)
      slow <- mean_by_matrices((first - base)[kept], kept)
      expect_equal(made$n, length(kept))
      expect_equal(made$difference, mean((first - base)[kept]))
      expect_equal(made$first_mean, mean(first[kept]))
      expect_identical(made$above, sum(first[kept] > base[kept]))
      expect_identical(made$below, sum(first[kept] < base[kept]))
      if (slow[["wanders"]] >= 0.25) {
        expect_identical(made$verdict, "may wander")
        expect_true(is.na(made$p))
        next
      }
      expect_equal(made$n_effective, slow[["worth"]])
      free <- max(slow[["worth"]] - 1, 1)
      expect_equal(
        made$p, 2 * stats::pt(-abs(made$difference) / slow[["error"]], free)
      )
      expect_equal(
        made$upper - made$difference, slow[["error"]] * stats::qt(0.95, free)
      )
    }
  }
})

test_that("p of many pairs is Holm's, and turning a pair about turns its sign", {
  withr::local_seed(2)
  values <- stats::setNames(
    lapply(1:4, function(i) stats::rnorm(48, 10 + i / 5)), letters[1:4]
  )
  all <- as.data.frame(series_differences(do.call(pair_table, values)))
  alone <- Map(function(first, second) {
    as.data.frame(series_differences(
      do.call(pair_table, values[c(first, second)])
    ))
  }, all$first, all$second)
  of <- function(name) vapply(alone, `[[`, 0, name, USE.NAMES = FALSE)
  expect_equal(all$difference, of("difference"))
  expect_equal(all$lower, of("lower"))
  expect_equal(all$p, stats::p.adjust(of("p"), "holm"))
  turned <- as.data.frame(series_differences(
    do.call(pair_table, values), against = "a"
  ))
  at <- match(turned$first, all$second)
  expect_identical(turned$second, rep("a", 3))
  expect_equal(turned$difference, -all$difference[at])
  expect_equal(turned$lower, -all$upper[at])
})

test_that("what both series share, and a season of the gap, hide no difference", {
  withr::local_seed(4)
  shared <- 100 + cumsum(stats::rnorm(72, 0, 5))
  season <- 10 * sin(2 * pi * (1:72) / 12)
  made <- series_differences(pair_table(
    north = shared + season + stats::rnorm(72), south = shared - 1
  ))
  expect_identical(made$verdict, "differ")
  expect_true(made$lower < 1 && made$upper > 1)
  expect_output(print(made), "season of 1 year, which is left out")
  expect_match(backfill:::describe(made)[1], "^north lay .* above south")
})

test_that("gaps that wander, never vary or are too few get no verdict of chance", {
  withr::local_seed(9)
  walk <- pair_table(
    a = cumsum(stats::rnorm(120)), b = stats::rnorm(120, 0, 0.1)
  )
  wandering <- series_differences(walk)
  expect_identical(wandering$verdict, "may wander")
  expect_true(is.na(wandering$p) && is.na(wandering$lower))
  still <- series_differences(pair_table(a = 1:30 + 5, b = 1:30))
  expect_identical(still$verdict, "constant")
  expect_output(print(still), "above b in each of 30 shared months")
  rounded <- series_differences(pair_table(a = 1:30 / 10 + 0.3, b = 1:30 / 10))
  expect_identical(rounded$verdict, "constant")
  same <- series_differences(pair_table(a = 1:30 / 10, b = 1:30 * 0.1))
  expect_output(print(same), "a and b were the same in each of 30 shared")
  ties <- series_differences(pair_table(a = c(2, rep(1, 29)), b = rep(1, 30)))
  expect_output(print(ties), "above it in 1 of 30")
  expect_identical(ties$below, 0L)
  few <- series_differences(pair_table(a = c(1, 2, NA, NA), b = c(2, 4, 5, 6)))
  expect_identical(few$verdict, "too short to tell")
  two <- as_records(data.frame(
    month = rep(seq(as.Date("2030-01-01"), by = "month", length.out = 12), 1),
    sacks = 1:12, damp = 12:1
  ), "month", c(sacks = "flow", damp = "level"))
  expect_error(
    series_differences(roll_up(two, "month")),
    "No two series are of one measure", class = "backfill_error_input"
  )
  expect_error(
    series_differences(walk, against = "c"), class = "backfill_error_argument"
  )
})

test_that("a shell and a figure have the same differences", {
  ran <- backfill_cli(
    "describe", demo_file("inns.csv"), "--when", "month", "--series", "inn",
    "--measure", "guest_nights:flow", "--every", "month", "--compare",
    "--against", "Anchor", "--format", "csv"
  )
  expect_identical(ran$status, 0L, label = ran$err)
  made <- series_differences(roll_up(read_records(
    demo_file("inns.csv"), "month", c(guest_nights = "flow"), "inn"
  ), "month"), against = "Anchor")
  expect_equal(utils::read.csv(text = ran$out)$difference, made$difference)
  drawn <- ggplot2::ggplot_build(autoplot(made))$data[[3]]
  expect_equal(sort(drawn$x), sort(made$difference))
})
