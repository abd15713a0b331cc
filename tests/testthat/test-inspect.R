# The call that inspect_file() prints, run as a user would who copies it.
run_call <- function(found) {
  eval(
    parse(text = found$call), envir = new.env(parent = asNamespace("backfill"))
  )
}

test_that("figures with a unit are read in it, other texts are not", {
  file <- withr::local_tempfile(fileext = ".csv")
  writeLines(c(
    "day;site;price;room;load",
    sprintf("%02d.03.2031;%s;%d,5 kr;%d%s;%d", rep(1:20, each = 2),
            c("Ard", "Bel"), 10 + 1:40 %% 7, 1:40, letters[1:4], 1:40 %% 9)
  ), file)
  seen <- inspect_file(file)$columns
  x <- suppressMessages(read_records(file))
  expect_identical(x$price, 10.5 + 1:40 %% 7)
  expect_identical(backfill:::facts(x)$measures$price$unit, "kr")
  reason <- stats::setNames(seen$reason, seen$column)
  expect_match(reason[["price"]], "its unit is \"kr\"")
  expect_no_match(reason[["room"]], "its unit")
  # Nor is a word with a number the unit of that.
  utils::write.csv(data.frame(
    day = rep(as.Date("2031-01-01") + 0:29, 4),
    depot = sprintf("depot %02d", rep(1:4, each = 30)), load = 1:120 %% 7
  ), file, row.names = FALSE)
  expect_identical(inspect_file(file)$arguments$series, "depot")
  expect_identical(seen$role[seen$column == "site"], "series")
})

test_that("a unit stands before or behind, in every part of a file, and no other is taken for it", {
  withr::local_seed(5)
  amount <- round(stats::rexp(3000, 0.01), 2)
  file <- withr::local_tempfile(fileext = ".csv")
  for (written in list(
    sprintf("%.2f kr", amount), sprintf("%.2fkr", amount),
    sprintf("kr %.2f", amount), sprintf(" %.2f  kr ", amount),
    chartr(".", ",", sprintf("%.2f kr", amount)),
    sprintf("%.2f\u00a0kr", amount)
  )) {
    utils::write.csv(data.frame(
      day = as.Date("2025-01-01") + seq_along(amount), paid = written
    ), file, row.names = FALSE, fileEncoding = "UTF-8")
    measures <- inspect_file(file)$arguments$measures
    expect_identical(measures$paid$unit, "kr")
    read <- read_records(file, "day", measures)
    expect_identical(read$paid, amount)
    chunked <- read_records(file, "day", measures, chunked = TRUE)
    expect_identical(
      roll_up(chunked, "month")$value, roll_up(read, "month")$value
    )
  }
  writeLines(c(
    "day,depth", "2031-01-01,51 cm", "2031-01-02,52", "2031-01-03,0.5 m",
    "2031-01-04,-", "2031-01-05,cm"
  ), file)
  read <- read_records(
    file, "day", list(depth = measure("level", unit = "cm"))
  )
  expect_identical(read$depth, c(51, 52, NA))
  expect_identical(rows_set_aside(read)$text, c("0.5 m", "cm"))
  expect_match(
    capture.output(print(account(read))), "unit \"cm\" \\(on 1 of 4 values\\)",
    all = FALSE
  )
})

test_that("the demo files are seen for what they are, and the printed call reads them so", {
  roles <- function(found, role) {
    found$columns$column[
      found$columns$role == role
    ]
  }
  guest <- inspect_file(demo_file("inns.csv"))
  expect_identical(roles(guest, "series"), "inn")
  expect_identical(
    columns(run_call(guest)), columns(read_records(
      demo_file("inns.csv"), "month",
      c(guest_nights = "flow", bed_nights = "level"), "inn"
    ))
  )
  fish <- inspect_file(demo_file("landings.csv"))
  expect_identical(
    fish$columns$kind, c("", "", "", "flow", "flow", "level")
  )
  expect_match(fish$notes, "`duplicates` is set to \"keep\" for now")
  expect_identical(run_call(fish)$price, lots("keep")$price)
  hours <- inspect_file(demo_file("crossings.csv"))
  expect_match(hours$notes, "daylight saving ends.*`zone`", all = FALSE)
  known <- inspect_file(demo_file("crossings.csv"), zone = "WET")
  expect_identical(run_call(known)$tide, crossings()$tide)
  store <- inspect_file(demo_file("water-tanks.csv"))
  expect_identical(store$columns$kind, c("", "", "counter"))
  expect_identical(run_call(store)$value, water_tanks()$reading)
  skip_if_not_installed("ncdf4")
  sea <- demo_file("sea-2031.nc")
  expect_identical(run_call(inspect_file(sea))$sea_temperature,
                   read_records(
                     sea, measures = c(sea_temperature = "level")
                   )$sea_temperature)
})

