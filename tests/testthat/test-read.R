test_that("every row of the demo files is used or set aside, for the reasons that were planted", {
  truth <- truths()
  for (name in c("sailings", "guest_nights")) {
    records <- if (name == "sailings") sailings() else guest_nights()
    account <- intake(records)
    aside <- set_aside(records)
    planted <- unlist(truth[[name]]$set_aside)
    expect_identical(account$rows_read, truth[[name]]$rows, label = name)
    expect_identical(nrow(records) + nrow(aside), account$rows_read, label = name)
    found <- table(aside$reason)
    expect_setequal(names(found), names(planted))
    expect_equal(as.integer(found[names(planted)]), as.integer(planted), label = name)
    # The line and the text are those of the file.
    file <- readLines(demo_file(if (name == "sailings") "sailings.csv" else "guest-nights.csv"))
    expect_true(all(mapply(grepl, aside$text, file[aside$line], fixed = TRUE)), label = name)
  }
  expect_identical(intake(sailings())$missing[["north"]], truth$sailings$blank$rows)
})

test_that("rows read are rows used plus rows set aside, whatever mess is in the file", {
  withr::local_seed(4)
  for (round in 1:40) {
    n <- sample(5:60, 1)
    day <- format(as.Date("2031-01-01") + seq_len(n))
    kilos <- as.character(round(runif(n, 0, 900), 1))
    spoil <- function(x, with) replace(x, sample(n, n %/% 5), sample(with, n %/% 5, replace = TRUE))
    bad_day <- c("", "2031-02-30", "soon", "2031-13-01", "01/02/2031", "2031-01-01T25:00", "20310")
    bad_kilos <- c("", "many", "1,5", "--3", "1e999", "NA", "0x1F", "5kg")
    lines <- sprintf("%s;%s", spoil(day, bad_day), spoil(kilos, bad_kilos))
    records <- read_records(text_file("date;kilos", lines), "date", c(kilos = "flow"))
    aside <- set_aside(records)
    expect_identical(intake(records)$rows_read, n)
    expect_identical(nrow(records) + nrow(aside), n)
    # What is left is right: each used row is in the file as it stands.
    kept <- setdiff(seq_len(n), aside$line - 1L)
    expect_identical(format(records$date), sub(";.*", "", lines[kept]))
    expect_identical(records$kilos, suppressWarnings(as.numeric(sub(".*;", "", lines[kept]))))
  }
})

test_that("lines are those of the file, past blank lines and line breaks in quotes", {
  file <- text_file("date,note,kilos", "2031-04-01,fine,5", "", "2031-04-02,\"two", "lines\",6", "2031-04-03,,six",
                    "2031-04-04,,7")
  records <- read_records(file, "date", c(kilos = "flow"))
  expect_identical(set_aside(records)[c("line", "column", "text", "reason")],
                   tibble::tibble(line = 6L, column = "kilos", text = "six", reason = "not a number"))
  expect_identical(intake(records)$rows_read, 4L)
})

test_that("ISO 8601 dates and times are read in each of their forms", {
  read <- function(x) backfill:::read_when(x, "UTC", NULL)
  expect_identical(read(c("2031", "2031-Q2", "2031-04", "2031-W01"))$when,
                   as.Date(c("2031-01-01", "2031-04-01", "2031-04-01", "2030-12-30")))
  expect_identical(read(c("2031-W15-3", "20310409", "2031-04-09", " 2031-04-09 "))$when, rep(as.Date("2031-04-09"), 4))
  times <- c("2031-04-09T07:30Z", "2031-04-09 08:30:00+01:00", "2031-04-09T07:30:00.25", "2031-04-08T24:00")
  expect_equal(as.numeric(read(times)$when),
               as.numeric(as.POSIXct("2031-04-09 07:30", tz = "UTC")) + c(0, 0, 0.25, -27000))
  expect_identical(read(c("2031-04-09", "2031-04"))$reason, "no day is given, though other rows have one")
  never <- c("2031-04-09 24:30", "2031-04-09 07:60", "2031-04-31", "2031-W53", "2031-Q5", "0000-01-01", "2031-4-9",
             "2031-04-09 7:30", "2031-04-09T07:30+25:00")
  expect_identical(read(c("2031-04-09 07:30", never))$bad, 2:10)
})

test_that("the hour that the clock skips is set aside, and the one it repeats is two hours", {
  time <- c("2030-03-31 00:30", "2030-03-31 01:30", "2030-03-31 02:30",
            "2030-10-27 00:30", "2030-10-27 01:30", "2030-10-27 01:30", "2030-10-27 02:30")
  records <- records_of(time, kilos = 1:7, zone = "WET")
  expect_identical(set_aside(records)$line, 2L)
  expect_identical(diff(as.numeric(records$when))[3:5] / 3600, c(1, 1, 1))
  # Each series has its own pass through the repeated hour.
  twice <- records_of(rep("2030-10-27 01:30", 4), port = c("a", "b", "a", "b"), kilos = 1:4, series = "port",
                      zone = "WET")
  expect_identical(diff(as.numeric(twice$when)), c(0, 3600, 0))
})

test_that("a delimiter that ends every line makes no column, with or without one behind the header", {
  for (header in c("date,kilos", "date,kilos,")) {
    records <- read_records(text_file(header, "2031-04-01,5,", "2031-04-02,6,"), "date", c(kilos = "flow"))
    expect_identical(records$kilos, c(5, 6), label = header)
  }
})

test_that("codes with leading zeros stay apart, and NA as a name is a name", {
  file <- text_file("date,code,kilos", "2031-04-01,007,5", "2031-04-01,7,6", "2031-04-01,NA,7")
  records <- read_records(file, "date", c(kilos = "flow"), series = "code")
  expect_identical(records$code, c("007", "7", "NA"))
})

