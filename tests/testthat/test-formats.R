landings <- function() {
  tibble::tibble(
    day = as.Date("2031-04-01") + 0:4, port = c("a", "b", "a", "b", "a"),
    kilos = c(5, 6.25, NA, 8, 9)
  )
}

# Each format gives the same records; a Date holds its days as integers or
# doubles, as the format does.
expect_landings <- function(file, ..., label = NULL) {
  records <- read_records(file, "day", c(kilos = "flow"), series = "port", ...)
  records$day <- .Date(as.double(records$day))
  expect_identical(
    as.list(backfill:::plain_tibble(records)), as.list(landings()),
    label = label
  )
  expect_identical(account(records)$rows_read, 5L)
}

test_that("each format is known by its first bytes, whatever its name, and gives the same records", {
  folder <- withr::local_tempdir()
  at <- function(name) file.path(folder, name)
  data <- landings()
  text <- data
  text$day <- format(text$day)

  data.table::fwrite(data, at("plain"))
  to <- gzfile(at("packed"), "wb")
  writeBin(readBin(at("plain"), "raw", 1e5), to)
  close(to)
  jsonlite::write_json(data, at("array"))
  jsonlite::write_json(list(made = "today", rows = data), at("object"))
  jsonlite::stream_out(data, file(at("lines")), verbose = FALSE)
  for (name in c("plain", "packed", "array", "object", "lines")) {
    expect_landings(at(name), label = name)
  }
  skip_if_not_installed("nanoparquet")
  nanoparquet::write_parquet(data, at("parquet"))
  expect_landings(at("parquet"))
  skip_if_not_installed("writexl")
  writexl::write_xlsx(
    list(notes = data.frame(x = 1), data = data), at("book.xlsx")
  )
  file.rename(at("book.xlsx"), at("book"))
  expect_landings(at("book"), sheet = "data")
  for (sheet in list("none", 9)) {
    expect_error(
      read_records(at("book"), sheet = sheet, when = "day", c(kilos = "flow")),
      "no sheet .*; its sheets are", class = "backfill_error"
    )
  }
  skip_if_not_installed("readODS")
  readODS::write_ods(data, at("book.ods"))
  expect_landings(at("book.ods"))
  expect_error(
    read_records(
      at("book.ods"), sheet = "none", when = "day", c(kilos = "flow")
    ),
    "no sheet .*; its sheets are", class = "backfill_error"
  )
  skip_if_not_installed("RSQLite")
  connection <- DBI::dbConnect(RSQLite::SQLite(), at("base"))
  withr::defer(DBI::dbDisconnect(connection))
  DBI::dbWriteTable(connection, "landings", text)
  expect_landings(at("base"))
  DBI::dbWriteTable(connection, "other", text)
  expect_landings(connection, table = "SELECT * FROM landings ORDER BY day")
  expect_error(
    read_records(at("base"), "day", c(kilos = "flow")),
    "\"landings\" and \"other\"", class = "backfill_error_file"
  )
  expect_error(
    read_records(connection, "day", c(kilos = "flow"), table = "boats"),
    "no table \"boats\"", class = "backfill_error_file"
  )
})

test_that("a workbook keeps the type of each cell, its rows their numbers, and a title is seen for what it is", {
  skip_if_not_installed("writexl")
  file <- withr::local_tempfile(fileext = ".xlsx")
  day <- as.Date("2031-04-01") + 0:5
  sheet <- tibble::tibble(
    a = c("Landings of spring", "", "day", format(day)),
    b = c("", "", "kilos", 1:4, "many", "")
  )
  writexl::write_xlsx(sheet, file, col_names = FALSE)
  expect_error(
    read_records(file, "day", c(kilos = "flow")),
    "Line 1 .*title above the header.*`skip` is 2",
    class = "backfill_error_file"
  )
  records <- read_records(file, "day", c(kilos = "flow"), skip = 2)
  expect_identical(records$kilos, c(1, 2, 3, 4, NA))
  expect_identical(
    rows_set_aside(records)[c("line", "text")],
    tibble::tibble(line = 8L, text = "many")
  )
  part <- read_records(file, "day", c(kilos = "flow"), range = "A3:B8")
  expect_identical(part$kilos, c(1, 2, 3, 4))
  expect_identical(rows_set_aside(part)$line, 8L)
  times <- tibble::tibble(
    time = as.POSIXct("2031-04-01 07:30", tz = "UTC") + 3600 * 0:2,
    kilos = 1:3
  )
  writexl::write_xlsx(times, file)
  clock <- read_records(file, "time", c(kilos = "flow"), zone = "CET")
  expect_identical(format(clock$time, "%R"), c("07:30", "08:30", "09:30"))
})

