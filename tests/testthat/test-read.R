test_that("every row of the demo files is used or set aside, for the reasons that were planted", {
  truth <- truths()
  for (name in c("crossings", "inns", "landings")) {
    records <- switch(
      name, crossings = crossings(), inns = inns(),
      landings = landings()
    )
    account <- account(records)
    aside <- rows_set_aside(records)
    planted <- unlist(truth[[name]]$set_aside)
    expect_identical(account$rows_read, truth[[name]]$rows, label = name)
    expect_identical(
      nrow(records) + nrow(aside), account$rows_read, label = name
    )
    found <- table(aside$reason)
    expect_setequal(names(found), names(planted))
    expect_equal(
      as.integer(found[names(planted)]), as.integer(planted), label = name
    )
    # The line and the text are those of the file.
    file <- readLines(account$sources$source)
    expect_true(
      all(mapply(grepl, aside$text, file[aside$line], fixed = TRUE)),
      label = name
    )
    expect_identical(
      aside$text == "", aside$reason == "no date is given", label = name
    )
  }
  expect_identical(account(crossings())$missing,
                   tibble::tibble(
                     measure = "market", reason = "blank",
                     count = truth$crossings$blank$rows
                   ))
})

test_that("rows read are rows used plus rows set aside, whatever mess is in the file", {
  withr::local_seed(4)
  for (round in 1:40) {
    n <- sample(5:60, 1)
    day <- format(as.Date("2031-01-01") + seq_len(n))
    kilos <- as.character(round(runif(n, 0, 900), 1))
    spoil <- function(x, with) {
      replace(
        x, sample(n, n %/% 5), sample(with, n %/% 5, replace = TRUE)
      )
    }
    bad_day <- c(
      "", "2031-02-30", "soon", "2031-13-01", "01/02/2031", "2031-01-01T25:00",
      "20310"
    )
    bad_kilos <- c("", "many", "1.5.5", "--3", "1e999", "NA", "0x1F", "5kg")
    lines <- sprintf("%s;%s", spoil(day, bad_day), spoil(kilos, bad_kilos))
    lines[lines == ";"] <- ";0" # a row of delimiters alone is a blank line
    ragged <- sample(n, 2)
    lines[ragged] <- paste0(lines[ragged], c(";9", ";9;9"))
    records <- read_records(
      text_file("date;kilos", lines), "date", c(kilos = "flow")
    )
    aside <- rows_set_aside(records)
    expect_true(all(ragged %in% (aside$line - 1L)))
    expect_identical(account(records)$rows_read, n)
    expect_identical(nrow(records) + nrow(aside), n)
    # What is left is right: each used row is in the file as it stands.
    kept <- setdiff(seq_len(n), aside$line - 1L)
    expect_identical(format(records$date), sub(";.*", "", lines[kept]))
    expect_identical(
      records$kilos, suppressWarnings(as.numeric(sub(".*;", "", lines[kept])))
    )
  }
})

test_that("lines are those of the file, past blank lines and line breaks in quotes", {
  file <- text_file(
    "date,note,kilos", "2031-04-01,fine,5", "", "2031-04-02,\"two",
    "lines\",6", "2031-04-03,,six", "2031-04-04,,7"
  )
  records <- read_records(file, "date", c(kilos = "flow"))
  expect_identical(
    rows_set_aside(records)[c("line", "column", "text", "reason")],
    tibble::tibble(
      line = 6L, column = "kilos", text = "six",
      reason = "not a number"
    )
  )
  expect_identical(account(records)$rows_read, 4L)
})

test_that("a delimiter that ends every line makes no column, with or without one behind the header", {
  for (header in c("date,kilos", "date,kilos,")) {
    records <- read_records(
      text_file(header, "2031-04-01,5,", "2031-04-02,6,"), "date",
      c(kilos = "flow")
    )
    expect_identical(records$kilos, c(5, 6), label = header)
  }
})

test_that("codes with leading zeros stay apart, and NA as a name is a name", {
  file <- text_file(
    "date,code,kilos", "2031-04-01,007,5", "2031-04-01,7,6", "2031-04-01,NA,7"
  )
  records <- read_records(file, "date", c(kilos = "flow"), series = "code")
  expect_identical(records$code, c("007", "7", "NA"))
})

