# Oracles: what a period, its coverage, a roll-up, growth, windows, seasons and
# flags are, once more, slowly and in plain base R, without a line of the
# package's. They are run over random tables; `make oracle` runs them over
# thousands.

oracle_zones <- c(
  "UTC", "Europe/Paris", "America/St_Johns", "Australia/Lord_Howe",
  "Pacific/Apia", "Asia/Kathmandu", "America/New_York", "WET"
)

pick <- function(x) x[[sample.int(length(x), 1)]]

# A table of one to three series that record at the same steps: by the time that
# passes, by the clock, or by months. list(data, zone, way, step, every), with
# rows in no order, holes, missing values, and some records twice.
oracle_table <- function(seed) {
  set.seed(seed)
  zone <- pick(oracle_zones)
  way <- pick(c("passing", "clock", "dates", "months"))
  step <- switch(
    way, passing = pick(c(900, 3600, 7200, 86400)), clock = pick(c(1, 2, 4)), 1
  )
  # Without a change of the clock in sight, long steps are those of the clock.
  if (way == "passing" && step > 3600) {
    zone <- pick(c("UTC", "Asia/Kathmandu"))
  }
  start <- as.Date("2009-01-01") + sample.int(8000, 1)
  slots <- oracle_slots(way, step, start, 60 + sample.int(if (way == "months") {
    60
  } else {
    400
  }, 1), zone)
  series <- lapply(seq_len(pick(1:3)), function(i) {
    n <- length(slots)
    own <- seq(sample.int(n %/% 4, 1), n - sample.int(n %/% 4, 1) + 1)
    # More than nine in ten, and a hole of up to a tenth.
    hole <- pick(own) + seq_len(sample.int(length(own) %/% 10 + 1, 1)) - 1
    own <- setdiff(own[stats::runif(length(own)) < 0.95], hole)
    value <- round(stats::rexp(length(own), 0.02), 2) - pick(c(0, 40))
    data.frame(when = slots[own], series = letters[i], value = value)
  })
  data <- do.call(rbind, series)
  data$value[sample.int(nrow(data), 1)] <- NA
  data <- rbind(data, data[sample.int(nrow(data), pick(0:2)), ])
  data <- data[sample.int(nrow(data)), ]
  every <- pick(switch(
    way, months = c("quarter", "year"), passing = ,
    clock = c("day", "week", "month", "third"),
    c("week", "month", "third", "quarter")
  ))
  list(data = data, zone = zone, way = way, step = step, every = every)
}

# All moments at which something is expected.
oracle_slots <- function(way, step, start, count, zone) {
  midnight <- as.POSIXct(format(start), tz = "UTC")
  switch(way,
    passing = midnight + step * seq_len(count),
    clock = {
      # When no clock is ever changed.
      hours <- seq(5, 23, by = 24 / step)[seq_len(step)]
      days <- rep(start + seq_len(ceiling(count / step)), each = step)
      text <- paste(
        days,
        sprintf("%02d:%02d", as.integer(hours), as.integer(hours %% 1 * 60))
      )
      found <- as.POSIXct(text, tz = zone, format = "%Y-%m-%d %H:%M")
      # Days, or hours, that the clock skips were not.
      found[!is.na(found) & format(found, "%Y-%m-%d %H:%M") == text]
    },
    dates = start + seq_len(count),
    months = seq(
      as.Date(format(start, "%Y-%m-01")), by = "month", length.out = count
    )
  )
}

# The first day of the period that a moment lies in, by the clock of its zone.
oracle_start <- function(when, every, zone) {
  parts <- if (inherits(when, "Date")) {
    as.POSIXlt(when)
  } else {
    as.POSIXlt(when, tz = zone)
  }
  day <- as.Date(sprintf(
    "%04d-%02d-%02d", parts$year + 1900, parts$mon + 1, parts$mday
  ))
  back <- function(day, to) {
    as.Date(sprintf(
      "%s-%02d", format(day, "%Y-%m"), to
    ))
  }
  switch(
    every, day = day, week = day - (parts$wday + 6) %% 7,
    third = back(day, c(1, 11, 21)[pmin((parts$mday - 1) %/% 10, 2) + 1]),
    month = back(day, 1),
    quarter = as.Date(sprintf(
      "%04d-%02d-01", parts$year + 1900, parts$mon %/% 3 * 3 + 1
    )),
    year = as.Date(sprintf("%04d-01-01", parts$year + 1900))
  )
}

# Every period from one to another.
oracle_periods <- function(from, to, every) {
  if (every != "third") {
    return(seq(from, to, by = every))
  }
  days <- seq(from, to, by = 1)
  days[format(days, "%d") %in% c("01", "11", "21")]
}

