# Boardings per hour at the two gates of a harbour, by the local clock of a zone
# with daylight saving. The count of an hour is a Poisson draw around base x
# trend x month x weekday x hour x weather, where the weather is a day's
# autoregressive error. Planted: a first and a last month cut short, an outage
# without rows, hours without a count, a week of storms, and rows that cannot be
# used.

sailings_truth <- list(
  zone = "WET",
  first = "2029-01-09 06:00", last = "2031-12-17 21:00",
  growth_percent_per_year = 4,
  gate_mean = list(north = 60, south = 38),
  month_index = c(
    0.62, 0.66, 0.80, 0.98, 1.10, 1.28, 1.56, 1.60, 1.14, 0.88, 0.66, 0.72
  ),
  weekday_index = c(0.96, 0.92, 0.93, 0.97, 1.16, 1.14, 0.92), # Monday first
  weather_autocorrelation = 0.4, weather_sd = 0.08,
  storm = list(from = "2030-11-18", to = "2030-11-22", share_left = 0.2),
  outage = list(from = "2030-02-11 00:00", to = "2030-02-13 23:00", rows = 72),
  short_outage = list(
    from = "2030-09-14 06:00", to = "2030-09-14 14:00", rows = 9
  ),
  blank = list(
    measure = "north", from = "2031-05-06 08:00", to = "2031-05-06 21:00",
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

# One share for each hour of the day, adding up to 24: no boats at night, a peak
# before work and one after it.
hour_profile <- function() {
  shape <- c(
    0, 0, 0, 0, 0.1, 0.6, 1.6, 2.3, 2, 1.5, 1.3, 1.2, 1.3, 1.2, 1.3, 1.5, 2,
    2.4, 1.9, 1.3, 0.9, 0.6, 0.3, 0.1
  )
  24 * shape / sum(shape)
}

write_sailings <- function(file) {
  truth <- sailings_truth
  at <- function(text) as.POSIXct(text, tz = truth$zone)
  instant <- seq(at(truth$first), at(truth$last), by = 3600)
  clock <- as.POSIXlt(instant)
  day <- as.Date(format(instant, "%Y-%m-%d"))
  weather <- as.numeric(stats::arima.sim(
    list(ar = truth$weather_autocorrelation), n = length(unique(day)),
    sd = truth$weather_sd * sqrt(1 - truth$weather_autocorrelation^2)
  ))
  weekday <- clock$wday
  weekday[weekday == 0] <- 7
  years <- as.numeric(day - day[[1]]) / 365.25
  stormy <- day >= as.Date(truth$storm$from) & day <= as.Date(truth$storm$to)
  level <- (1 + truth$growth_percent_per_year / 100)^years *
    truth$month_index[clock$mon + 1] *
    truth$weekday_index[weekday] * hour_profile()[clock$hour + 1] * exp(
    weather[match(day, unique(day))]
  ) *
    ifelse(stormy, truth$storm$share_left, 1)
  rows <- data.frame(
    time = format(instant, "%Y-%m-%d %H:%M"),
    north = as.character(
      stats::rpois(length(level), level * truth$gate_mean$north)
    ),
    south = as.character(
      stats::rpois(length(level), level * truth$gate_mean$south)
    )
  )

  within <- function(span) instant >= at(span$from) & instant <= at(span$to)
  rows$north[within(truth$blank)] <- ""
  rows$north[rows$time == "2030-07-19 14:00"] <- "closed"
  rows$south[rows$time == "2031-08-02 12:00"] <- "4O"
  out <- within(truth$outage) | within(truth$short_outage)
  stopifnot(sum(within(truth$blank)) == truth$blank$rows,
            sum(out) == truth$outage$rows + truth$short_outage$rows)
  rows <- rows[!out, ]
  planted <- list(
    "2029-02-28 23:00" = c("2029-02-30 10:00", "71", "45"),
    "2029-06-17 23:00" = c("2029-06-17 25:00", "3", "1"),
    "2030-03-31 00:00" = c("2030-03-31 01:00", "0", "0"),
    "2030-05-04 11:00" = c("", "88", "52"),
    "2030-10-19 08:00" = c("19/10/2030 09:00", "74", "41")
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
