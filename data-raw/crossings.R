# Boardings per hour on three ferry lines, by the local clock of a zone with
# daylight saving. The count of an hour is a Poisson draw around the line's
# mean x trend x its own habits x weather, where the weather is a day's
# autoregressive error. The market line is full on the mornings of the two
# market days. The tide line sails about high water, which comes some 50
# minutes later each day, and so at the same hour again after 14.77 days. The
# excursion line runs from April to October. Planted: a first and a last month
# cut short, a closed week and a few hours without rows, a counter fault, days
# of storms, and rows that cannot be used.

crossings_truth <- list(
  zone = "WET",
  first = "2029-01-09 06:00", last = "2031-12-17 21:00",
  growth_percent_per_year = 4,
  line_mean = list(market = 46, tide = 31, excursion = 38),
  market = list(
    # Monday first.
    weekday_index = c(0.42, 0.55, 2.30, 0.60, 0.74, 1.91, 0.48),
    month_index = c(
      0.88, 0.90, 0.95, 1.00, 1.06, 1.08, 1.02, 1.00, 1.05, 1.08, 1.02, 0.96
    )
  ),
  tide = list(
    between_high_waters_hours = 12.4206, first_high_water = 5.2,
    comes_back_days = 14.7653, spring_amplitude = 0.25, hours_about = 1.1,
    boats_from = 6, boats_to = 21
  ),
  excursion = list(
    month_index = c(
      0, 0, 0, 0.55, 1.05, 1.60, 2.35, 2.55, 1.45, 0.65, 0, 0
    ),
    weather_share = 2.5
  ),
  weather_autocorrelation = 0.4, weather_sd = 0.08,
  storm = list(from = "2030-11-18", to = "2030-11-22", share_left = 0.2),
  closed_week = list(
    from = "2030-02-11 00:00", to = "2030-02-17 23:00", rows = 168
  ),
  short_outage = list(
    from = "2030-09-14 06:00", to = "2030-09-14 14:00", rows = 9
  ),
  blank = list(
    measure = "market", from = "2031-05-06 08:00", to = "2031-05-06 21:00",
    rows = 14
  ),
  set_aside = list(
    "no date is given" = 1, "no such date in the calendar" = 1,
    "no such time of day" = 1,
    "written in another order than the other dates" = 1,
    "no such time in zone WET: daylight saving skips it" = 1,
    "not a number" = 2
  )
)

# One share for each hour of the day, adding up to 24.
share_of_hours <- function(shape) 24 * shape / sum(shape)

market_hours <- share_of_hours(c(
  0, 0, 0, 0, 0.2, 1.1, 2.6, 3.5, 3.2, 2.4, 1.8, 1.5, 1.3, 1.0, 0.8, 0.7, 0.6,
  0.5, 0.4, 0.3, 0.2, 0.1, 0, 0
))
excursion_hours <- share_of_hours(c(
  0, 0, 0, 0, 0, 0, 0, 0, 0.4, 1.6, 2.6, 2.9, 2.7, 2.5, 2.3, 1.9, 1.4, 0.9, 0.3,
  0, 0, 0, 0, 0
))

# How near each hour is to a high water, larger at spring tides, from hours
# since the first day; adding up to one an hour over the years.
tide_of_hours <- function(hours, hour) {
  truth <- crossings_truth$tide
  away <- (hours + 0.5 - truth$first_high_water) %%
    truth$between_high_waters_hours
  away <- pmin(away, truth$between_high_waters_hours - away)
  spring <- 1 + truth$spring_amplitude *
    cos(2 * pi * hours / 24 / truth$comes_back_days)
  by_day <- hour >= truth$boats_from & hour <= truth$boats_to
  near <- spring * exp(-0.5 * (away / truth$hours_about)^2) * by_day
  near / mean(near)
}

write_crossings <- function(file) {
  truth <- crossings_truth
  at <- function(text) as.POSIXct(text, tz = truth$zone)
  instant <- seq(at(truth$first), at(truth$last), by = 3600)
  clock <- as.POSIXlt(instant)
  day <- as.Date(format(instant, "%Y-%m-%d"))
  weather <- as.numeric(stats::arima.sim(
    list(ar = truth$weather_autocorrelation), n = length(unique(day)),
    sd = truth$weather_sd * sqrt(1 - truth$weather_autocorrelation^2)
  ))[match(day, unique(day))]
  weekday <- clock$wday
  weekday[weekday == 0] <- 7
  month <- clock$mon + 1
  hour <- clock$hour + 1
  years <- as.numeric(day - day[[1]]) / 365.25
  stormy <- day >= as.Date(truth$storm$from) & day <= as.Date(truth$storm$to)
  shared <- (1 + truth$growth_percent_per_year / 100)^years *
    ifelse(stormy, truth$storm$share_left, 1)
  hours <- as.numeric(instant - instant[[1]], units = "hours")
  levels <- list(
    market = truth$market$weekday_index[weekday] *
      truth$market$month_index[month] * market_hours[hour] * exp(weather),
    tide = tide_of_hours(hours, clock$hour) * exp(weather),
    excursion = truth$excursion$month_index[month] * excursion_hours[hour] *
      exp(truth$excursion$weather_share * weather)
  )
  rows <- data.frame(time = format(instant, "%Y-%m-%d %H:%M"))
  for (line in names(levels)) {
    mean <- truth$line_mean[[line]] * shared * levels[[line]]
    rows[[line]] <- as.character(stats::rpois(length(mean), mean))
  }

  within <- function(span) instant >= at(span$from) & instant <= at(span$to)
  rows$market[within(truth$blank)] <- ""
  rows$market[rows$time == "2030-07-19 14:00"] <- "closed"
  rows$tide[rows$time == "2031-08-02 12:00"] <- "4O"
  out <- within(truth$closed_week) | within(truth$short_outage)
  stopifnot(
    sum(within(truth$blank)) == truth$blank$rows,
    sum(out) == truth$closed_week$rows + truth$short_outage$rows
  )
  rows <- rows[!out, ]
  planted <- list(
    "2029-02-28 23:00" = c("2029-02-30 10:00", "71", "45", "0"),
    "2029-06-17 23:00" = c("2029-06-17 25:00", "3", "1", "0"),
    "2030-03-31 00:00" = c("2030-03-31 01:00", "0", "0", "0"),
    "2030-05-04 11:00" = c("", "88", "52", "61"),
    "2030-10-19 08:00" = c("19/10/2030 09:00", "74", "41", "33")
  )
  for (after in names(planted)) {
    place <- match(after, rows$time)
    rows <- rbind(
      rows[seq_len(place), ], planted[[after]], rows[-seq_len(place), ]
    )
  }
  utils::write.csv(rows, file, row.names = FALSE, quote = FALSE, na = "")
  c(truth, list(rows = nrow(rows)))
}