test_that("dates in parts, codes as series, a counter and an undecided order are found", {
  rows <- expand.grid(hr = 0:23, day = 10:20, gate = 1:2)
  parts <- text_file("day,hour,gate,count",
                     sprintf(
                       "%02d.03.2031,%d,%d,%d", rows$day, rows$hr, rows$gate,
                       rows$hr * rows$gate
                     ))
  found <- inspect_file(parts)
  expect_identical(found$arguments$when, c(date = "day", hour = "hour"))
  expect_identical(found$arguments$series, "gate")
  meter <- text_file(
    "year,month,reading", sprintf("2031,%d,%d", 1:12, cumsum(51:62))
  )
  found <- inspect_file(meter)
  expect_identical(found$columns$kind, c("", "", "counter"))
  expect_identical(nrow(run_call(found)), 12L)
  open <- inspect_file(text_file(
    "date,kilos", "01/02/2031,5", "02/02/2031,6", "03/02/2031,9"
  ))
  expect_match(
    open$notes, "Two orders fit.*`date_order` is set to \"dmy\"", all = FALSE
  )
  expect_error(
    inspect_file(demo_file("islands.csv")),
    "No column of islands.csv holds dates", class = "backfill_error_when"
  )
  expect_error(
    inspect_file(parts, colour = "red"), class = "backfill_error_argument"
  )
  expect_error(
    inspect_file(text_file("date,kilos")), "a header but no rows",
    class = "backfill_error_file"
  )
})

test_that("the printed shell line reads the file as the printed call does", {
  for (name in c("water-tanks.csv", "landings.csv")) {
    ran <- backfill_cli("inspect", demo_file(name))
    expect_identical(ran$status, 0L)
    line <- ran$out[-seq_len(match("In a shell:", ran$out))]
    line <- line[seq_len(match("", line) - 1)]
    words <- scan(text = gsub("\\\\$", "", line), what = "", quiet = TRUE)
    by_year <- c(
      "--every", "year", "--format", "csv", "--over", "none", "--window",
      "none", "--quiet"
    )
    periods <- do.call(backfill_cli, as.list(c(words[-1], by_year)))
    expect_identical(periods$status, 0L, label = name)
    expect_identical(length(periods$out), if (name == "landings.csv") {
      109L
    } else {
      15L
    }, label = name)
  }
  guesses <- backfill_cli(
    "inspect", demo_file("inns.csv"), "--format", "csv"
  )
  expect_identical(
    data.table::fread(text = guesses$out)$role, c(
      "date", "series", "measure", "measure", "kept beside"
    )
  )
})

test_that("a long file is guessed by its first lines, and the account is of all of it", {
  day <- as.Date("1990-01-01") + 0:9999
  rows <- sprintf(
    "%s,\"gate %d,\nof the harbour\",%d", format(day),
    rep(1:12, each = length(day)), 1:12
  )
  long <- inspect_file(text_file("day,gate,count", rows))
  expect_identical(long$columns$role, c("date", "series", "measure"))
  account <- account(long$records)
  expect_identical(account$rows_used, length(rows))
  expect_identical(account$series, 12L)
})

test_that("concentrations are levels, and what the values do not decide is left to the user", {
  days <- format(as.Date("2031-04-01") + 0:59)
  set.seed(7)
  figures <- replicate(5, round(stats::rexp(60, 0.05), 1))
  columns <- c("gas", "NO2", "smoke_ppm", "dust (ug/m3)", "kilos")
  rows <- paste(days, apply(figures, 1, paste, collapse = ","), sep = ",")
  file <- text_file(paste(c("day", columns), collapse = ","), rows)
  found <- inspect_file(file)
  expect_equal(
    unlist(found$arguments$measures[columns], use.names = FALSE),
    c(rep("level", 4), "flow")
  )
  expect_match(
    found$notes, "For you to decide: whether \"gas\", \"NO2\", .* added up",
    all = FALSE
  )
  # A meter of gas is a counter all the same, and a column of numbers no gas.
  meter <- text_file(
    "day,gas,no", paste(days, cumsum(1:60), sample(60), sep = ",")
  )
  expect_equal(
    inspect_file(meter)$arguments$measures, list(gas = "counter", no = "flow")
  )
})