test_that("damaged files of every format are refused, by class and name", {
  folder <- withr::local_tempdir()
  at <- function(name) file.path(folder, name)
  read <- function(name) read_records(at(name), "day", c(kilos = "flow"))
  put <- function(name, ...) writeBin(c(...), at(name))
  to <- gzfile(at("whole"), "wb")
  writeLines(c("day,kilos", sprintf("2031-04-%02d,%d", 1:30, 1:30)), to)
  close(to)
  whole <- readBin(at("whole"), "raw", 1e5)
  put("cut", whole[seq_len(length(whole) - 30)])
  expect_identical(nrow(read("whole")), 30L)
  expect_error(read("cut"), "cut short", class = "backfill_error_file")
  put("json", charToRaw("[{\"day\": \"2031-04-01\", \"kilos\":"))
  put("nested", charToRaw("[{\"day\": \"2031-04-01\", \"kilos\": [1, 2]}]"))
  put("parquet", charToRaw("PAR1 and then nothing of the kind"))
  put("sqlite", charToRaw("SQLite format 3"), raw(600))
  put("netcdf", charToRaw("CDF"), as.raw(1), raw(50))
  put("zip", charToRaw("PK"), as.raw(3:4), raw(100))
  for (name in c("json", "nested", "parquet", "sqlite", "netcdf", "zip")) {
    expect_error(read(name), class = "backfill_error_file", label = name)
  }
})

test_that("a grid gives its mean weighted by area, one cell, or each, with its own packing obeyed", {
  skip_if_not_installed("ncdf4")
  truth <- truths()$sea
  files <- demo_file(sprintf("sea-%d.nc", truth$years))
  mean <- read_records(files, measures = c(sea_temperature = "level"))
  expect_identical(nrow(mean), truth$days)
  expect_identical(mean$time, as.Date("2029-01-01") + seq_len(truth$days) - 1)
  # Packed to a hundredth; on the plane all cells are of one size.
  expect_lt(
    abs(
      mean$sea_temperature[mean$time == "2031-07-15"] - truth$mean_2031_07_15
    ),
    0.01
  )
  each <- read_records(
    files, measures = c(sea_temperature = "level"), cells = "each"
  )
  expect_identical(account(each)$rows_read, truth$days * truth$cells)
  expect_identical(sum(is.na(each$sea_temperature)), truth$missing_cells)
  expect_true(all(each$sea_temperature > 0, na.rm = TRUE))
  one <- read_records(
    files, measures = c(sea_temperature = "level"), cells = c(-1700, 4600)
  )
  expect_identical(
    one$sea_temperature,
    each$sea_temperature[each$y == -2000 & each$x == 4500]
  )
  expect_error(
    read_records(
      files, measures = c(sea_temperature = "level"), cells = c(10, 90000)
    ),
    "outside the grid", class = "backfill_error_argument"
  )
  expect_error(
    read_records(files, measures = c(salt = "level")), "no variable \"salt\"",
    class = "backfill_error_column"
  )
  # The summers were made to come late, or early: the warmest days tell.
  middle <- vapply(truth$years, function(year) {
    here <- format(mean$time, "%Y") == year
    day <- as.POSIXlt(mean$time[here])$yday
    warmth <- mean$sea_temperature[here]
    mean(day[warmth >= stats::quantile(warmth, 0.75)])
  }, 0)
  expect_identical(
    order(middle), order(unlist(
      truth$summer_late_days[as.character(truth$years)]
    ))
  )
})

test_that("the time of a grid is counted as the CF conventions say, and one without time is refused", {
  skip_if_not_installed("ncdf4")
  file <- withr::local_tempfile(fileext = ".nc")
  write <- function(units, values, ...) {
    time <- ncdf4::ncdim_def("t", units, values, ...)
    grid <- ncdf4::nc_create(file, ncdf4::ncvar_def("price", "", time))
    ncdf4::ncvar_put(grid, "price", seq_along(values))
    ncdf4::nc_close(grid)
    read_records(file, measures = c(price = "level"))[[1]]
  }
  expect_identical(
    write("days since 2031-02-27", 0:3), as.Date("2031-02-27") + 0:3
  )
  expect_identical(
    write("days since 2032-02-27 00:00:00", 0:3, calendar = "noleap"),
    as.Date(c("2032-02-27", "2032-02-28", "2032-03-01", "2032-03-02"))
  )
  expect_identical(
    as.numeric(write("hours since 2031-01-01 06:00", c(0.5, 1))),
    as.numeric(as.POSIXct("2031-01-01", tz = "UTC")) + c(6.5, 7) * 3600
  )
  expect_error(
    write("days since 2031-01-01", 1:2, calendar = "360_day"),
    "calendar of its own", class = "backfill_error_file"
  )
  expect_error(
    write("fathoms", 1:2), "no axis of time", class = "backfill_error_file"
  )
})

