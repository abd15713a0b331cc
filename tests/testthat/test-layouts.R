test_that("the meters of the water tanks, with a date in each column, come one per row", {
  truth <- truths()$water_tanks
  records <- water_tanks()
  expect_identical(account(records)$rows_read, truth$lines * truth$dates)
  expect_identical(
    nrow(records) + nrow(rows_set_aside(records)), truth$lines * truth$dates
  )
  expect_identical(account(records)$missing$count, truth$blank)
  # Line and column of the file.
  aside <- rows_set_aside(records)
  expect_identical(aside$column, truth$fault$date)
  file <- strsplit(readLines(demo_file("water-tanks.csv")), ",")
  expect_identical(
    file[[aside$line]][match(aside$column, file[[1]])], truth$fault$text
  )
  # Each cell is where it was.
  for (i in seq(1, nrow(records), by = 31)) {
    row <- Filter(
      function(fields) {
        fields[[1]] == records$village[[i]] &&
          fields[[2]] == records$tank[[i]]
      },
      file
    )[[1]]
    cell <- suppressWarnings(as.numeric(
      row[match(format(records$date[[i]]), file[[1]])]
    ))
    expect_identical(records$reading[[i]], cell)
  }
})

test_that("a counter is differenced series by series, and a fall makes no negative use", {
  truth <- truths()$water_tanks
  yearly <- roll_up(water_tanks(), "year", enough = 0.9)
  expect_true(all(yearly$value > 0))
  readings <- water_tanks()
  one <- readings[readings$village == "Quay" & readings$tank == 1, ]
  year <- substr(one$date, 1, 4)
  rise <- c(NA, diff(one$reading[!is.na(one$reading)]))
  expect_identical(yearly$value[yearly$village == "Quay" & yearly$tank == 1],
                   as.vector(tapply(
                     rise, year[!is.na(one$reading)], sum, na.rm = TRUE
                   )))
  expect_match(account(readings)$suspicious$what, "the counter falls 2 times")
})

test_that("a column between the dates whose header is no date has its cells set aside", {
  file <- text_file(
    "store,2031-04-01,2031-04-31,2031-04-03", "A,1,2,3", "B,4,5,6"
  )
  records <- read_records(
    file, measures = c(kwh = "level"), series = "store",
    layout = "dates across"
  )
  expect_identical(records$kwh, c(1, 4, 3, 6))
  expect_identical(rows_set_aside(records)$text, c("2031-04-31", "2031-04-31"))
  expect_error(
    read_records(
      text_file("store,x,y", "A,1,2"), measures = c(kwh = "level"),
      layout = "dates across"
    ),
    "needs two at least", class = "backfill_error_layout"
  )
})

test_that("series stand across, with one header row or two", {
  one <- read_records(
    text_file(
      "day,north,south", "2031-04-01,1,3", "2031-04-02,2,x", "2031-04-03,7,"
    ),
    "day", c(boardings = "flow"), series = "gate", layout = "series across"
  )
  expect_identical(
    as.list(one[c("gate", "boardings")]),
    list(gate = rep(c("north", "south"), c(3, 2)),
         boardings = c(1, 2, 7, 3, NA))
  )
  expect_identical(
    rows_set_aside(one)[c("line", "column", "text")],
    tibble::tibble(line = 3L, column = "south", text = "x")
  )
  measures_above <- c("day,close,,kilos,", ",cod,ling,cod,ling")
  for (
    header in list(
      measures_above, c("day,cod,ling,cod,ling", ",close,close,kilos,kilos")
    )
  ) {
    two <- read_records(
      text_file(header, "2031-04-01,1,2,3,4", "2031-04-02,5,6,7,8"), "day",
      c(close = "level", kilos = "flow"), series = "species",
      layout = "series across", header_rows = 2
    )
    expect_identical(two$close, c(1, 5, 2, 6), label = header[[1]])
    expect_identical(two$kilos, c(3, 7, 4, 8), label = header[[1]])
    expect_identical(
      two$species, rep(c("cod", "ling"), each = 2), label = header[[1]]
    )
  }
  expect_error(
    read_records(
      text_file("day,a,a", "2031-04-01,1,2"), "day", c(v = "flow"),
      layout = "series across"
    ),
    "same header", class = "backfill_error_column"
  )
})

