# Electricity meters of three cold stores, read every Monday: cumulative kWh, a
# row per store and hall, a column per date. The weekly use is base x season x
# error. Planted: a meter that was exchanged and starts at zero, a reading that
# was corrected downwards, readings that were not taken, and one that is no
# number.

cold_store_truth <- list(
  first = "2030-01-07", last = "2031-12-29",
  halls = list(Quay = c("1", "2", "3"), Mole = c("1", "2"), Slip = c("1", "2")),
  weekly_kwh = list(
    Quay = c(2100, 1850, 900), Mole = c(1400, 1320), Slip = c(760, 640)
  ),
  # Of the use that comes and goes with the year.
  warm_share = 0.3, error_sd = 0.03,
  reset = list(store = "Mole", hall = "2", date = "2030-09-02"),
  correction = list(
    store = "Quay", hall = "3", date = "2031-03-17", kwh = 4000
  ),
  blank = 4, fault = list(
    store = "Slip", hall = "1", date = "2031-06-09", text = "fault"
  )
)

write_cold_store <- function(file) {
  truth <- cold_store_truth
  date <- seq(as.Date(truth$first), as.Date(truth$last), by = "week")
  season <- 1 + truth$warm_share * sin(
    2 * pi * (as.POSIXlt(date)$yday - 110) / 365.25
  )
  readings <- do.call(rbind, lapply(names(truth$halls), function(store) {
    do.call(rbind, lapply(seq_along(truth$halls[[store]]), function(i) {
      use <- truth$weekly_kwh[[store]][[i]] * season * exp(
        stats::rnorm(length(date), sd = truth$error_sd)
      )
      reading <- 20000 * i + cumsum(round(use))
      here <- function(what) {
        what$store == store &&
          what$hall == truth$halls[[store]][[i]]
      }
      if (here(truth$reset)) {
        from <- which(date >= as.Date(truth$reset$date))
        reading[from] <- reading[from] - reading[from[[1]] - 1]
      }
      if (here(truth$correction)) {
        from <- which(date >= as.Date(truth$correction$date))
        reading[from] <- reading[from] - truth$correction$kwh
      }
      data.frame(
        store = store, hall = truth$halls[[store]][[i]],
        t(as.character(reading))
      )
    }))
  }))
  names(readings) <- c("store", "hall", format(date))
  cell <- function(store, hall, date) {
    list(
      readings$store == store & readings$hall == hall, format(as.Date(date))
    )
  }
  blank <- list(
    cell("Quay", "1", "2030-04-22"), cell("Quay", "2", "2030-04-22"),
    cell("Slip", "2", "2030-12-30"), cell("Mole", "1", "2031-08-04")
  )
  for (where in blank) {
    readings[where[[1]], where[[2]]] <- ""
  }
  fault <- cell(truth$fault$store, truth$fault$hall, truth$fault$date)
  readings[fault[[1]], fault[[2]]] <- truth$fault$text
  utils::write.csv(readings, file, row.names = FALSE, quote = FALSE)
  c(truth, list(lines = nrow(readings), dates = length(date)))
}
