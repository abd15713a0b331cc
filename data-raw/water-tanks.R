# The meters of the villages' water tanks, read every Monday: litres drawn since
# each was built, a row per village and tank, a column per date. The weekly draw
# is base x season x error. Planted: a meter that was exchanged and starts at
# zero, a reading that was corrected downwards, readings that were not taken,
# and one that is not a number.

water_tanks_truth <- list(
  first = "2030-01-07", last = "2031-12-29",
  tanks = list(Quay = c("1", "2", "3"), Mole = c("1", "2"), Slip = c("1", "2")),
  weekly_litres = list(
    Quay = c(2100, 1850, 900), Mole = c(1400, 1320), Slip = c(760, 640)
  ),
  # Of the draw that comes and goes with the year.
  warm_share = 0.3, error_sd = 0.03,
  reset = list(village = "Mole", tank = "2", date = "2030-09-02"),
  correction = list(
    village = "Quay", tank = "3", date = "2031-03-17", litres = 4000
  ),
  blank = 4, fault = list(
    village = "Slip", tank = "1", date = "2031-06-09", text = "frozen"
  )
)

write_water_tanks <- function(file) {
  truth <- water_tanks_truth
  date <- seq(as.Date(truth$first), as.Date(truth$last), by = "week")
  season <- 1 + truth$warm_share * sin(
    2 * pi * (as.POSIXlt(date)$yday - 110) / 365.25
  )
  readings <- do.call(rbind, lapply(names(truth$tanks), function(village) {
    do.call(rbind, lapply(seq_along(truth$tanks[[village]]), function(i) {
      tank <- truth$tanks[[village]][[i]]
      drawn <- truth$weekly_litres[[village]][[i]] * season * exp(
        stats::rnorm(length(date), sd = truth$error_sd)
      )
      reading <- 20000 * i + cumsum(round(drawn))
      here <- function(what) what$village == village && what$tank == tank
      if (here(truth$reset)) {
        from <- which(date >= as.Date(truth$reset$date))
        reading[from] <- reading[from] - reading[from[[1]] - 1]
      }
      if (here(truth$correction)) {
        from <- which(date >= as.Date(truth$correction$date))
        reading[from] <- reading[from] - truth$correction$litres
      }
      data.frame(village = village, tank = tank, t(as.character(reading)))
    }))
  }))
  names(readings) <- c("village", "tank", format(date))
  put <- function(village, tank, date, text) {
    row <- readings$village == village & readings$tank == tank
    readings[row, date] <<- text
  }
  put("Quay", "1", "2030-04-22", "")
  put("Quay", "2", "2030-04-22", "")
  put("Slip", "2", "2030-12-30", "")
  put("Mole", "1", "2031-08-04", "")
  fault <- truth$fault
  put(fault$village, fault$tank, fault$date, fault$text)
  utils::write.csv(readings, file, row.names = FALSE, quote = FALSE)
  c(truth, list(lines = nrow(readings), dates = length(date)))
}
