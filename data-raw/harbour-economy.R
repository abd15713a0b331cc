# Three indicators of unlike frequency, each with the day on which it was
# published: the price of fuel by the week, bookings by the month, jobs by the
# quarter. Jobs follow the bookings of the quarter before; bookings fall where
# fuel was dear two months earlier.

harbour_economy_truth <- list(
  first = "2028-01-03", last = "2031-12-29", fuel = list(
    mean = 1.62, autocorrelation = 0.95, sd = 0.03
  ),
  bookings = list(base = 5200, per_fuel = -0.9, lag_months = 2, sd = 0.02,
                  month_index = c(
                    0.62, 0.70, 0.85, 1.02, 1.14, 1.24, 1.38, 1.36, 1.12, 0.94,
                    0.80, 0.83
                  )),
  jobs = list(base = 310, per_booking = 0.022, lag_quarters = 1, sd = 3),
  published_after_days = list(fuel = 3, bookings = 12, jobs = 41)
)

write_harbour_economy <- function(file) {
  truth <- harbour_economy_truth
  week <- seq(as.Date(truth$first), as.Date(truth$last), by = "week")
  fuel <- truth$fuel$mean + as.numeric(
    stats::arima.sim(list(ar = truth$fuel$autocorrelation), length(week),
                     sd = truth$fuel$sd)
  )
  month <- seq(as.Date("2028-01-01"), as.Date("2031-12-01"), by = "month")
  by_month <- tapply(fuel, format(week, "%Y-%m"), mean)[format(month, "%Y-%m")]
  lag <- truth$bookings$lag_months
  earlier <- c(
    rep(truth$fuel$mean, lag), by_month[seq_len(length(month) - lag)]
  )
  bookings <- round(
    truth$bookings$base *
      truth$bookings$month_index[as.POSIXlt(month)$mon + 1] *
      exp(truth$bookings$per_fuel * (earlier - truth$fuel$mean) +
            stats::rnorm(length(month), sd = truth$bookings$sd))
  )
  quarter <- month[seq(1, length(month), by = 3)]
  in_quarter <- colSums(matrix(bookings, nrow = 3))
  jobs <- round(
    truth$jobs$base + truth$jobs$per_booking * c(
      in_quarter[[1]], in_quarter[-length(in_quarter)]
    ) +
      stats::rnorm(length(quarter), sd = truth$jobs$sd)
  )
  iso_week <- function(day) {
    thursday <- as.POSIXlt(day + 3)
    sprintf("%04d-W%02d", thursday$year + 1900, thursday$yday %/% 7 + 1)
  }
  after <- function(end, name) format(end + truth$published_after_days[[name]])
  end_of <- function(start, months) {
    last <- function(d) {
      as.numeric(
        seq(.Date(d), by = paste(months, "months"), length.out = 2)[[2]]
      ) - 1
    }
    .Date(vapply(as.numeric(start), last, 0))
  }
  rows <- rbind(
    data.frame(
      indicator = "fuel price", period = iso_week(week),
      value = sprintf("%.3f", fuel), published = after(week + 6, "fuel")
    ),
    data.frame(
      indicator = "bookings", period = format(month, "%Y-%m"),
      value = as.character(bookings),
      published = after(end_of(month, 1), "bookings")
    ),
    data.frame(
      indicator = "jobs",
      period = sprintf(
        "%s-Q%d", format(quarter, "%Y"), as.POSIXlt(quarter)$mon %/% 3 + 1
      ),
      value = as.character(jobs), published = after(end_of(quarter, 3), "jobs")
    )
  )
  utils::write.csv(rows, file, row.names = FALSE, quote = FALSE)
  c(
    truth,
    list(
      rows = nrow(rows), weeks = length(week), months = length(month),
      quarters = length(quarter)
    )
  )
}