test_that("of two columns of dates the other one is named, and never a series", {
  month <- rep(
    format(as.Date("2031-01-01") + c(0, 31, 59, 90, 120)), each = 2
  )
  file <- text_file(
    "month,entered,berths",
    paste(month, c("2031-02-10", "2031-03-20"), 11:20, sep = ",")
  )
  found <- inspect_file(file)
  expect_equal(found$columns$role, c("date", "measure", "kept beside"))
  expect_match(found$columns$reason[[3]], "holds dates too")
  expect_match(
    found$notes,
    paste(
      "For you to decide: \"entered\" holds dates as well. \"month\"",
      "is taken"
    ),
    all = FALSE
  )
  # Who has named it is not asked.
  expect_no_match(
    as.character(inspect_file(file, known = "entered")$notes), "holds dates"
  )
})

test_that("several files for the same days are a series each unless the user says otherwise", {
  folder <- withr::local_tempdir()
  for (name in c("north", "south")) {
    writeLines(
      c("day,kilos", paste(as.Date("2031-04-01") + 0:9, 11:20, sep = ",")),
      file.path(folder, paste0(name, ".csv"))
    )
  }
  files <- list.files(folder, full.names = TRUE)
  found <- inspect_file(files)
  expect_equal(found$arguments$source, "file")
  expect_match(
    found$notes, "For you to decide: whether the 2 files are a series each",
    all = FALSE
  )
  expect_equal(nrow(roll_up(found$records, "month")), 2)
  # Stretches of one series are one.
  writeLines(
    c("day,kilos", paste(as.Date("2031-04-11") + 0:9, 11:20, sep = ",")),
    files[[2]]
  )
  expect_null(inspect_file(files)$arguments$source)
})

test_that("what never falls is for the user to decide, unless its name is clear", {
  sold <- function(value, name = "sold") {
    inspect_file(text_file(
      paste0("day,", name),
      sprintf("2031-01-%02d,%d", seq_along(value), value)
    ))
  }
  few <- sold(c(1, 3, 4, 7, 9))
  expect_match(few$notes, "reading of a meter \\(counter\\)", all = FALSE)
  many <- sold(cumsum(1:20))
  expect_identical(many$columns$kind[[2]], "counter")
  expect_match(many$notes, "reading of a meter \\(counter\\)", all = FALSE)
  meter <- sold(cumsum(1:20), "meter_kwh")
  expect_identical(meter$columns$kind[[2]], "counter")
  expect_false(any(grepl("counter", meter$notes)))
  rent <- sold(100 + cumsum(1:20), "rent_index")
  expect_identical(rent$columns$kind[[2]], "level")
  expect_match(rent$notes, "averaged \\(level\\)", all = FALSE)
})

test_that("whole numbers that scatter as counts do are a flow, others a level", {
  withr::local_seed(9)
  kind_of <- function(value) {
    found <- inspect_file(text_file(
      "day,sacks", sprintf("%s,%.0f", as.Date("2031-01-01") + 0:299, value)
    ))
    # Which it is stays for the user to decide.
    expect_match(found$notes, "averaged \\(level\\)", all = FALSE)
    found$columns$kind[[2]]
  }
  season <- 1 + 0.3 * sin(1:300 / 50)
  for (mean in c(150, 400, 3000)) {
    expect_identical(kind_of(stats::rpois(300, mean * season)), "flow")
  }
  expect_identical(kind_of(400 * season), "level")
  expect_identical(kind_of(900 + cumsum(stats::rnorm(300, 0, 8))), "level")
})