test_that("series by file are named by what a pattern's star stands for", {
  folder <- withr::local_tempdir()
  dir.create(file.path(folder, "west"))
  for (name in c("cases-north.csv", "cases-south.v2.csv", "west/day.csv")) {
    writeLines(c("day,kilos", "2031-04-01,5"), file.path(folder, name))
  }
  named <- function(...) {
    withr::local_dir(folder)
    read_records(c(...), "day", c(kilos = "flow"), source = "gate")$gate
  }
  expect_identical(named("cases-*.csv"), c("north", "south.v2"))
  expect_identical(
    named(file.path(folder, "cases-*.csv")), c("north", "south.v2")
  )
  expect_identical(named("*/day.csv"), "west")
  expect_identical(
    withr::with_envvar(c(HOME = folder), named("~/cases-*.csv")),
    c("north", "south.v2")
  )
  whole <- c("cases-north", "cases-south.v2")
  expect_identical(named("cases-[ns]*.csv"), whole)
  expect_identical(named("c*s-*.csv"), whole)
  expect_identical(
    named("cases-north.csv", "cases-south.v2.csv"), whole
  )
  # Found to be series by file, they may be asked for as what they are.
  withr::local_dir(folder)
  expect_identical(
    suppressMessages(read_records("cases-*.csv", series = "file"))$file,
    c("north", "south.v2")
  )
  expect_error(
    suppressMessages(read_records("cases-*.csv", series = "gate")),
    "no column \"gate\"", class = "backfill_error_column"
  )
})

test_that("several files are read as one, with their names as a series", {
  folder <- withr::local_tempdir()
  writeLines(
    c("day,kilos", "2031-04-01,5", "soon,6", "2031-04-03,8"),
    file.path(folder, "north.csv")
  )
  writeLines(
    c("kilos,day", "7,2031-04-01", "many,2031-04-02", "n/a,2031-04-03"),
    file.path(folder, "south.csv")
  )
  records <- read_records(
    file.path(folder, "*.csv"), "day", c(kilos = "flow"), source = "gate"
  )
  expect_identical(records$gate, c("north", "north", "south", "south"))
  expect_identical(records$kilos, c(5, 8, 7, NA))
  aside <- rows_set_aside(records)
  expect_identical(
    paste(basename(aside$source), aside$line), c("north.csv 3", "south.csv 3")
  )
  expect_identical(account(records)$sources$rows, c(3L, 3L))
  writeLines(c("day,tons", "2031-04-01,5"), file.path(folder, "west.csv"))
  expect_error(
    read_records(file.path(folder, "*.csv"), "day", c(kilos = "flow")),
    "north.csv and west.csv.*tons", class = "backfill_error_column"
  )
  expect_error(
    read_records(file.path(folder, "*.txt"), "day", c(kilos = "flow")),
    "No file fits", class = "backfill_error_file"
  )
})

test_that("a row for each year and a column for each month are twelve records", {
  months <- c("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep",
              "Oct", "Nov", "Dec")
  figures <- matrix(c(5, 3, 8, 1:21), 2, 12, byrow = TRUE)
  file <- text_file(
    paste(c("inn", "year", months, "Total"), collapse = ","),
    paste(c("Lantern", 2029, figures[1, ], sum(figures[1, ])), collapse = ","),
    paste(c("Lantern", 2030, figures[2, 1:11], "", sum(figures[2, ])),
          collapse = ",")
  )
  read <- function(...) {
    read_records(
      file, when = c(year = "year", month = "month"), measures = c(
        nights = "flow"
      ),
      series = "inn", layout = "dates across", ...
    )
  }
  records <- read()
  monthly <- roll_up(records, "month")
  expect_identical(monthly$value[1:23], as.vector(t(figures))[1:23])
  expect_identical(monthly$period[[1]], as.Date("2029-01-01"))
  expect_output(print(account(records)), "Kept beside the figures: \"Total\"")
  found <- inspect_file(file)
  expect_identical(found$arguments$when, c(year = "year", month = "month"))
  expect_identical(found$arguments$series, "inn")
  expect_null(found$problem)
  expect_error(
    read_records(
      file, c(year = "year", day = "inn", month = "month"),
      c(nights = "flow"), layout = "dates across"
    ), class = "backfill_error"
  )
  expect_error(
    read_records(
      file, c(year = "years", month = "month"), c(nights = "flow"),
      layout = "dates across"
    ), "only some are columns", class = "backfill_error_argument"
  )
})