test_that("an Excel-made file reads as well: a byte order mark, semicolons, CR LF", {
  file <- text_file("\xef\xbb\xbfdate;port;kilos\r", "2031-04-01;\"A; b\";5\r", "2031-04-02;B;6.5\r")
  records <- read_records(file, "date", c(kilos = "flow"), series = "port")
  expect_identical(names(records), c("date", "port", "kilos"))
  expect_identical(records$port, c("A; b", "B"))
  expect_identical(records$kilos, c(5, 6.5))
})

test_that("bad input is refused with what, where and what to do, in a class of its own", {
  good <- text_file("date,kilos", "2031-04-01,5", "2031-04-02,6")
  read <- function(file = good, when = "date", measures = c(kilos = "flow"), ...) {
    read_records(file, when, measures, ...)
  }
  expect_error(read("nowhere.csv"), "no file nowhere.csv", class = "backfill_error_file")
  expect_error(read(tempdir()), "is a folder", class = "backfill_error_file")
  expect_error(read(text_file(character())), "is empty", class = "backfill_error_file")
  expect_error(read(text_file("date,kilos")), "no rows", class = "backfill_error_file")
  expect_error(read(text_file("date,kilos", "2031-04-01,5,9")), "line 2 has more", class = "backfill_error_file")
  expect_error(read(text_file("date,port,kilos", "2031-04-01,Bj\xf8,5")), "not in UTF-8", class = "backfill_error_file")
  expect_error(read(text_file("date,kilos,kilos", "2031-04-01,5,9")), "more than one", class = "backfill_error_column")
  expect_error(read(when = "day"), "no column \"day\".*date and kilos", class = "backfill_error_column")
  expect_error(read(measures = c(tons = "flow")), "no column \"tons\"", class = "backfill_error_column")
  expect_error(read(series = "port"), "no column \"port\"", class = "backfill_error_column")
  expect_error(read(measures = c(kilos = "sum")), "kind of a measure is \"sum\"", class = "backfill_error_kind")
  expect_error(read(measures = "flow"), "must name", class = "backfill_error_argument")
  expect_error(read(series = "kilos"), "two roles", class = "backfill_error_argument")
  expect_error(read(zone = "Nowhere/Land"), "no zone", class = "backfill_error_zone")
  expect_error(read(text_file("date,kilos", "9/4/2031,5", "10/4/2031,6")), "Line 2: \"9/4/2031\"",
               class = "backfill_error_when")
  expect_error(read(text_file("date,kilos", "2031-04-01,a", "2031-04-02,b")), "none of its 2 rows",
               class = "backfill_error_number")
  binary <- text_file("x")
  writeBin(as.raw(c(80, 75, 0, 3)), binary)
  expect_error(read(binary), "zero bytes", class = "backfill_error_file")
})

test_that("as_records() takes dates, times and numbers as they are", {
  time <- as.POSIXct("2031-04-01 23:30", tz = "UTC") + c(0, 3600)
  records <- as_records(data.frame(time, price = c(3.5, NaN)), "time", c(price = "level"), zone = "CET")
  expect_identical(as.numeric(records$time), as.numeric(time))
  expect_identical(records$price, c(3.5, NA))
  # In CET (summer time) both are on 2 April.
  expect_identical(roll_up(records, "day", cadence = "irregular")$period, as.Date("2031-04-02"))
  expect_error(as_records(1:3, "time", c(price = "level")), class = "backfill_error_input")
})

test_that("names may hold blanks, colons and letters of any script, whatever the locale", {
  file <- text_file("quarter;j\u00f6bs at: sea", "2030-Q1;5", "2030-Q2;6", "2030-Q3")
  records <- read_records(file, "quarter", stats::setNames("level", "j\u00f6bs at: sea"))
  expect_identical(records[[2]], c(5, 6, NA))
  ran <- withr::with_envvar(c(LC_ALL = "C"), backfill_cli(
    "periods", file, "--when", "quarter", "--measure", "j\u00f6bs at: sea:level:people", "--every", "quarter",
    "--format", "csv", "--quiet"
  ))
  expect_identical(ran$status, 0L)
  expect_match(ran$out[[2]], "^j\u00f6bs at: sea,2030-01-01,5,complete")
  expect_identical(ran$err, character())
})

test_that("a damaged file is read with every row accounted for, or refused; never anything else", {
  withr::local_seed(10)
  whole <- readBin(demo_file("guest-nights.csv"), "raw", 3000)
  file <- withr::local_tempfile(fileext = ".csv")
  spoil <- list(
    function(x) replace(x, sample(length(x), 3), as.raw(sample(0:255, 3))),
    function(x) x[-sample(length(x), 5)],
    function(x) x[seq_len(sample(length(x), 1))],
    function(x) {
      append(x, charToRaw(sample(c("\"", ",", ",,,", "\n\n", "\r", "\t;", "\u00e9"), 1)), sample(length(x), 1))
    }
  )
  outcomes <- vapply(1:200, function(round) {
    writeBin(spoil[[round %% 4 + 1]](whole), file)
    tryCatch({
      records <- read_records(file, "month", c(guest_nights = "flow"), series = "island")
      account <- intake(records)
      stopifnot(account$rows_read == nrow(records) + nrow(set_aside(records)), !anyNA(records$month))
      capture.output(print(account), print(roll_up(records, "month", cadence = "month")))
      "read"
    }, backfill_error = function(cnd) "refused", warning = conditionMessage)
  }, "")
  expect_setequal(outcomes, c("read", "refused"))
})