test_that("hours, coordinates and totals are not taken for figures of their own", {
  rows <- expand.grid(
    region = c("North", "South", "Total"), day = as.Date("2031-01-01") + 0:71
  )
  rows$hr_end <- rep(1:24, each = 3)
  withr::local_seed(4)
  rows$lat <- c(56.1, 57.2, NA)[rows$region]
  rows$balance <- round(stats::rnorm(nrow(rows), 0, 100))
  rows$load <- stats::rpois(nrow(rows), 20)
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(rows, file, row.names = FALSE)
  found <- inspect_file(file)
  expect_setequal(names(found$arguments$measures), c("balance", "load"))
  beside <- found$columns[found$columns$role == "kept beside", ]
  expect_identical(
    beside$reason[match(c("hr_end", "lat"), beside$column)],
    c("is an hour of the day", "is a coordinate")
  )
  expect_match(found$notes, "\"Total\" sums up the other series", all = FALSE)
  expect_match(found$notes, "whether \"balance\" is", all = FALSE)
})

test_that("a running number of the rows is not taken for a counter", {
  lines <- sprintf("%d,2030-01-%02d,%d", 41:60, 1:20, c(3, 5, 2, 8, 1))
  found <- inspect_file(text_file("id,date,tickets", lines))
  expect_identical(
    found$columns$role[found$columns$column == "id"], "kept beside"
  )
  expect_identical(names(found$arguments$measures), "tickets")
  # Where there is nothing else it is the measure.
  alone <- inspect_file(text_file(
    "date,reading", sprintf("2030-01-%02d,%d", 1:20, 101:120)
  ))
  expect_identical(alone$arguments$measures, list(reading = "counter"))
})

test_that("a few columns are series where the layout says so", {
  file <- text_file(
    "day,ash,birch", sprintf(
      "2031-01-%02d,%d.5,%d.2", 1:28, 10 + 1:28 %% 5, 10 + 28:1 %% 3
    )
  )
  found <- inspect_file(file, layout = "series across")
  expect_named(found$arguments$measures, "value")
  expect_false(any(grepl("For you to decide: whether these", found$notes)))
  records <- suppressMessages(read_records(file, layout = "series across"))
  expect_setequal(as.data.frame(records)$series, c("ash", "birch"))
  expect_identical(nrow(records), 56L)
  ran <- backfill_cli(
    "describe", file, "--layout", "series across", "--compare", "--quiet"
  )
  expect_identical(ran$status, 0L, label = ran$err)
})

test_that("many columns of figures beside dates are series across", {
  prices <- matrix(
    100 + seq_len(40 * 25) / 7, 40,
    dimnames = list(NULL, sprintf("fund %d", 1:25))
  )
  file <- withr::local_tempfile(fileext = ".csv")
  utils::write.csv(
    data.frame(
      date = as.Date("2031-01-01") + 0:39, prices, check.names = FALSE
    ), file, row.names = FALSE
  )
  found <- inspect_file(file)
  expect_identical(found$arguments$layout, "series across")
  x <- do.call(read_records, c(list(file), found$arguments))
  expect_identical(c(nrow(x), length(unique(x$series))), c(1000L, 25L))
  expect_lt(length(capture.output(print(found))), 40)
})

test_that("seconds since 1970 are found to be times, whatever they are called", {
  start <- as.numeric(as.POSIXct("2031-01-01", tz = "UTC"))
  file <- text_file("t,v", sprintf("%.0f,%d", start + 3600 * 0:99, 1:100 %% 7))
  found <- inspect_file(file)
  expect_identical(found$columns$role[1:2], c("date", "measure"))
  x <- do.call(read_records, c(list(file), found$arguments))
  expect_identical(format(x$t[[1]], "%F %R"), "2031-01-01 00:00")
  expect_identical(nrow(x), 100L)
})