test_that("a file made by a spreadsheet program reads as well: a byte order mark, semicolons, CR LF", {
  file <- text_file(
    "\xef\xbb\xbfdate;port;kilos\r", "2031-04-01;\"A; b\";5\r",
    "2031-04-02;B;6.5\r"
  )
  records <- read_records(file, "date", c(kilos = "flow"), series = "port")
  expect_identical(names(records), c("date", "port", "kilos"))
  expect_identical(records$port, c("A; b", "B"))
  expect_identical(records$kilos, c(5, 6.5))
})

test_that("bad input is refused with what, where and what to do, in a class of its own", {
  good <- text_file("date,kilos", "2031-04-01,5", "2031-04-02,6")
  read <- function(
    file = good, when = "date", measures = c(kilos = "flow"), ...
  ) {
    read_records(file, when, measures, ...)
  }
  expect_error(
    read("nowhere.csv"), "no file nowhere.csv", class = "backfill_error_file"
  )
  expect_error(read(tempdir()), "is a folder", class = "backfill_error_file")
  expect_error(
    read(text_file(character())), "is empty", class = "backfill_error_file"
  )
  expect_error(
    read(text_file("date,kilos")), "no rows", class = "backfill_error_file"
  )
  expect_error(
    read(text_file("date,kilos", "2031-04-01,5,9")), "line 2 has 3",
    class = "backfill_error_file"
  )
  expect_error(
    read(text_file("date,kilos", "2031-04-01,\"5", "2031-04-02,6")),
    "opened on line 2 and never closed", class = "backfill_error_file"
  )
  expect_error(
    read(text_file("Landings", "date,kilos", "2031-04-01,5", "2031-04-02,6")),
    "`skip` is 1", class = "backfill_error_file"
  )
  expect_error(
    read(text_file("date,port,kilos", "2031-04-01,Bj\xf8,5")), "not in UTF-8",
    class = "backfill_error_file"
  )
  expect_error(
    read(text_file("date,kilos,kilos", "2031-04-01,5,9")), "more than one",
    class = "backfill_error_column"
  )
  expect_error(
    read(when = "day"), "no column \"day\".*\"date\" and \"kilos\"",
    class = "backfill_error_column"
  )
  expect_error(
    read(measures = c(tons = "flow")), "no column \"tons\"",
    class = "backfill_error_column"
  )
  expect_error(
    read(series = "port"), "no column \"port\"",
    class = "backfill_error_column"
  )
  expect_error(
    read(measures = c(kilos = "sum")), "kind of a measure is \"sum\"",
    class = "backfill_error_kind"
  )
  expect_error(
    read(measures = "flow"), "must name", class = "backfill_error_argument"
  )
  expect_error(
    read(series = "kilos"), "two roles", class = "backfill_error_argument"
  )
  expect_error(
    read(zone = "Nowhere/Land"), "not a zone", class = "backfill_error_zone"
  )
  expect_error(
    read(text_file("date,kilos", "spring,5", "2031-04-02,6")),
    "Line 2: \"spring\", not a date", class = "backfill_error_when"
  )
  expect_error(
    read(text_file("date,kilos", "2031-04-01,a", "2031-04-02,b")),
    "none of its 2 rows", class = "backfill_error_number"
  )
  expect_error(
    read(strict = NA), "TRUE or FALSE", class = "backfill_error_argument"
  )
  expect_error(
    read(
      text_file("date,kilos", "2031-04-01,5", "soon,6", "2031-04-03,7"),
      strict = TRUE
    ),
    "Line 3.*\"soon\", not a date", class = "backfill_error_strict"
  )
})