test_that("an address is fetched, with its errors said", {
  skip_if_not_installed("httpuv")
  skip_if_not_installed("curl")
  folder <- withr::local_tempdir()
  data.table::fwrite(landings(), file.path(folder, "landings.csv"))
  port <- httpuv::randomPort()
  server <- processx::process$new(
    file.path(R.home("bin"), "Rscript"),
    c("-e", sprintf(
      paste(
        "httpuv::startServer('127.0.0.1', %d, list(staticPaths = list('/' =",
        "'%s'))); while (TRUE) httpuv::service(100)"
      ),
      port, folder
    )),
    env = c(
      "current", R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep)
    ),
    stderr = NULL, stdout = NULL
  )
  withr::defer(server$kill())
  address <- sprintf("http://127.0.0.1:%d/landings.csv", port)
  for (attempt in 1:100) {
    if (
      !inherits(
        try(curl::curl_fetch_memory(address), silent = TRUE), "try-error"
      )
    ) {
      break
    }
    Sys.sleep(0.1)
  }
  expect_landings(address)
  expect_error(
    read_records(sub("landings", "none", address), "day", c(kilos = "flow")),
    "status 404", class = "backfill_error_file"
  )
  server$kill()
  expect_error(
    read_records(address, "day", c(kilos = "flow")), "cannot be fetched",
    class = "backfill_error_file"
  )
})

test_that("standard input is read, and inspected", {
  script <- system.file("exec", "backfill", package = "backfill")
  piped <- function(...) {
    processx::run(
      file.path(R.home("bin"), "Rscript"), c(script, ...),
      stdin = demo_file("inns.csv"),
      env = c(
        "current", R_LIBS = paste(.libPaths(), collapse = .Platform$path.sep)
      )
    )
  }
  ran <- piped(
    "periods", "-", "--when", "month", "--measure", "guest_nights:flow",
    "--series", "inn", "--every", "year", "--over", "none", "--window",
    "none", "--format", "csv", "--quiet"
  )
  expect_identical(nrow(data.table::fread(text = ran$stdout)), 16L)
  expect_match(
    piped("inspect", "-")$stdout, "backfill periods - \\\\\n *--when month"
  )
})

test_that("texts that Parquet keeps as codes are guessed as texts are", {
  skip_if_not_installed("nanoparquet")
  texts <- data.frame(
    day = rep(format(as.Date("2031-01-01") + 0:29), 2),
    quay = rep(c("north", "south"), each = 30),
    kilos = paste(rep(c(12, 15, 11), 20), "kg"), note = c("", NA)
  )
  found <- lapply(list(texts, lapply(texts, factor)), function(table) {
    file <- withr::local_tempfile(fileext = ".parquet")
    nanoparquet::write_parquet(as.data.frame(table), file)
    inspect_file(file)
  })
  expect_identical(found[[1]]$arguments$series, "quay")
  expect_identical(found[[2]]$columns, found[[1]]$columns)
  expect_identical(found[[2]]$arguments, found[[1]]$arguments)
  expect_identical(
    lapply(found[[2]]$records, as.vector), lapply(found[[1]]$records, as.vector)
  )
})

test_that("times of Parquet without a zone are those of the clock, others instants", {
  skip_if_not_installed("nanoparquet")
  at <- as.POSIXct("2031-07-01 12:00:00", tz = "UTC") + c(0:2 * 3600, NA)
  hours <- function(utc, zone) {
    file <- withr::local_tempfile(fileext = ".parquet")
    nanoparquet::write_parquet(
      data.frame(time = at, level = 1:4 + 0), file,
      schema = nanoparquet::parquet_schema(
        time = list("TIMESTAMP", is_adjusted_utc = utc, unit = "MICROS"),
        level = "DOUBLE"
      )
    )
    read <- read_records(file, "time", c(level = "level"), zone = zone)
    expect_identical(nrow(rows_set_aside(read)), 1L)
    format(read$time, "%H:%M")
  }
  noon <- c("12:00", "13:00", "14:00")
  expect_identical(hours(FALSE, "UTC"), noon)
  expect_identical(hours(FALSE, "WET"), noon)
  expect_identical(hours(TRUE, "UTC"), noon)
  expect_identical(hours(TRUE, "WET"), c("13:00", "14:00", "15:00"))
})

