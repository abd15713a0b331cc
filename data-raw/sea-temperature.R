# Sea temperature by the day on a small grid, a NetCDF file per year, packed and
# with -99 where it is missing: land, and days under cloud. It is mean +
# latitude + season + weather, where the weather is autoregressive and the same
# in all cells, with a small error of its own in each. Planted: a warm spell.

sea_temperature_truth <- list(
  years = 2029:2031, lat = c(47.0, 47.2, 47.4, 47.6, 47.8), lon = c(
    -31.0, -30.75, -30.5, -30.25, -30.0, -29.75
  ),
  mean = 12.4, per_degree_north = -0.8, amplitude = 4.6, warmest_day = 233,
  weather_autocorrelation = 0.9,
  weather_sd = 0.6, cell_sd = 0.15, land = list(
    c(47.4, -30.5), c(47.4, -30.25)
  ), cloud_share = 0.004,
  warm_spell = list(from = "2030-08-05", to = "2030-08-24", degrees = 2.5),
  fill = -99
)

write_sea_temperature <- function(folder) {
  truth <- sea_temperature_truth
  day <- seq(
    as.Date(sprintf("%d-01-01", min(truth$years))),
    as.Date(sprintf("%d-12-31", max(truth$years))), by = "day"
  )
  weather <- as.numeric(
    stats::arima.sim(list(ar = truth$weather_autocorrelation), length(day),
                     sd = truth$weather_sd * sqrt(
                       1 - truth$weather_autocorrelation^2
                     ))
  )
  spell <- day >= as.Date(truth$warm_spell$from) &
    day <= as.Date(truth$warm_spell$to)
  common <- truth$mean + truth$amplitude * cos(
    2 * pi * (as.POSIXlt(day)$yday + 1 - truth$warmest_day) / 365.25
  ) +
    weather + ifelse(spell, truth$warm_spell$degrees, 0)
  cells <- expand.grid(lon = truth$lon, lat = truth$lat)
  value <- outer(
    truth$per_degree_north * (cells$lat - mean(truth$lat)), common, "+"
  ) +
    stats::rnorm(nrow(cells) * length(day), sd = truth$cell_sd)
  land <- Reduce(
    `|`,
    lapply(
      truth$land,
      function(place) cells$lat == place[[1]] & cells$lon == place[[2]]
    )
  )
  value[land, ] <- NA
  cloud <- sample(
    which(!is.na(value)), round(truth$cloud_share * sum(!is.na(value)))
  )
  value[cloud] <- NA
  for (year in truth$years) {
    here <- which(format(day, "%Y") == year)
    lon <- ncdf4::ncdim_def("lon", "degrees_east", truth$lon)
    lat <- ncdf4::ncdim_def("lat", "degrees_north", truth$lat)
    time <- ncdf4::ncdim_def(
      "time", "days since 2029-01-01",
      as.integer(day[here] - as.Date("2029-01-01")), calendar = "standard"
    )
    variable <- ncdf4::ncvar_def(
      "sea_temperature", "degree_Celsius", list(lon, lat, time), missval = -99,
      prec = "short", compression = 9
    )
    file <- ncdf4::nc_create(
      file.path(folder, sprintf("sea-temperature-%d.nc", year)), variable,
      force_v4 = TRUE
    )
    ncdf4::ncatt_put(file, variable, "scale_factor", 0.01)
    ncdf4::ncatt_put(file, variable, "add_offset", 12)
    packed <- round((value[, here] - 12) / 0.01)
    # A packed figure must not look like a missing one.
    packed[packed %in% truth$fill] <- truth$fill + 1
    packed[is.na(packed)] <- truth$fill
    dim(packed) <- c(length(truth$lon), length(truth$lat), length(here))
    ncdf4::ncvar_put(file, variable, packed)
    ncdf4::nc_close(file)
  }
  c(
    truth,
    list(
      days = length(day), missing_cells = sum(is.na(value)),
      cells = nrow(cells),
      mean_2031_07_15 = round(
        sum(
          cos_weighted(value, cells$lat)[, match(as.Date("2031-07-15"), day)]
        ),
        3
      )
    )
  )
}

# Each cell's part in the mean, by the cosine of its latitude.
cos_weighted <- function(value, lat) {
  weight <- cos(lat * pi / 180) * !is.na(value)
  ifelse(is.na(value), 0, value) * weight / rep(
    colSums(weight), each = length(lat)
  )
}