test_that("bytes that are no text, a line without an end and ten thousand columns get a clear answer", {
  read <- function(bytes, measure = "kilos") {
    file <- withr::local_tempfile(fileext = ".csv")
    writeBin(bytes, file)
    read_records(file, "date", stats::setNames("flow", measure))
  }
  text <- function(...) charToRaw(paste0(...))
  expect_error(
    read(as.raw(c(1, 80, 75, 0, 3))), "zero bytes",
    class = "backfill_error_file"
  )
  expect_error(
    read(c(text("date,kilos\n2031-04-01,"), as.raw(c(0x35, 0)), text("\n"))),
    "zero bytes", class = "backfill_error_file"
  )
  expect_error(
    read(rep(charToRaw("x"), 1e7)), "no column \"date\"",
    class = "backfill_error_column"
  )
  expect_error(
    read(c(text("date,kilos\n"), rep(charToRaw("7"), 1e7))),
    class = "backfill_error_file"
  )
  header <- paste(c("date", paste0("k", 1:9999)), collapse = ",")
  wide <- read(
    text(header, "\n2031-04-01", strrep(",1", 9999), "\n"), "k9999"
  )
  expect_identical(wide$k9999, 1)
  expect_identical(ncol(wide), 10000L)
})

test_that("as_records() takes dates, times and numbers as they are", {
  time <- as.POSIXct("2031-04-01 23:30", tz = "UTC") + c(0, 3600)
  records <- as_records(
    data.frame(time, price = c(3.5, NaN)), "time", c(price = "level"),
    zone = "CET"
  )
  expect_identical(as.numeric(records$time), as.numeric(time))
  expect_identical(records$price, c(3.5, NA))
  # In CET (summer time) both are on 2 April.
  expect_identical(
    roll_up(records, "day", cadence = "irregular")$period, as.Date("2031-04-02")
  )
  expect_error(
    as_records(1:3, "time", c(price = "level")), class = "backfill_error_input"
  )
})

test_that("any delimiter, quote and encoding is read, found or declared", {
  file <- withr::local_tempfile(fileext = ".txt")
  text <-
    "date|port|kilos\n2031-04-01|'Sk\u00e6r | n\u00f8'|5\n2031-04-02|B|6\n"
  for (encoding in c("UTF-8", "latin1", "UTF-16LE")) {
    writeBin(
      iconv(
        list(charToRaw(enc2utf8(text))), "UTF-8", encoding, toRaw = TRUE
      )[[1]],
      file
    )
    records <- read_records(
      file, "date", c(kilos = "flow"), series = "port", quote = "'",
      encoding = encoding
    )
    expect_identical(
      records$port, c("Sk\u00e6r | n\u00f8", "B"), label = encoding
    )
  }
  expect_error(
    read_records(file, "date", c(kilos = "flow"), encoding = "klingon"),
    class = "backfill_error_argument"
  )
  tilde <- text_file("date~kilos", "2031-04-01~5", "2031-04-02~\"6\"")
  expect_identical(
    read_records(tilde, "date", c(kilos = "flow"), delimiter = "~")$kilos,
    c(5, 6)
  )
  doubled <- text_file("date,port,kilos", "2031-04-01,\"the \"\"Quay\"\"\",5")
  expect_identical(
    read_records(doubled, "date", c(kilos = "flow"), series = "port")$port,
    "the \"Quay\""
  )
})

test_that("names may hold blanks, colons and letters of any script, whatever the locale", {
  file <- text_file(
    "quarter;j\u00f6bs at: sea", "2030-Q1;5", "2030-Q2;6", "2030-Q3;"
  )
  records <- read_records(
    file, "quarter", stats::setNames("level", "j\u00f6bs at: sea")
  )
  expect_identical(records[[2]], c(5, 6, NA))
  ran <- withr::with_envvar(c(LC_ALL = "C"), backfill_cli(
    "periods", file, "--when", "quarter", "--measure",
    "j\u00f6bs at: sea:level:people", "--every", "quarter",
    "--format", "csv", "--quiet"
  ))
  expect_identical(ran$status, 0L)
  expect_match(ran$out[[2]], "^j\u00f6bs at: sea,2030-01-01,5,complete")
  expect_identical(ran$err, character())
})