# A workbook of the sheets `tables`, its parts changed by `edit`.
workbook_of <- function(tables, part, edit, env = parent.frame()) {
  file <- withr::local_tempfile(fileext = ".xlsx", .local_envir = env)
  writexl::write_xlsx(tables, file)
  parts <- withr::local_tempdir()
  utils::unzip(file, exdir = parts)
  at <- file.path(parts, part)
  writeLines(edit(paste(readLines(at, warn = FALSE), collapse = "\n")), at)
  unlink(file)
  zip::zip(file, list.files(parts), root = parts)
  file
}

test_that("a hidden sheet, days since 1904 and formulas never stored are seen", {
  for (package in c("writexl", "readxl", "zip")) skip_if_not_installed(package)
  own <- data.frame(day = format(as.Date("2031-04-01") + 0:4), kilos = 1:5)
  old <- transform(own, kilos = 100)
  book <- workbook_of(
    list(old = old, now = own), "xl/workbook.xml", function(text) {
      sub("<sheet name=\"old\"", "<sheet state=\"hidden\" name=\"old\"", text)
    }
  )
  read <- read_records(book, "day", c(kilos = "flow"))
  expect_equal(read$kilos, 1:5)
  expect_match(account(read)$notes, "\"old\" is hidden", all = FALSE)
  read <- read_records(book, "day", c(kilos = "flow"), sheet = "old")
  expect_equal(read$kilos, rep(100, 5))
  expect_false(any(grepl("hidden", account(read)$notes)))

  since_1904 <- as.numeric(as.Date("2031-04-01") - as.Date("1904-01-01"))
  book <- workbook_of(
    data.frame(day = since_1904 + 0:4, kilos = 1:5), "xl/workbook.xml",
    function(text) {
      sub("<workbookPr[^>]*/>", "<workbookPr date1904=\"1\"/>", text)
    }
  )
  read <- read_records(book, "day", c(kilos = "flow"))
  expect_identical(read$day, as.Date("2031-04-01") + 0:4)
  expect_match(account(read)$notes, "1904-01-01", all = FALSE)

  book <- workbook_of(own, "xl/worksheets/sheet1.xml", function(text) {
    gsub(
      "<c r=\"B([34])\"[^>]*>.*?</c>", "<c r=\"B\\1\"><f>A\\1+1</f></c>", text,
      perl = TRUE
    )
  })
  read <- read_records(book, "day", c(kilos = "flow"))
  expect_identical(sum(is.na(read$kilos)), 2L)
  expect_match(account(read)$notes, "2 cells have a formula", all = FALSE)
})

test_that("a calendar without leap days expects none", {
  skip_if_not_installed("ncdf4")
  file <- withr::local_tempfile(fileext = ".nc")
  # Two years from 2031-03-01, over February 2032.
  time <- ncdf4::ncdim_def(
    "time", "days since 2031-03-01", 0:729, calendar = "noleap"
  )
  rain <- ncdf4::ncvar_def("rain", "mm", time)
  grid <- ncdf4::nc_create(file, rain)
  ncdf4::ncvar_put(grid, rain, rep(1, 730))
  ncdf4::nc_close(grid)
  read <- read_records(file, measures = c(rain = "flow"))
  expect_match(account(read)$notes, "\"noleap\"", all = FALSE)
  months <- roll_up(read, "month")
  expect_true(all(months$standing == "complete"))
  expect_identical(
    months$n[months$period == as.Date("2032-02-01")], 28L
  )
  # And none is missing but what is missing.
  expect_identical(
    sum(roll_up(read[-400, ], "month", enough = 1)$standing == "partial"), 1L
  )
})

