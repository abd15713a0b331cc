# Calls that boats sent to the harbour office, a row for each and no figure. The
# time is that of the boat's own clock, whose distance from UTC stands beside
# it. Planted: names written in other ways, calls that were logged twice over,
# and a week of storms with three times as many.

radio_truth <- list(
  first = "2030-01-01", last = "2031-12-31", calls_per_day = 2.6,
  month_index = c(
    0.6, 0.6, 0.8, 1.0, 1.2, 1.5, 1.6, 1.5, 1.1, 0.9, 0.7, 0.5
  ),
  boats = list(Petrel = 0.4, Whimbrel = 0.3, Fulmar = 0.2, Auk = 0.1),
  clocks = list(
    Petrel = "+00:00", Whimbrel = "+00:00", Fulmar = "+01:00", Auk = "-01:00"
  ),
  kinds = list(position = 0.55, weather = 0.25, fuel = 0.15, medical = 0.05),
  written = list(
    Petrel = c("petrel", "PETREL"), Whimbrel = "Whimbrell", Fulmar = "fulmar"
  ),
  written_otherwise = 0.04, logged_twice = 0.02,
  storm = list(from = "2030-11-18", to = "2030-11-22", factor = 3)
)

write_radio <- function(file) {
  truth <- radio_truth
  day <- seq(as.Date(truth$first), as.Date(truth$last), "day")
  stormy <- day >= as.Date(truth$storm$from) & day <= as.Date(truth$storm$to)
  calls <- stats::rpois(
    length(day), truth$calls_per_day * ifelse(stormy, truth$storm$factor, 1) *
      truth$month_index[as.POSIXlt(day)$mon + 1]
  )
  n <- sum(calls)
  drawn <- function(shares) sample(names(shares), n, TRUE, unlist(shares))
  boat <- drawn(truth$boats)
  clock <- unlist(truth$clocks)[boat]
  second <- as.numeric(rep(day, calls)) * 86400 +
    floor(stats::runif(n) * 86400)
  order <- order(second)
  ahead <- as.numeric(substr(clock, 1, 3)) * 3600
  rows <- data.frame(
    sent = format(
      .POSIXct(second + ahead, tz = "UTC"), "%Y-%m-%d %H:%M:%S", tz = "UTC"
    ),
    clock = clock, boat = boat, kind = drawn(truth$kinds)
  )[order, ]
  others <- unlist(truth$written)
  names(others) <- rep(names(truth$written), lengths(truth$written))
  for (i in which(stats::runif(n) < truth$written_otherwise)) {
    ways <- others[names(others) == rows$boat[[i]]]
    if (length(ways) > 0) rows$boat[[i]] <- sample(unname(ways), 1)
  }
  again <- which(stats::runif(n) < truth$logged_twice)
  rows <- rows[sort(c(seq_len(n), again)), ]
  utils::write.csv(rows, file, row.names = FALSE, quote = FALSE)
  c(truth, list(calls = n, logged_again = length(again)))
}