test_that("a folder of Parquet is read whole, or file by file in the columns needed", {
  skip_if_not_installed("nanoparquet")
  folder <- withr::local_tempdir()
  dir.create(file.path(folder, "later"))
  withr::local_seed(8)
  days <- tibble::tibble(
    day = rep(as.Date("2031-01-01") + 0:199, each = 2),
    port = rep(c("Mole", "Quay"), 200), kilos = round(stats::rexp(400, 0.01)),
    meter = cumsum(rep(1:2, 200)), note = "any"
  )
  for (k in 1:4) {
    nanoparquet::write_parquet(
      days[seq(100 * k - 99, 100 * k), ], file.path(
        folder, if (k > 2) "later" else ".", sprintf("%d.parquet", 5 * k)
      )
    )
  }
  writeLines("not a table", file.path(folder, "readme.txt"))
  read <- function(...) {
    read_records(
      folder, "day", c(kilos = "flow", meter = "counter"), "port", ...
    )
  }
  # Files come in the order of their names, those in folders behind.
  expect_error(
    roll_up(read(chunked = TRUE), "month"), "not in order of time",
    class = "backfill_error_duplicates"
  )
  file.rename(
    file.path(folder, "5.parquet"), file.path(folder, "05.parquet")
  )
  whole <- read()
  expect_identical(nrow(whole), 400L)
  expect_identical(whole$kilos[order(whole$day, whole$port)], days$kilos)
  parts <- read(chunked = TRUE)
  expect_equal(
    columns(roll_up(parts, "month")), columns(roll_up(whole, "month"))
  )
  expect_equal(account(parts)$rows_used, account(whole)$rows_used)
  named <- backfill:::read_parquet(
    list(path = file.path(folder, "05.parquet"), shown = "05.parquet"),
    c("day", "kilos")
  )
  expect_identical(names(named$data), c("day", "kilos"))
  expect_error(
    roll_up(read_records(
      folder, "day", c(weight = "flow"), chunked = TRUE
    ), "month"), "kilos", class = "backfill_error_column"
  )
  # A study notices a file that has come.
  withr::local_envvar(R_USER_CACHE_DIR = withr::local_tempdir())
  study <- withr::local_tempdir()
  file.copy(folder, study, recursive = TRUE)
  inside <- basename(folder)
  writeLines(c(
    "backfill: 1", "records:", "  quay:", sprintf("    file: %s", inside),
    "    when: day", "    series: port", "    measures: {kilos: flow}",
    "steps:", "  - roll_up: {every: month}", "    from: quay",
    "    name: monthly"
  ), file.path(study, "study.yaml"))
  ask <- function() {
    study_result(run_study(file.path(study, "study.yaml")), "monthly")
  }
  first <- ask()
  expect_equal(sum(first$value, na.rm = TRUE), sum(days$kilos))
  more <- days[1:4, ]
  more$day <- more$day + 300
  nanoparquet::write_parquet(more, file.path(study, inside, "more.parquet"))
  expect_equal(
    sum(ask()$value, na.rm = TRUE), sum(days$kilos) + sum(more$kilos)
  )
  empty <- withr::local_tempdir()
  for (chunked in c(TRUE, FALSE)) {
    expect_error(
      read_records(empty, "day", c(kilos = "flow"), chunked = chunked),
      "no .parquet file", class = "backfill_error_file"
    )
  }
  shell <- backfill_cli(
    "periods", folder, "--when", "day", "--series", "port", "--measure",
    "kilos:flow", "--every", "month", "--chunked", "--format", "csv"
  )
  expect_identical(shell$status, 0L)
  expect_equal(
    sum(utils::read.csv(text = shell$out)$value), sum(days$kilos)
  )
})

test_that("a file read in chunks gives the same table and account, wherever it is cut", {
  read <- function(file, ..., chunked) {
    read_records(
      file, ..., chunked = chunked
    )
  }
  quoted <- withr::local_tempfile(lines = c(
    "a title", "day,port,note,kilos", '2031-01-01,"Quay ""A""","one',
    'line, two",5', "2031-01-02,Mole,,x", "",
    sprintf(
      '2031-01-%02d,"Mole","a,\nb, and more behind the line",%d', 3:28, 3:28
    ), "2031-02-30,Mole,,1"
  ))
  files <- list(
    list(
      demo_file("crossings.csv"), when = "time",
      measures = c(market = "flow", tide = "flow"), zone = "WET"
    ),
    list(
      demo_file("inns.csv"), when = "month", series = "inn",
      measures = c(guest_nights = "flow")
    ),
    list(
      quoted, when = "day", series = "port", measures = c(kilos = "level"),
      skip = 1
    )
  )
  for (bytes in c(150, 997, 40000)) {
    withr::local_options(backfill.chunk_bytes = bytes)
    # Small chunks of the large file would take long.
    for (arguments in files[if (bytes < 10000) 2:3 else 1:3]) {
      whole <- do.call(read, c(arguments, chunked = FALSE))
      parts <- do.call(read, c(arguments, chunked = TRUE))
      expect_output(print(parts), "not read yet")
      use <- c("mean", "first", "last", "sd", "count")
      names <- names(arguments$measures)
      asked <- stats::setNames(rep(list(use), length(names)), names)
      expect_equal(
        roll_up(parts, "month", use = asked),
        roll_up(whole, "month", use = asked), tolerance = 1e-12
      )
      expect_identical(rows_set_aside(parts), rows_set_aside(whole))
      account <- attr(whole, "backfill")$account
      expect_equal(unclass(account(parts))[names(account)], unclass(account))
      expect_output(print(parts), "rows used")
    }
  }
})

