# A checkout, where there is one: tests of the sources and of the README need
# it. `make test` names it.
checkout <- function(...) {
  root <- Sys.getenv("BACKFILL_SOURCE")
  testthat::skip_if(!nzchar(root), "no checkout at hand (R CMD check)")
  file.path(root, ...)
}

# `make oracle` tries what `make test` takes a sample of, and builds with
# sanitizers.
thorough <- function() nzchar(Sys.getenv("BACKFILL_ORACLE"))

skip_unless_thorough <- function() {
  testthat::skip_if_not(thorough(), "it is of `make oracle`")
}

# Steps of studies are kept in a store of the test's own.
own_store <- function(env = parent.frame()) {
  withr::local_envvar(
    R_USER_CACHE_DIR = withr::local_tempdir(.local_envir = env),
    .local_envir = env
  )
}

truths <- function() jsonlite::fromJSON(testthat::test_path("demo-truths.json"))

# A file of the given lines in a folder of its own, gone with the test.
text_file <- function(..., name = "landings.csv", env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  file <- file.path(folder, name)
  writeLines(c(...), file, useBytes = TRUE)
  file
}

# What is identical is equal, too: the comparison that says where two things
# differ takes some milliseconds, of thousands of expectations.
expect_identical <- function(object, expected, ...) {
  if (...length() == 0 && identical(object, expected)) {
    return(testthat::succeed())
  }
  testthat::expect_identical(object, expected, ...)
}

expect_equal <- function(object, expected, ...) {
  if (identical(object, expected)) {
    return(testthat::succeed())
  }
  testthat::expect_equal(object, expected, ...)
}

# Thousands of errors are asked for; no test asks by which calls they came.
options("rlang:::disable_trace_capture" = TRUE)

# Runs the installed command line: list(status, out, err), the last two as
# lines. The first of a command is a child process, which takes two seconds to
# start; `child` says that each has to be one.
backfill_cli <- function(..., dir = tempdir(), child = thorough()) {
  command <- c(..., "")[[1]]
  if (!child && command %in% commands_run$names) {
    return(command_line(..., dir = dir))
  }
  commands_run$names <- c(commands_run$names, command)
  script <- system.file(
    "exec", "backfill", package = "backfill", mustWork = TRUE
  )
  ran <- processx::run(
    file.path(R.home("bin"), "Rscript"), c(script, ...), wd = dir,
    error_on_status = FALSE,
    env = c(
      "current", R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep)
    )
  )
  lines <- function(text) {
    if (nzchar(text)) {
      strsplit(text, "\r?\n")[[1]]
    } else {
      character()
    }
  }
  list(status = ran$status, out = lines(ran$stdout), err = lines(ran$stderr))
}

commands_run <- new.env()

# The same without a child process, for the many ways to go wrong.
command_line <- function(..., dir) {
  err <- withr::local_tempfile()
  to <- file(err, "w")
  sink(to, type = "message")
  on.exit({
    sink(type = "message")
    close(to)
  })
  out <- withr::local_tempfile()
  utils::capture.output(
    status <- withr::with_dir(dir, backfill:::run_command_line(c(...))),
    file = out
  )
  flush(to)
  list(
    status = status, out = readLines(out, encoding = "UTF-8"),
    err = readLines(err)
  )
}

# Records without a file: plain columns in, measures as flows unless said
# otherwise.
records_of <- function(when, ..., series = NULL, kind = "flow", zone = "UTC") {
  data <- tibble::tibble(when = when, ...)
  measures <- setdiff(names(data), c("when", series))
  as_records(
    data, "when", stats::setNames(rep(kind, length(measures)), measures),
    series = series, zone = zone, duplicates = "keep"
  )
}

# A level of days, or of months, whose name is x; NA is a day without a record.
level_by_day <- function(value) {
  level_from(value, as.Date("2031-01-01") + seq_along(value) - 1, "day")
}

level_of <- function(value) {
  month <- seq(as.Date("2028-01-01"), by = "month", length.out = length(value))
  level_from(value, month, "month")
}

level_from <- function(value, when, unit) {
  known <- !is.na(value)
  roll_up(
    records_of(when[known], x = value[known], kind = "level"), unit,
    cadence = unit
  )
}

crossings <- function() {
  read_records(
    demo_file("crossings.csv"), when = "time",
    measures = c(market = "flow", tide = "flow"), zone = "WET"
  )
}

inns <- function() {
  read_records(
    demo_file("inns.csv"), when = "month", series = "inn",
    measures = c(guest_nights = "flow")
  )
}

# Lots of a species are many a day; each boat brings one.
landings <- function(duplicates = "keep", series = "species", ...) {
  read_records(
    demo_file("landings.csv"), when = "date", series = series,
    duplicates = duplicates, measures = c(kilos = "flow", price = "level"), ...
  )
}

lots <- function(duplicates, ...) {
  landings(duplicates, c("species", "boat"), ...)
}

water_tanks <- function() {
  read_records(
    demo_file("water-tanks.csv"), series = c("village", "tank"),
    layout = "dates across",
    measures = list(reading = measure("counter", "litres"))
  )
}

ice_house <- function() {
  read_records(
    demo_file("ice-house.csv"), when = "date", series = c("meter", "register"),
    layout = "series across", header_rows = 2,
    measures = c(reading = "counter")
  )
}

# The column of dates that comes of texts.
dates_of <- function(text, ..., zone = "UTC") {
  data <- tibble::tibble(when = text, kilos = 1)
  as_records(
    data, "when", c(kilos = "flow"), zone = zone, duplicates = "keep", ...
  )
}

# The columns of a table alone, without what it knows of itself.
columns <- function(x) {
  lapply(
    stats::setNames(nm = names(x)), function(name) x[[name]]
  )
}

# Whole periods of one level, made once for each length and kept, as simulations
# need many alike.
periods_from <- function(unit, count, from = "2020-01-01") {
  key <- paste(unit, count, from)
  if (is.null(periods_kept[[key]])) {
    when <- seq(as.Date(from), by = unit, length.out = count)
    periods_kept[[key]] <- roll_up(
      records_of(when, figure = seq_len(count), kind = "level"), unit
    )
  }
  periods_kept[[key]]
}

periods_kept <- new.env()

values_in <- function(x, value) {
  x$value <- as.double(value)
  x
}
