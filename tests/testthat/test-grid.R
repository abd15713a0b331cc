# Grids: codes for missing values, and axes of time as the CF conventions allow
# them.

grid_file <- function(units, times, calendar = NULL, env = parent.frame()) {
  skip_if_not_installed("ncdf4")
  file <- withr::local_tempfile(fileext = ".nc", .local_envir = env)
  time <- do.call(
    ncdf4::ncdim_def,
    c(
      list("time", units, times),
      if (!is.null(calendar)) list(calendar = calendar)
    )
  )
  grid <- ncdf4::nc_create(file, ncdf4::ncvar_def("warmth", "K", time))
  ncdf4::ncvar_put(grid, "warmth", seq_along(times))
  ncdf4::nc_close(grid)
  file
}

test_that("a code for a missing value is left out of the mean of the cells, and told", {
  values <- rbind(c(10, 20, -99), c(30, -99, -99))
  skip_if_not_installed("ncdf4")
  file <- withr::local_tempfile(fileext = ".nc")
  time <- ncdf4::ncdim_def("time", "days since 2031-04-01", 0:2)
  place <- ncdf4::ncdim_def("lat", "degrees_north", c(-5, 5))
  for (prec in c("double", "float")) {
    code <- if (prec == "float") -99.9 else -99
    grid <- ncdf4::nc_create(
      file, ncdf4::ncvar_def("warmth", "K", list(place, time), prec = prec)
    )
    ncdf4::ncvar_put(grid, "warmth", ifelse(values == -99, code, values))
    ncdf4::nc_close(grid)
    read <- function(...) {
      read_records(
        file, measures = c(warmth = "level"), missing = as.character(code), ...
      )
    }
    expect_equal(read()$warmth, c(20, 20, NA))
    expect_match(
      paste(account(read())$notes, collapse = " "), "3 (\"-99", fixed = TRUE
    )
    each <- read(cells = "each")
    expect_equal(sort(each$warmth), c(10, 20, 30))
    expect_equal(sum(is.na(each$warmth)), 3)
  }
})

test_that("units of time are read in each of their forms", {
  read <- function(...) {
    read_records(
      grid_file(...), measures = c(warmth = "level")
    )$time
  }
  utc <- function(x) as.POSIXct(x, tz = "UTC")
  expect_equal(
    read("Hours Since 1900-01-01 00:00:0.0", c(0, 36)),
    utc(c("1900-01-01 00:00", "1900-01-02 12:00"))
  )
  expect_equal(
    read("hours since 1900-1-1 00:00:00", c(0, 36)),
    utc(c("1900-01-01 00:00", "1900-01-02 12:00"))
  )
  expect_equal(
    read("SECONDS SINCE 2031-04-09T06:00:00Z", c(0, 90)),
    utc("2031-04-09 06:00") + c(0, 90)
  )
  expect_equal(
    read("minutes since 2031-04-09 06:00 -2:30", c(0, 90)),
    utc("2031-04-09 08:30") + c(0, 5400)
  )
  expect_equal(
    read("day as %Y%m%d.%f", c(20310409.5, 20310410)),
    utc(c("2031-04-09 12:00", "2031-04-10 00:00"))
  )
  expect_equal(
    read("day as %Y%m%d.%f", c(20310409, 20310410)),
    as.Date(c("2031-04-09", "2031-04-10"))
  )
  expect_error(
    read("hours since 1900-13-01", 0:1), "not read here",
    class = "backfill_error_file"
  )
  expect_error(
    read("months since 1900-01-01", 0:1), "not read here",
    class = "backfill_error_file"
  )
})

test_that("the mixed calendar is Julian before 15 October 1582", {
  read <- function(...) {
    as.numeric(
      read_records(grid_file(...), measures = c(warmth = "level"))$time
    )
  }
  day <- function(x) as.numeric(as.Date(x))
  # The day after 4 October 1582 is the 15th; 1 January of year 1 lies two days
  # before that of the Gregorian calendar.
  expect_equal(
    read("days since 1582-10-04", 0:1, calendar = "standard"),
    day("1582-10-15") + c(-1, 0)
  )
  expect_equal(
    read("days since 1582-10-04", 0:1, calendar = "proleptic_gregorian"),
    day("1582-10-04") + c(0, 1)
  )
  expect_equal(
    read("days since 1-1-1 00:00:00", 741709 + 0:1),
    day("0001-01-01") - 2 + 741709 + 0:1
  )
  expect_equal(
    read(
      "days since 1-1-1 00:00:00", 741709 + 0:1,
      calendar = "proleptic_gregorian"
    ),
    day("0001-01-01") + 741709 + 0:1
  )
  # 1900 was a leap year by the Julian calendar only.
  expect_equal(
    read("days since 1900-02-28", 0:2, calendar = "julian"),
    day("1900-03-12") + 0:2
  )
  expect_equal(
    read("days since 1900-02-28", 0:2, calendar = "gregorian"),
    day("1900-02-28") + 0:2
  )
})

test_that("the mean of a box is that of the cells in it, by area, also across the seam of longitudes", {
  skip_if_not_installed("ncdf4")
  file <- withr::local_tempfile(fileext = ".nc")
  lat <- c(-50, -10, 20, 60)
  lon <- seq(0, 330, by = 30)
  set.seed(6)
  values <- array(stats::rnorm(4 * 12 * 5), c(4, 12, 5))
  values[2, 3, 1] <- NA
  grid <- ncdf4::nc_create(file, ncdf4::ncvar_def("warmth", "K", list(
    ncdf4::ncdim_def("lat", "degrees_north", lat),
    ncdf4::ncdim_def("lon", "degrees_east", lon),
    ncdf4::ncdim_def("time", "days since 2031-04-01", 0:4)
  ), -999, prec = "double"))
  # The writer puts its code into what it is given.
  ncdf4::ncvar_put(grid, "warmth", values + 0)
  ncdf4::nc_close(grid)
  read <- function(...) {
    read_records(file, measures = c(warmth = "level"), ...)
  }
  border <- c(-70, -30, 5, 40, 80)
  area <- diff(sin(border * pi / 180))
  slow <- function(rows, columns) {
    apply(values[rows, columns, , drop = FALSE], 3, function(one) {
      weight <- matrix(area[rows], length(rows), length(columns))
      sum(weight * one, na.rm = TRUE) / sum(weight[!is.na(one)])
    })
  }
  expect_equal(read(cells = c(-20, 30, 30, 100))$warmth, slow(2:3, 2:4))
  # From 40 degrees west to 35 east.
  expect_equal(read(cells = c(-60, 0, -40, 35))$warmth, slow(1:2, c(12, 1, 2)))
  expect_equal(read(cells = c(-90, 90, -180, 180))$warmth, read()$warmth)
  expect_match(
    account(read(cells = c(-20, 30, 30, 100)))$notes, "mean of 6 cells",
    all = FALSE
  )
  ran <- backfill_cli(
    "periods", file, "--cells", "-20:30,30:100", "--every", "day", "--over",
    "none", "--window", "none", "--format", "csv", "--quiet"
  )
  expect_equal(utils::read.csv(text = ran$out)$value, slow(2:3, 2:4))
  for (wrong in list(
    c(30, -20, 30, 100), c(-20, 30, 30), c(21, 25, 30, 100), c(1, NA)
  )) {
    expect_error(read(cells = wrong), class = "backfill_error_argument")
  }
})