# A row for each series and period: value, n, coverage and standing. `stat`
# makes one figure of those of a period in order of time; a period is complete
# from a coverage of `enough` on, unless it is cut.
oracle_roll_up <- function(table, stat, enough = 0.75) {
  data <- table$data[order(table$data$series), ]
  data <- data[order(data$series, as.numeric(data$when)), ]
  # Wide enough that every period at an end has all of its slots.
  first <- as.Date(min(data$when)) - oracle_margin[[table$every]]
  all_slots <- oracle_slots(
    table$way, table$step, first, oracle_count(table, first, max(data$when)),
    table$zone
  )
  expected <- table(as.numeric(
    oracle_start(all_slots, table$every, table$zone)
  ))
  of_slot <- oracle_start(all_slots, table$every, table$zone)
  start <- oracle_start(data$when, table$every, table$zone)
  periods <- oracle_periods(min(start), max(start), table$every)
  expected <- as.vector(
    expected[match(as.numeric(periods), as.numeric(names(expected)))]
  )
  do.call(rbind, lapply(sort(unique(data$series)), function(series) {
    of <- data$series == series & !is.na(data$value)
    rows <- lapply(
      as.numeric(periods),
      function(period) which(of & as.numeric(start) == period)
    )
    n <- lengths(rows)
    slots <- vapply(
      rows, function(here) length(unique(as.numeric(data$when)[here])), 0
    )
    coverage <- slots / expected
    ends <- range(as.numeric(data$when[data$series == series]))
    moments <- as.numeric(all_slots)
    within <- sum(moments >= ends[[1]] & moments <= ends[[2]])
    left_out <- max(1 - sum(data$series == series) / within, 0)
    spare <- max(1, floor(log(0.05) / log(left_out)))
    cut <- vapply(seq_along(periods), function(i) {
      moment <- as.numeric(all_slots)[of_slot == periods[[i]]]
      lacking <- c(
        if (n[[i]] > 0 && any(moment == ends[[1]])) sum(moment < ends[[1]]),
        if (n[[i]] > 0 && any(moment == ends[[2]])) sum(moment > ends[[2]])
      )
      any(lacking > spare | spare == 1 & lacking == 1 & expected[[i]] < 20)
    }, NA)
    data.frame(
      series = series, period = periods, n = n, coverage = coverage,
      value = vapply(rows, function(here) {
        if (length(here) > 0) {
          stat(data$value[here])
        } else {
          NA_real_
        }
      }, 0),
      standing = ifelse(
        n == 0, "empty",
        ifelse(coverage >= enough & !cut, "complete", "partial")
      )
    )
  }))
}

oracle_margin <- c(
  day = 3, week = 9, third = 13, month = 33, quarter = 95, year = 370
)

oracle_count <- function(table, first, last) {
  days <- as.numeric(as.Date(last) - first) + 2 * oracle_margin[[table$every]]
  switch(
    table$way, passing = days * 86400 / table$step, clock = days * table$step,
    dates = days, months = days %/% 28 + 2
  )
}

whole <- function(x) ifelse(x$standing == "complete", x$value, NA)

# By series; rows are in order of series and period, none missing.
by_series <- function(x, of) {
  unlist(
    lapply(split(whole(x), x$series), of), use.names = FALSE
  )
}

oracle_growth <- function(x, over) {
  by_series(x, function(value) {
    vapply(seq_along(value), function(t) {
      base <- if (t > over) value[t - over] else NA
      if (is.na(base) || is.na(value[t]) || base <= 0) {
        NA
      } else {
        100 * (value[t] - base) / base
      }
    }, 0)
  })
}

oracle_moving <- function(x, width, stat) {
  by_series(x, function(value) {
    vapply(seq_along(value), function(t) {
      if (t < width) NA else stat(value[seq(t - width + 1, t)])
    }, 0)
  })
}

# Ratios to the mean over a cycle around each period (of an even one half of
# both ends), averaged at each position and scaled to average 1.
oracle_season <- function(value, cycle, position) {
  n <- length(value)
  half <- cycle %/% 2
  weights <- if (cycle %% 2 == 0) {
    c(0.5, rep(1, cycle - 1), 0.5) / cycle
  } else {
    rep(1 / cycle, cycle)
  }
  ratio <- rep(NA_real_, n)
  for (t in seq(half + 1, n - half)) ratio[t] <- value[t] / sum(
    weights * value[seq(t - half, t + half)]
  )
  index <- vapply(
    seq_len(cycle), function(p) mean(ratio[position == p], na.rm = TRUE), 0
  )
  index / mean(index)
}

# The mean of the last so many periods, at least half of them there, and limits
# of so many standard deviations of the past deviations about their mean,
# widened for how few there are.
oracle_flags <- function(value, last, sd) {
  n <- length(value)
  baseline <- upper <- lower <- rep(NA_real_, n)
  off <- numeric()
  for (t in seq_len(n)) {
    prior <- value[seq_len(n) < t & seq_len(n) >= t - last]
    prior <- prior[!is.na(prior)]
    if (length(prior) < max(1, ceiling(last / 2))) next
    baseline[t] <- mean(prior)
    m <- length(off)
    if (m >= 8) {
      reach <- stats::qt(
        stats::pnorm(sd), m - 1
      ) * sqrt(1 + 1 / m) * stats::sd(off)
      upper[t] <- baseline[t] + mean(off) + reach
      lower[t] <- baseline[t] + mean(off) - reach
    }
    if (!is.na(value[t])) off <- c(off, value[t] - baseline[t])
  }
  data.frame(
    baseline = baseline, lower = lower, upper = upper,
    flag = value > upper | value < lower
  )
}