test_that("counters, quantiles and ratios in chunks are those of the whole file, wherever it is cut", {
  meters <- water_tanks()
  rows <- data.frame(
    date = meters$date, village = meters$village, tank = meters$tank,
    reading = meters$reading, rooms = 3 + seq_along(meters$reading) %% 5
  )
  rows <- rows[order(rows$date), ]
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(rows, file, row.names = FALSE, na = "")
  measures <- list(reading = measure("counter", "litres"), rooms = "level",
                   each = measure("ratio", of = "reading", per = "rooms"))
  read <- function(...) {
    read_records(
      file, "date", measures, series = c("village", "tank"), ...
    )
  }
  for (bytes in c(900, 5000)) {
    withr::local_options(backfill.chunk_bytes = bytes)
    expect_equal(
      columns(roll_up(read(chunked = TRUE), "month", falls = "count")),
      columns(roll_up(read(), "month", falls = "count"))
    )
    expect_error(
      roll_up(read(chunked = TRUE), "month", falls = "spread"),
      class = "backfill_error_argument", "read in chunks"
    )
    for (absent in list(NULL, c(reading = "spread"))) {
      use <- list(
        reading = c("sum", "90%", "last"), rooms = c("median", "mean")
      )
      whole <- roll_up(read(), "month", absent = absent, use = use)
      parts <- roll_up(
        read(chunked = TRUE), "month", absent = absent, use = use
      )
      expect_equal(columns(parts), columns(whole), tolerance = 1e-12)
      expect_equal(
        attr(parts, "backfill")$falls, attr(whole, "backfill")$falls
      )
      expect_gt(nrow(attr(parts, "backfill")$falls), 1)
    }
  }
  suppressWarnings(classes = "backfill_warning_use", {
    expect_equal(
      roll_up(read(chunked = TRUE), "month", use = c(each = "mean"))$value,
      roll_up(read(), "month", use = c(each = "mean"))$value
    )
  })
})

test_that("what cannot be told in chunks is refused", {
  withr::local_options(backfill.chunk_bytes = 60)
  file <- withr::local_tempfile(
    lines = c("day,kilos", sprintf("2031-01-%02d,1", c(1:9, 9:12)))
  )
  expect_error(
    roll_up(
      read_records(file, "day", c(kilos = "flow"), chunked = TRUE), "month"
    ),
    "same time|same figures", class = "backfill_error_duplicates"
  )
  kept <- read_records(
    file, "day", c(kilos = "flow"), chunked = TRUE, duplicates = "keep"
  )
  expect_identical(roll_up(kept, "month")$value, 13)
  back <- withr::local_tempfile(
    lines = c("day,kilos", sprintf("2031-01-%02d,1", 12:1))
  )
  expect_error(
    roll_up(
      read_records(back, "day", c(kilos = "flow"), chunked = TRUE), "month"
    ),
    "order of time", class = "backfill_error_duplicates"
  )
  expect_error(
    read_records(
      back, "day", c(kilos = "flow"), layout = "dates across", chunked = TRUE
    ),
    "in chunks", class = "backfill_error_argument"
  )
  meter <- read_records(
    back, "day", c(kilos = "counter"), chunked = TRUE, duplicates = "keep"
  )
  expect_error(
    roll_up(meter, "month"), "not in order of time",
    class = "backfill_error_argument"
  )
  expect_error(
    roll_up(kept, "month", by = "port"), "port", class = "backfill_error_column"
  )
})