test_that("a command finds what is not given, tells it, and overrules nothing", {
  folder <- withr::local_tempdir()
  day <- rep(seq(as.Date("2030-01-01"), by = "day", length.out = 120), 2)
  table <- data.frame(
    day = format(day, "%d/%m/%Y"), mill = rep(c("Kell", "Brod"), each = 120),
    sacks = rep(1:120 %% 7 * 6, 2), water = rep(60 + sin(1:120 / 9), 2)
  )
  put <- function(rows, name) {
    utils::write.csv(rows, file.path(folder, name), row.names = FALSE)
  }
  put(table, "mills.csv")
  run <- function(...) command_line("periods", ..., dir = folder)
  found <- run("mills.csv")
  expect_identical(found$status, 0L)
  said <- paste(trimws(found$err), collapse = " ")
  expect_match(
    said, "day the date, mill the series, sacks a flow and water a level",
    fixed = TRUE
  )
  options <- sub("[.] .*", "", sub(".*Say otherwise by ", "", said))
  told <- scan(text = options, what = "", quiet = TRUE)
  expect_identical(run("mills.csv", told)$out, found$out)
  quiet <- run("mills.csv", "--quiet")
  expect_identical(quiet$out, found$out)
  expect_identical(quiet$err, character())
  # One measure that is given is the only one.
  given <- run("mills.csv", "--measure", "water:flow", "--format", "csv")
  made <- utils::read.csv(text = given$out)
  expect_identical(unique(made$measure), "water")
  expect_no_match(given$err, "decided")
  expect_equal(
    made$value[made$mill == "Kell"][[1]], sum(60 + sin(1:31 / 9))
  )
  put(table[as.POSIXlt(day)$mday < 13, ], "two.csv")
  two <- run("two.csv")
  expect_identical(two$status, 2L)
  expect_match(two$err, "`--date-order` is \"dmy\" or \"mdy\"", all = FALSE)
  expect_identical(run("two.csv", "--date-order", "dmy")$status, 0L)
  put(table["mill"], "none.csv")
  expect_match(run("none.csv")$err, "holds dates", all = FALSE)
  put(table[c("day", "mill")], "events.csv")
  events <- run("events.csv")
  # Where nothing is measured, the rows are counted, and that is told.
  expect_identical(events$status, 0L)
  expect_match(events$err, "series and records a count", all = FALSE)
  put(data.frame(day = table$day, weight = "12 kg"), "weighed.csv")
  weighed <- run("weighed.csv")
  expect_identical(weighed$status, 0L)
  expect_match(weighed$err, "--measure weight:level:kg", all = FALSE)
})

test_that("what a reading is not told is found and told, for every demo file", {
  files <- demo_file(c(
    "inns.csv", "crossings.csv", "landings.csv", "water-tanks.csv", "ledger.csv"
  ))
  for (file in files) {
    expect_message(
      records <- read_records(file), class = "backfill_message_found"
    )
    expect_equal(records, inspect_file(file)$records, ignore_attr = "call")
  }
  # What is given is never overruled, and then nothing is said.
  inns <- demo_file("inns.csv")
  expect_message(
    given <- read_records(inns, measures = c(bed_nights = "flow")),
    "bed_nights a flow", class = "backfill_message_found"
  )
  expect_named(attr(given, "backfill")$measures, "bed_nights")
  expect_no_message(
    read_records(inns, "month", c(guest_nights = "flow"), "inn")
  )
  expect_error(
    read_records(inns, when = "mont"), "no column \"mont\"",
    class = "backfill_error_column"
  )
  expect_error(
    read_records(data.frame(day = 1, kilos = 2)),
    "as_records() takes a data frame", fixed = TRUE
  )
  expect_error(
    read_records(demo_file("islands.csv")), "holds dates",
    class = "backfill_error"
  )
})

test_that("files of a counter each are found to hold counters, as each of them is", {
  folder <- withr::local_tempdir()
  set.seed(2)
  for (region in c("north", "south", "west")) {
    day <- as.Date("2031-01-01") + 0:119
    cases <- cumsum(stats::rpois(120, 8))
    cases[60:120] <- cases[60:120] - 12
    data.table::fwrite(
      data.frame(day, cases), file.path(folder, paste0(region, ".csv"))
    )
  }
  files <- file.path(folder, c("north.csv", "south.csv", "west.csv"))
  for (file in c(as.list(files), list(files, file.path(folder, "*.csv")))) {
    found <- inspect_file(file)
    expect_identical(
      found$columns$kind[found$columns$column == "cases"], "counter"
    )
  }
  per_head <- add_measures(
    add_attributes(
      read_records(
        files, when = "day", source = "region", measures = c(cases = "counter")
      ),
      data.frame(region = c("north", "south", "west"), people = 1:3 * 2000),
      "region", c(people = "level")
    ),
    thousands = people / 1000, rate = cases / thousands
  )
  months <- roll_up(per_head, "month", falls = "count")
  value <- function(measure) months$value[months$measure == measure]
  expect_equal(value("rate"), value("cases") / value("thousands"))
  expect_error(
    add_measures(per_head, rates = cases / people * 1000), "per thousand",
    class = "backfill_error_kind"
  )
})

