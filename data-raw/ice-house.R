# The brine and current meters of the ice plant, read every Sunday, under two
# header rows: the meter above, its register by day and by night below. Planted:
# a register of five figures that rolls over behind 99,999, a meter that was
# exchanged, and a week in which nobody read them.

ice_house_truth <- list(
  first = "2030-01-06", last = "2031-12-28",
  weekly = list(
    brine = list(day = 640, night = 410), current = list(
      day = 2250, night = 980
    )
  ),
  start = list(
    brine = list(day = 12840, night = 7705),
    current = list(day = 20314, night = 41877)
  ),
  warm_share = 0.4, error_sd = 0.04,
  rolls_over = list(meter = "current", register = "day", above = 99999),
  exchanged = list(meter = "brine", register = "night", date = "2031-02-16"),
  not_read = "2030-08-18"
)

write_ice_house <- function(file) {
  truth <- ice_house_truth
  date <- seq(as.Date(truth$first), as.Date(truth$last), by = "week")
  season <- 1 + truth$warm_share * sin(
    2 * pi * (as.POSIXlt(date)$yday - 110) / 365.25
  )
  columns <- lapply(names(truth$weekly), function(meter) {
    lapply(names(truth$weekly[[meter]]), function(register) {
      used <- truth$weekly[[meter]][[register]] * season *
        exp(stats::rnorm(length(date), sd = truth$error_sd))
      reading <- truth$start[[meter]][[register]] + cumsum(round(used))
      here <- function(what) what$meter == meter && what$register == register
      if (here(truth$exchanged)) {
        from <- which(date >= as.Date(truth$exchanged$date))
        reading[from] <- reading[from] - reading[from[[1]] - 1]
      }
      if (here(truth$rolls_over)) {
        reading <- reading %% (truth$rolls_over$above + 1)
      }
      reading
    })
  })
  table <- do.call(cbind, unlist(columns, recursive = FALSE))
  table[date == as.Date(truth$not_read), ] <- NA
  meters <- names(truth$weekly)
  lines <- c(
    paste(c("", rbind(meters, "")), collapse = ","),
    paste(c("date", rep(c("day", "night"), length(meters))), collapse = ","),
    paste(
      format(date), apply(table, 1, function(row) {
        paste(ifelse(is.na(row), "", format(row, scientific = FALSE,
                                            trim = TRUE)), collapse = ",")
      }), sep = ","
    )
  )
  writeLines(lines, file)
  c(truth, list(lines = length(date)))
}
