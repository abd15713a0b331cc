# The temperature of the sea by the day at a depth of 15 metres, on a small grid
# in metres from the harbour light, a NetCDF file per year, packed and with -99
# where it is missing: rock, and cells that the sounding boat did not reach. It
# is mean + distance from the shore + season + upwelling, which comes and goes
# with the spring tides, + weather, where the weather is autoregressive and the
# same in all cells, with a small error of its own in each. Planted: a late and
# an early summer.

sea_truth <- list(
  years = 2029:2031, y = c(-4000, -2000, 0, 2000, 4000),
  x = c(-7500, -4500, -1500, 1500, 4500, 7500), depth = 15,
  mean = 10.9, per_km_north = -0.11, amplitude = 4.1, warmest_day = 246,
  # Days by which the summer of a year is late.
  summer_late_days = list("2029" = 0, "2030" = 16, "2031" = -13),
  upwelling = list(days = 14.7653, degrees = 0.5),
  weather_autocorrelation = 0.9, weather_sd = 0.6, cell_sd = 0.15,
  rock = list(c(0, -1500), c(0, 1500)), unreached_share = 0.004, fill = -99
)

write_sea <- function(folder) {
  truth <- sea_truth
  day <- seq(
    as.Date(sprintf("%d-01-01", min(truth$years))),
    as.Date(sprintf("%d-12-31", max(truth$years))), by = "day"
  )
  cells <- expand.grid(x = truth$x, y = truth$y)
  value <- outer(
    truth$per_km_north * (cells$y - mean(truth$y)) / 1000, sea_of_days(day), "+"
  ) + stats::rnorm(nrow(cells) * length(day), sd = truth$cell_sd)
  rock <- paste(cells$y, cells$x) %in% vapply(truth$rock, paste, "",
                                              collapse = " ")
  value[rock, ] <- NA
  value[sample(
    which(!is.na(value)), round(truth$unreached_share * sum(!is.na(value)))
  )] <- NA
  for (year in truth$years) {
    here <- which(format(day, "%Y") == year)
    write_sea_year(
      file.path(folder, sprintf("sea-%d.nc", year)), day[here], value[, here]
    )
  }
  c(truth, list(
    days = length(day), missing_cells = sum(is.na(value)), cells = nrow(cells),
    mean_2031_07_15 = round(
      mean(value[, match(as.Date("2031-07-15"), day)], na.rm = TRUE), 3
    )
  ))
}

# What all cells share. The delay of a summer comes and goes within its year.
sea_of_days <- function(day) {
  truth <- sea_truth
  weather <- as.numeric(stats::arima.sim(
    list(ar = truth$weather_autocorrelation), length(day),
    sd = truth$weather_sd * sqrt(1 - truth$weather_autocorrelation^2)
  ))
  of_year <- as.POSIXlt(day)$yday + 1
  late <- unlist(truth$summer_late_days)[format(day, "%Y")] *
    sin(pi * of_year / 366)^2
  truth$mean +
    truth$amplitude * cos(2 * pi * (of_year - late - truth$warmest_day) /
                            365.25) -
    truth$upwelling$degrees * cos(2 * pi * as.numeric(day - day[[1]]) /
                                    truth$upwelling$days) +
    weather
}

write_sea_year <- function(path, day, value) {
  truth <- sea_truth
  x <- ncdf4::ncdim_def("x", "m", truth$x)
  y <- ncdf4::ncdim_def("y", "m", truth$y)
  depth <- ncdf4::ncdim_def("depth", "m", truth$depth)
  time <- ncdf4::ncdim_def(
    "time", "days since 2029-01-01",
    as.integer(day - as.Date("2029-01-01")), calendar = "standard"
  )
  variable <- ncdf4::ncvar_def(
    "sea_temperature", "degree_Celsius", list(x, y, depth, time), missval = -99,
    prec = "short", compression = 9
  )
  file <- ncdf4::nc_create(path, variable, force_v4 = TRUE)
  on.exit(ncdf4::nc_close(file))
  put <- function(of, name, text) ncdf4::ncatt_put(file, of, name, text)
  put(0, "Conventions", "CF-1.8")
  put("x", "standard_name", "projection_x_coordinate")
  put("y", "standard_name", "projection_y_coordinate")
  put("x", "long_name", "metres east of the harbour light")
  put("y", "long_name", "metres north of the harbour light")
  put("depth", "standard_name", "depth")
  put("depth", "positive", "down")
  put(variable, "standard_name", "sea_water_temperature")
  put(variable, "scale_factor", 0.01)
  put(variable, "add_offset", 12)
  packed <- round((value - 12) / 0.01)
  # A packed figure must not look like a missing one.
  packed[packed %in% truth$fill] <- truth$fill + 1
  packed[is.na(packed)] <- truth$fill
  dim(packed) <- c(length(truth$x), length(truth$y), 1, length(day))
  ncdf4::ncvar_put(file, variable, packed)
}