test_that("flows with any season, week, growth or noise are not taken for counts so far", {
  set.seed(5)
  folder <- withr::local_tempdir()
  day <- seq(as.Date("2028-01-01"), as.Date("2030-12-31"), by = "day")
  hour <- as.POSIXct("2031-01-01", tz = "UTC") + 3600 * 0:1999
  month <- seq(as.Date("2021-01-01"), by = "month", length.out = 120)
  flows <- function(time, cycle) {
    n <- length(time)
    made <- lapply(1:18, function(i) {
      size <- c(3, 40, 900)[[i %% 3 + 1]]
      wave <- 1 + c(0, 0.4, 0.9)[[i %% 3 + 1]] * sin(
        2 * pi * (seq_len(n) + stats::runif(1, 0, cycle)) / cycle
      )
      stats::rpois(n, size * wave * (1 + i %% 2 * seq_len(n) / n))
    })
    names(made) <- paste0("m", 1:18)
    data.frame(time = time, made)
  }
  for (table in list(flows(day, 7), flows(day, 365.25), flows(hour, 24),
                     flows(month, 12))) {
    file <- file.path(folder, "flows.csv")
    data.table::fwrite(table, file)
    expect_null(inspect_file(file)$falls)
  }
})

test_that("counts so far of a year or month are found, and counted from 0 where each starts", {
  set.seed(9)
  day <- seq(as.Date("2029-04-01"), as.Date("2031-03-31"), by = "day")
  sold <- stats::rpois(length(day), 40)
  month <- format(day, "%Y-%m")
  fiscal <- as.integer(format(day, "%Y")) - (format(day, "%m") < "04")
  folder <- withr::local_tempdir()
  write <- function(name, ...) {
    data.table::fwrite(data.frame(...), file.path(folder, name))
  }
  write("month.csv", day, units = stats::ave(sold, month, FUN = cumsum))
  write("year.csv", day, units = stats::ave(sold, fiscal, FUN = cumsum))
  write("sold.csv", day, units = sold)
  months <- seq(as.Date("2026-04-01"), by = "month", length.out = 60)
  by_month <- stats::rpois(60, 900)
  write("ytd.csv", month = format(months, "%Y-%m"), units = stats::ave(
    by_month, (seq_len(60) - 1) %/% 12, FUN = cumsum
  ))
  kind <- function(name) {
    found <- inspect_file(file.path(folder, name))
    expect_identical(
      found$falls, if (name != "sold.csv") c(units = "restart")
    )
    found$columns$kind[[2]]
  }
  expect_identical(
    vapply(c("month.csv", "ytd.csv", "sold.csv"), kind, ""),
    c(month.csv = "counter", ytd.csv = "counter", sold.csv = "flow")
  )
  run <- function(name, ...) {
    utils::read.csv(text = backfill_cli(
      "periods", name, "--every", "month", "--over", "none", "--window",
      "none", "--format", "csv", "--quiet", ..., dir = folder
    )$out)
  }
  truth <- as.vector(tapply(sold, month, sum))
  # What the first record rose by is not known.
  expect_equal(run("month.csv")$value[-1], truth[-1])
  expect_equal(run("ytd.csv")$value[-1], by_month[-1])
  expect_identical(sum(is.na(run("ytd.csv", "--falls", "unknown")$value)), 5L)
  # What the user says is not counted otherwise, nor under another name.
  said <- inspect_file(
    file.path(folder, "ytd.csv"), measures = c(units = "flow")
  )
  expect_null(said$falls)
  expect_false(any(grepl("starts anew", said$notes)))
  expect_equal(
    run("ytd.csv", "--measure", "units:flow")$value,
    stats::ave(by_month, (seq_len(60) - 1) %/% 12, FUN = cumsum)
  )
  expect_equal(run("ytd.csv", "--rename", "sold=units")$value[-1], by_month[-1])
  draft <- study_draft(file.path(folder, "ytd.csv"))
  expect_match(
    paste(draft, collapse = "\n"), "falls: {units: restart}", fixed = TRUE
  )
})