test_that("years stand across beside months, quarters, weeks; days beside hours", {
  frame <- function(part, header, rows = length(part)) {
    # Up and down, as no counter does.
    cells <- matrix(seq_len(rows * length(header)) %% 7 + 3, rows)
    table <- data.frame(part, cells)
    stats::setNames(table, c("part", header))
  }
  expect_in_order <- function(table, when, every, order) {
    file <- withr::local_tempfile(fileext = ".csv")
    utils::write.csv(table, file, row.names = FALSE)
    found <- inspect_file(file)
    expect_identical(found$arguments$when, when)
    expect_null(found$arguments$series)
    expect_null(found$problem)
    records <- do.call(read_records, c(list(file), found$arguments))
    expect_equal(
      roll_up(records, every, cadence = every)$value, order %% 7 + 3
    )
    records
  }
  years <- as.character(2029:2031)
  across <- function(part) stats::setNames(c("part", "year"), c(part, "year"))
  # A line of totals is set aside, figure by figure.
  monthly <- expect_in_order(
    frame(c(month.abb, "Total"), years), across("month"), "month",
    setdiff(1:39, c(13, 26, 39))
  )
  expect_identical(rows_set_aside(monthly)$text, paste0(years, "-Total"))
  expect_in_order(
    frame(rev(month.name), years), across("month"), "month",
    c(12:1, 24:13, 36:25)
  )
  expect_in_order(
    frame(paste0("Q", 1:4), years), across("quarter"), "quarter", 1:12
  )
  numbered <- frame(1:12, years)
  named <- stats::setNames(numbered, c("Month", years))
  expect_in_order(named, c(month = "Month", year = "year"), "month", 1:36)
  expect_in_order(
    stats::setNames(frame(1:52, years[1:2]), c("week", years[1:2])),
    c(week = "week", year = "year"), "week", 1:104
  )
  expect_in_order(
    frame(sprintf("%02d:00", 0:23), c("2031-05-01", "2031-05-02")),
    c(hour = "part", date = "date"), "hour", 1:48
  )
  # Names of places are series, whatever their number, and what is named as one.
  file <- withr::local_tempfile(fileext = ".csv")
  expect_series <- function(part, ...) {
    utils::write.csv(frame(part, years), file, row.names = FALSE)
    found <- inspect_file(file, ...)
    expect_identical(found$arguments$series, "part")
    expect_null(found$problem)
  }
  expect_series(letters[1:12])
  expect_series(c("Jana", "Mara", "Octavia", "Junes"))
  expect_series(month.abb[1:2])
  expect_series(month.abb, series = "part")
  expect_series(month.abb, when = "year")
  expect_identical(
    inspect_file(file, when = across("month"))$arguments$when, across("month")
  )
})

test_that("quarters and hours stand across, too, and the shell reads them", {
  quarters <- text_file(
    "year,Q1,Q2,Q3,Q4", "2029,1,2,3,4", "2030,5,6,7,8", "2031,9,10,11,12"
  )
  records <- read_records(
    quarters, c(year = "year", quarter = "quarter"), c(kilos = "flow"),
    layout = "dates across"
  )
  expect_equal(roll_up(records, "quarter")$value, 1:12)
  expect_identical(
    names(inspect_file(quarters)$arguments$when), c("year", "quarter")
  )
  hours <- text_file(
    paste(c("day", 1:24), collapse = ","),
    paste(c("2030-05-01", 1:24), collapse = ","),
    paste(c("2030-05-02", 25:48), collapse = ","), name = "hours.csv"
  )
  records <- read_records(
    hours, c(date = "day", hour = "hour"), c(litres = "flow"),
    layout = "dates across", hour_ending = TRUE
  )
  hourly <- roll_up(records, "hour")
  expect_equal(hourly$value, 1:48)
  expect_identical(format(hourly$period[[1]], "%F %H:%M"), "2030-05-01 00:00")
  ran <- command_line(
    "periods", hours, "--when", "date=day", "--when", "hour=hour", "--measure",
    "litres:flow", "--layout", "dates across", "--hour-ending", "yes",
    "--every", "day", "--format", "csv", "--quiet", dir = tempdir()
  )
  expect_identical(ran$status, 0L)
  expect_equal(
    data.table::fread(text = ran$out)$value, c(sum(1:24), sum(25:48))
  )
})

test_that("time series of base R and matrices are records like any others", {
  value <- round(rnorm(30), 2)
  for (per_year in c(1, 4, 12)) {
    x <- stats::ts(value, start = c(2029, 1 + 2 * (per_year == 12)),
                   frequency = per_year)
    every <- c("1" = "year", "4" = "quarter", "12" = "month")[
      as.character(per_year)
    ]
    periods <- roll_up(
      as_records(x, "when", c(figure = "level")), every[[1]]
    )
    expect_equal(periods$value, value)
    expect_equal(
      as.numeric(format(periods$period, "%Y")) +
        (as.numeric(format(periods$period, "%m")) - 1) / 12,
      as.numeric(stats::time(x))
    )
  }
  two <- stats::ts(
    cbind(north = 1:6, south = 6:1), start = c(2030, 11), frequency = 12
  )
  both <- as_records(two, "month", c(north = "flow", south = "flow"))
  expect_identical(both$south, as.numeric(6:1))
  expect_identical(both$month[[3]], as.Date("2031-01-01"))
  grid <- matrix(1:6, 3, dimnames = list(
    c("2030-01-01", "2030-01-02", "2030-01-03"), c("a", "b")
  ))
  across <- as_records(
    grid, "day", c(level = "level"), series = "gauge", layout = "series across"
  )
  expect_identical(nrow(across), 6L)
  expect_error(as_records(stats::ts(1:9, frequency = 7), "d", c(v = "flow")),
               "7 a year", class = "backfill_error_when")
  expect_error(as_records(1:3, "d", c(v = "flow")), "data frame",
               class = "backfill_error_input")
  expect_error(as_records(two, "month", c(v = "flow")),
               class = "backfill_error_column")
})
