# Simulated series: each world makes the n values of one series, of months
# unless its name says days or hours. The noise has a standard deviation of 1
# but where the world says otherwise.

remembering <- function(n, r) {
  out <- stats::rnorm(n)
  for (i in seq_len(n)[-1]) out[i] <- r * out[i - 1] + sqrt(1 - r^2) * out[i]
  out
}

yearly <- function(n, size, months = 12) {
  size * sqrt(2) * sin(2 * pi * (seq_len(n) + stats::runif(1, 0, 12)) / months)
}

# Up by so many standard deviations from end to end.
rising <- function(n, by) by * seq(0, 1, length.out = n)

holed <- function(share) {
  function(n) replace(stats::rnorm(n), stats::runif(n) < share, NA)
}

# What a firm's figures are: about 100, noise of 4%.
level <- function(
  n, season = 0, growth = 0, spread = 0.04, news = stats::rnorm
) {
  100 * (1 + growth)^seq_len(n) * (1 + yearly(n, season)) *
    (1 + spread * news(n))
}

worlds <- list(
  "noise" = function(n) stats::rnorm(n),
  "memory 0.3" = function(n) remembering(n, 0.3),
  "memory 0.6" = function(n) remembering(n, 0.6),
  "memory 0.8" = function(n) remembering(n, 0.8),
  "memory 0.9" = function(n) remembering(n, 0.9),
  "memory -0.5" = function(n) remembering(n, -0.5),
  "random walk" = function(n) cumsum(stats::rnorm(n)),
  "slow memory 0.95 and noise" = function(n) {
    remembering(n, 0.95) + stats::rnorm(n)
  },
  "random walk and noise" = function(n) {
    cumsum(stats::rnorm(n, sd = 0.3)) + stats::rnorm(n)
  },
  "slope of 1 sd" = function(n) rising(n, 1) + stats::rnorm(n),
  "slope of 2 sd" = function(n) rising(n, 2) + stats::rnorm(n),
  "slope of 3 sd" = function(n) rising(n, 3) + stats::rnorm(n),
  "slope of 6 sd" = function(n) rising(n, 6) + stats::rnorm(n),
  "season of 0.5 sd" = function(n) yearly(n, 0.5) + stats::rnorm(n),
  "season of 1 sd" = function(n) yearly(n, 1) + stats::rnorm(n),
  "season of 3 sd" = function(n) yearly(n, 3) + stats::rnorm(n),
  "season and slope" = function(n) {
    yearly(n, 3) + rising(n, 3) + stats::rnorm(n)
  },
  "wave of 11 months" = function(n) yearly(n, 2, 11) + stats::rnorm(n),
  "wave of 13 months" = function(n) yearly(n, 2, 13) + stats::rnorm(n),
  "t with 3 degrees" = function(n) stats::rt(n, 3),
  "lognormal 0.5" = function(n) exp(0.5 * stats::rnorm(n)),
  "lognormal 1.5" = function(n) exp(1.5 * stats::rnorm(n)),
  "spread by position" = function(n) {
    stats::rnorm(n) * ifelse(seq_len(n) %% 12 %in% 1:3, 4, 1)
  },
  "spread that grows" = function(n) {
    stats::rnorm(n) * seq(1, 4, length.out = n)
  },
  "spread that clusters" = function(n) {
    stats::rnorm(n) * exp(0.7 * remembering(n, 0.9))
  },
  "sparse counts" = function(n) stats::rpois(n, 0.3),
  "5% missing" = holed(0.05),
  "20% missing" = holed(0.20),
  "one outlier" = function(n) {
    replace(stats::rnorm(n), sample(n, 1), 8)
  },
  "level" = function(n) level(n),
  "level, growth of 1% a month" = function(n) level(n, growth = 0.01),
  "level, season of 10%" = function(n) level(n, 0.1 / sqrt(2)),
  "level, season of 40%" = function(n) level(n, 0.4 / sqrt(2)),
  "level, season of 40% and growth" = function(n) {
    level(n, 0.4 / sqrt(2), 0.01)
  },
  "level, season that moves" = function(n) {
    # Its high comes a quarter of a year later in the end.
    late <- rising(n, 3)
    100 * (1 + 0.4 * sin(2 * pi * (seq_len(n) - late) / 12)) *
      (1 + 0.04 * stats::rnorm(n))
  },
  "level, spread by position" = function(n) {
    level(n, news = worlds[["spread by position"]])
  },
  "level, t with 3 degrees" = function(n) {
    level(n, news = worlds[["t with 3 degrees"]])
  },
  "level, lognormal 0.5" = function(n) 100 * exp(0.5 * stats::rnorm(n)),
  "additive season under a trend" = function(n) {
    100 + seq_len(n) + yearly(n, 15) + stats::rnorm(n)
  },
  "shift of 1 sd" = function(n) stats::rnorm(n) + (seq_len(n) > n / 2),
  "shift of 2 sd" = function(n) stats::rnorm(n) + 2 * (seq_len(n) > n / 2),
  "shift of 1 sd beside a season" = function(n) {
    stats::rnorm(n) + (seq_len(n) > n / 2) + yearly(n, 3)
  },
  "a rise that bends" = function(n) {
    100 * 1.008^seq_len(n) * (1 + 0.02 * stats::rnorm(n))
  },
  "promotions in high season, no effect" = function(n) {
    3 * cos(2 * pi * seq_len(n) / 12) + stats::rnorm(n)
  },
  "days, noise" = function(n) stats::rnorm(n),
  "days, memory 0.6" = function(n) remembering(n, 0.6),
  "days, random walk" = function(n) cumsum(stats::rnorm(n)),
  "days, season of 1 sd" = function(n) yearly(n, 1, 7) + stats::rnorm(n),
  "days, level" = function(n) level(n),
  "hours, noise" = function(n) stats::rnorm(n),
  "hours, day and week" = function(n) {
    weekday <- (seq_len(n) - 1) %/% 24 %% 7 + 1
    yearly(n, 2, 24) + stats::rnorm(7)[weekday] + stats::rnorm(n)
  },
  "hours, day and memory 0.6" = function(n) {
    yearly(n, 2, 24) + remembering(n, 0.6)
  },
  "hours, weekend of its own" = function(n) {
    at_weekend <- (seq_len(n) - 1) %/% 24 %% 7 > 4
    ifelse(at_weekend, 0.5, 2) * sin(2 * pi * seq_len(n) / 24) +
      stats::rnorm(n)
  }
)

# Months of a promotion: those of high season.
promoted <- function(n) as.numeric(seq_len(n) %% 12 %in% c(0, 1, 11))

# A table of series of one world.
table_of <- function(world, n, lines) {
  value <- as.vector(replicate(lines, worlds[[world]](n)))
  every <- if (grepl("^days", world)) {
    "day"
  } else if (grepl("^hours", world)) {
    "hour"
  } else {
    "month"
  }
  start <- if (every == "hour") {
    as.POSIXct("2001-01-01", tz = "UTC")
  } else {
    as.Date("2001-01-01")
  }
  when <- seq(start, by = every, length.out = n)
  rows <- data.frame(
    when = when, id = rep(sprintf("s%04d", seq_len(lines)), each = n),
    y = value
  )
  kind <- if (grepl("counts", world)) "flow" else "level"
  suppressMessages(roll_up(
    as_records(rows, when = "when", series = "id", measures = c(y = kind)),
    every = every
  ))
}
