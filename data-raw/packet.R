# Parcels carried by the packet boat, which sails on workdays only: a row for
# each sailing of eight years. The count of a day is a Poisson draw around the
# mean x trend x its weekday x its month x weather, and larger in the days
# before the Spring Fair, which moves between March and April. The dates of the
# fair are an iCalendar file of their own.

packet_truth <- list(
  first = "2024-01-02", last = "2031-12-30", mean = 120,
  growth_percent_per_year = 3,
  # Monday first.
  weekday_index = c(1.35, 1.05, 0.95, 0.90, 0.75),
  month_index = c(
    0.88, 0.86, 0.92, 0.96, 1.00, 1.02, 0.98, 0.95, 0.98, 1.02, 1.10, 1.33
  ),
  fair = list(
    days_before = 10, factor = 1.4,
    dates = c(
      "2024-03-28", "2025-04-16", "2026-04-04", "2027-03-25",
      holidays_truth$movable[["Spring Fair"]]
    )
  ),
  weather_autocorrelation = 0.3, weather_sd = 0.05
)

packet_days <- function(truth) {
  day <- seq(as.Date(truth$first), as.Date(truth$last), "day")
  off <- outer(
    2024:2031, c(unlist(holidays_truth$yearly), "12-19", "12-20"), paste,
    sep = "-"
  )
  day[
    as.POSIXlt(day)$wday %in% 1:5 &
      !day %in% as.Date(c(as.vector(off), truth$fair$dates))
  ]
}

write_packet <- function(file, fairs) {
  truth <- packet_truth
  day <- packet_days(truth)
  clock <- as.POSIXlt(day)
  weather <- as.numeric(stats::arima.sim(
    list(ar = truth$weather_autocorrelation), n = length(day),
    sd = truth$weather_sd * sqrt(1 - truth$weather_autocorrelation^2)
  ))
  before <- vapply(day, function(one) {
    any(as.numeric(as.Date(truth$fair$dates) - one) %in%
          seq_len(truth$fair$days_before))
  }, NA)
  years <- as.numeric(day - day[[1]]) / 365.25
  mean <- truth$mean * (1 + truth$growth_percent_per_year / 100)^years *
    truth$weekday_index[clock$wday] * truth$month_index[clock$mon + 1] *
    ifelse(before, truth$fair$factor, 1) * exp(weather)
  utils::write.csv(
    data.frame(date = day, parcels = stats::rpois(length(day), mean)), file,
    row.names = FALSE, quote = FALSE
  )
  write_fairs(fairs, truth$fair$dates)
  c(truth, list(rows = length(day)))
}

write_fairs <- function(file, dates) {
  lines <- c(
    "BEGIN:VCALENDAR", "VERSION:2.0",
    "PRODID:-//Tarn Isles harbour office//spring fair//EN",
    unlist(lapply(dates, function(date) {
      c(
        "BEGIN:VEVENT", sprintf("UID:fair-%s@tarn.example", date),
        paste0("DTSTART;VALUE=DATE:", gsub("-", "", date)),
        "SUMMARY:Spring Fair", "END:VEVENT"
      )
    })),
    "END:VCALENDAR"
  )
  writeBin(charToRaw(paste0(lines, "\r\n", collapse = "")), file)
}