test_that("months have their names in eight languages", {
  # By hand, January to December, each in full and, where it is one, the usual
  # abbreviation.
  names <- list(
    german = c(
      "Januar", "Feb.", "März", "April", "Mai", "Juni", "Juli", "Aug.",
      "Sept.", "Oktober", "Nov.", "Dez."
    ),
    french = c(
      "janvier", "févr.", "mars", "avr.", "mai", "juin", "juil.", "août",
      "septembre", "oct.", "novembre", "déc."
    ),
    spanish = c(
      "enero", "feb.", "marzo", "abr.", "mayo", "junio", "julio", "agosto",
      "septiembre", "octubre", "nov.", "dic."
    ),
    italian = c(
      "gennaio", "feb", "marzo", "aprile", "mag", "giugno", "lug", "agosto",
      "settembre", "ott", "novembre", "dic"
    ),
    dutch = c(
      "januari", "februari", "mrt", "april", "mei", "juni", "juli",
      "augustus", "september", "okt", "november", "december"
    ),
    portuguese = c(
      "janeiro", "fev", "março", "abril", "maio", "junho", "julho", "ago",
      "setembro", "out", "novembro", "dez"
    ),
    polish = c(
      "stycznia", "lutego", "marca", "kwietnia", "maja", "czerwca", "lipca",
      "sierpnia", "września", "października", "listopada", "grudnia"
    )
  )
  for (language in names(names)) {
    text <- sprintf("%d %s 2031", 1:12, names[[language]])
    x <- as_records(
      data.frame(day = c(text, toupper(text)), v = 1), "day",
      c(v = "flow"), duplicates = "keep"
    )
    expect_identical(
      x$day, rep(as.Date(sprintf("2031-%02d-%02d", 1:12, 1:12)), 2),
      label = language
    )
  }
  # "jui" is two months, and none is guessed; "mar." before a day is a Tuesday.
  x <- as_records(data.frame(
    day = c("mar. 1 avril 2031", "2 avril 2031", "jui 2031"), v = 1
  ), "day", c(v = "flow"))
  expect_identical(x$day, as.Date(c("2031-04-01", "2031-04-02")))
})

test_that("integers that a double cannot hold are told, and as names kept", {
  ids <- c("9007199254740993", "9007199254740992")
  rows <- sprintf(
    "{\"day\":\"2031-01-0%d\",\"id\":%s,\"kg\":%s}", 1:2, ids, rev(ids)
  )
  file <- function(ending, lines) {
    at <- withr::local_tempfile(fileext = ending, .local_envir = parent.frame())
    writeLines(lines, at)
    at
  }
  files <- list(
    file(".json", paste0("[", paste(rows, collapse = ","), "]")),
    file(".ndjson", rows),
    file(".csv", c(
      "day,id,kg", sprintf("2031-01-0%d,%s,%s", 1:2, ids, rev(ids))
    ))
  )
  for (one in files) {
    read <- read_records(one, "day", c(kg = "flow"), series = "id")
    expect_setequal(read$id, ids)
    expect_match(
      account(read)$notes, "in \"kg\" the last digits are rounded", all = FALSE,
      label = one
    )
  }
})

test_that("of an old workbook it is told which of its sheets was read", {
  skip_if_not_installed("readxl")
  # No package writes the old format; readxl comes with a file of two sheets.
  file <- readxl::readxl_example("deaths.xls")
  sheets <- readxl::excel_sheets(file)
  read <- function(...) {
    read_records(
      file, "Date of birth", c(Age = "level"), range = "A5:F15",
      duplicates = "keep", ...
    )
  }
  expect_match(
    account(read())$notes,
    sprintf("first sheet, \"%s\", was read", sheets[[1]]), all = FALSE
  )
  expect_no_match(
    c("", account(read(sheet = sheets[[2]]))$notes), "was read"
  )
})

test_that("what is packed twice over is told, and each format knows its own arguments", {
  once <- withr::local_tempfile(fileext = ".gz")
  twice <- withr::local_tempfile(fileext = ".gz")
  to <- gzfile(once, "wb")
  writeLines(readLines(demo_file("inns.csv")), to)
  close(to)
  to <- gzfile(twice, "wb")
  writeBin(readBin(once, "raw", file.size(once)), to)
  close(to)
  read <- function(file, ...) {
    read_records(
      file, "month", c(guest_nights = "flow"), series = "inn", ...
    )
  }
  expect_identical(nrow(read(once)), nrow(inns()))
  expect_error(read(twice), "gzip twice over", class = "backfill_error_file")
  nouns <- c(
    sheet = "a workbook", range = "a workbook", table = "a database or JSON",
    cells = "a grid"
  )
  for (argument in names(nouns)) {
    expect_error(
      do.call(read, c(once, stats::setNames(list("each"), argument))),
      sprintf("`%s` is given, but .* is not %s", argument, nouns[[argument]])
    )
  }
})
