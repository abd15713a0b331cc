# A log of items in one column, names written in several ways, and clocks that
# differ by row.

log_lines <- c(
  "island,item,day,value", "Marra,ice sold,2031-01-01,5",
  "Marra,berths let,2031-01-01,7", "marra,ice sold,2031-02-01,6",
  "Marra,berths let,2031-02-01,8", "Marra,nets,2031-02-01,1",
  "Vannow,ice sold,2031-01-01,50"
)

test_that("items are measures of kinds of their own, and no row is lost unaccounted", {
  file <- text_file(log_lines)
  r <- read_records(
    file, "day",
    list(
      "ice sold" = "flow", "berths let" = "level",
      "ice per berth" = measure("ratio", of = "ice sold", per = "berths let")
    ),
    series = "island", items = c(item = "value"), recode = list(Marra = "marra")
  )
  expect_identical(names(r), c(
    "day", "island", "ice sold", "berths let", "ice per berth"
  ))
  expect_identical(r$island, c("Marra", "Vannow", "Marra"))
  expect_identical(r[["ice sold"]], c(5, 50, 6))
  expect_identical(r[["berths let"]], c(7, NA, 8))
  account <- account(r)
  expect_identical(account$rows_used - account$rows_merged, nrow(r))
  said <- paste(capture.output(account), collapse = " ")
  expect_match(said, "1 row of other items is left out: \"nets\"", fixed = TRUE)
  expect_match(said, "\"marra\" is now \"Marra\"", fixed = TRUE)
  years <- roll_up(r, "quarter")
  of <- function(name) years[years$measure == name & years$island == "Marra", ]
  expect_identical(of("ice sold")$value, 11)
  expect_identical(of("berths let")$value, 7.5)
  expect_equal(of("ice per berth")$value, 11 / 7.5)
})

test_that("items as measures are the series of the same names, by any order of the rows", {
  withr::local_seed(4)
  long <- expand.grid(
    day = seq(as.Date("2030-01-01"), by = "month", length.out = 30),
    item = c("a b", "value of c", "d"), dock = c("x", "y"),
    stringsAsFactors = FALSE
  )
  long$figure <- round(rnorm(nrow(long)), 3)
  long <- long[sample(nrow(long), 150), ]
  file <- withr::local_tempfile(fileext = ".csv")
  write.csv(long, file, row.names = FALSE)
  as_series <- read_records(
    file, "day", c(figure = "level"), c("item", "dock")
  )
  as_measures <- read_records(
    file, "day", c(figure = "level"), "dock", items = c(item = "figure")
  )
  one <- roll_up(as_series, "year")
  other <- roll_up(as_measures, "year")
  expect_equal(
    other$value[order(other$measure, other$dock, other$period)],
    one$value[order(one$item, one$dock, one$period)]
  )
})

test_that("rows without an item are left out and told, and the column may be a series as well", {
  file <- text_file(c(
    "day,item,value", "2031-01-01,,5", "2031-01-01,a,1", "2031-01-02,a,2"
  ))
  for (series in list(NULL, "item")) {
    r <- read_records(
      file, "day", c(value = "flow"), series, items = c(item = "value")
    )
    expect_identical(names(r), c("day", "a"))
    expect_identical(r$a, c(1, 2))
    expect_match(
      paste(account(r)$notes, collapse = " "), "1 row names no item"
    )
  }
})

test_that("what items and names cannot be is told", {
  file <- text_file(log_lines)
  read <- function(...) {
    read_records(file, "day", series = "island", ...)
  }
  fails <- function(class, said, ...) {
    expect_match(
      conditionMessage(expect_error(
        read(...), class = paste0("backfill_error_", class)
      )),
      said, fixed = TRUE
    )
  }
  sold <- c("ice sold" = "flow")
  fails("argument", "such as c(item = \"value\")", sold, items = "item")
  fails(
    "column", "\"ice sold\"", c("ice sol" = "flow"), items = c(item = "value")
  )
  fails(
    "argument", "`line_number` is given", sold, items = c(item = "value"),
    line_number = "line"
  )
  fails(
    "argument", "`items` is given", sold, items = c(item = "value"),
    chunked = TRUE
  )
  fails(
    "column", "no series is called", c(value = "flow"), duplicates = "keep",
    recode = list(Marra = "Mara")
  )
  fails(
    "argument", "two names", c(value = "flow"),
    recode = list(A = "Marra", B = "Marra")
  )
  twice <- text_file(c(log_lines, "Marra,ice sold,2031-01-01,9"))
  expect_error(
    read_records(
      twice, "day", sold, "island", items = c(item = "value"),
      duplicates = "keep"
    ),
    class = "backfill_error_duplicates"
  )
  expect_match(
    paste(inspect_file(file)$notes, collapse = " "),
    "`items` as item=value", fixed = TRUE
  )
})

test_that("a clock's distance from UTC stands in a column of its own", {
  file <- text_file(c(
    "sent,clock,boat", "2031-03-14 08:12:40,+01:00,Petrel",
    "2031-03-14 08:12,-3.5,Petrel", "2031-03-14 09:12,UTC,Petrel",
    "2031-03-14 10:12,0130,Petrel", "2031-03-14 11:00,UTC-2,Petrel",
    "2031-03-14 10:12,noon,Petrel"
  ))
  calls <- c(calls = "count")
  r <- read_records(file, c(date = "sent", offset = "clock"), calls)
  expect_identical(format(r$when, "%H:%M:%S"), c(
    "07:12:40", "11:42:00", "09:12:00", "08:42:00", "13:00:00"
  ))
  expect_identical(rows_set_aside(r)$line, 7L)
  split <- text_file(c(
    "day,at,ahead", "2031-03-14,00:30,1", "2031-03-14,23:30,-1"
  ))
  r <- read_records(
    split, c(date = "day", time = "at", offset = "ahead"), c(calls = "count")
  )
  expect_identical(
    format(r$when, "%d %H:%M"), c("13 23:30", "15 00:30")
  )
  expect_error(
    read_records(split, c(year = "day", offset = "ahead"), c(calls = "count")),
    class = "backfill_error_argument"
  )
})

test_that("a study and a shell make the same of items and names, and the script is R", {
  folder <- withr::local_tempdir()
  writeLines(log_lines, file.path(folder, "log.csv"))
  study <- file.path(folder, "study.yaml")
  writeLines(c(
    "backfill: 1", "title: Items", "records:", "  log:", "    file: log.csv",
    "    when: day", "    series: island", "    items: {item: value}",
    "    recode: {Marra: [marra, Vannow], Skellan: nobody}",
    "    duplicates: sum",
    "    measures: {ice sold: flow, berths let: level}", "steps:",
    "  - roll_up: {every: month}", "    name: monthly"
  ), study)
  # No series is called that.
  expect_error(run_study(read_study(study)), class = "backfill_error_column")
  writeLines(sub(", Skellan: nobody", "", readLines(study)), study)
  script <- study_script(read_study(study))
  expect_match(
    paste(script, collapse = " "), "items = c(item = \"value\")", fixed = TRUE
  )
  expect_match(
    paste(script, collapse = " "),
    "recode = list(Marra = c(\"marra\", \"Vannow\"))", fixed = TRUE
  )
  ran <- study_result(run_study(read_study(study)), "monthly")
  by_hand <- withr::with_dir(folder, eval(
    parse(text = script), list2env(list(), parent = globalenv())
  ))
  expect_equal(ran, by_hand, ignore_attr = TRUE)
  out <- file.path(folder, "out.csv")
  command_line(c(
    "periods", file.path(folder, "log.csv"), "--when", "day", "--series",
    "island", "--items", "item=value", "--recode", "Marra=marra", "--recode",
    "Marra=Vannow", "--duplicates", "sum", "--measure", "ice sold:flow",
    "--measure", "berths let:level", "--every", "month", "--over", "none",
    "--window", "none", "--quiet", "--out", out
  ), dir = folder)
  expect_equal(read_periods(out)$value, ran$value)
})

test_that("names that may be one are told, and those that differ by number or are as frequent are not", {
  withr::local_seed(8)
  boats <- c(
    rep("Petrel", 300), rep("petrel", 4), "PETREL ", rep("Whimbrel", 200),
    rep("Whimbrell", 5), rep("Marra", 90), rep("Marla", 80), rep("tank 01", 90),
    "tank 02", rep("Auk", 60), "Aux", "St. Mary", "St Mary", "1.5", "15",
    "1-2", "12", "A+", "A-", "A", "m", "M", "C", "C#", "-5", "5"
  )
  data <- data.frame(
    day = as.Date("2031-01-01") + seq_along(boats), boat = sample(boats)
  )
  file <- withr::local_tempfile(fileext = ".csv")
  write.csv(data, file, row.names = FALSE)
  note <- grep("may be one", account(read_records(
    file, "day", c(calls = "count"), "boat"
  ))$notes, value = TRUE)
  expect_match(note, "\"Petrel\", \"petrel\" or \"PETREL", fixed = TRUE)
  expect_match(note, "\"Whimbrel\" or \"Whimbrell\"", fixed = TRUE)
  expect_match(note, "\"St. Mary\" or \"St Mary\"", fixed = TRUE)
  # Others may be codes.
  expect_no_match(note, "Marra|tank|Auk|[0-9]|A|\"m\"|C")
  put_right <- read_records(
    file, "day", c(calls = "count"), "boat",
    recode = list(Petrel = c("petrel", "PETREL"), Whimbrel = "Whimbrell")
  )
  expect_false(any(
    c("petrel", "PETREL", "Whimbrell") %in% put_right$boat
  ))
})

test_that("inspect finds the clock's distance, but not where the times have it", {
  found <- inspect_file(demo_file("radio.csv"))
  expect_identical(found$arguments$when, c(date = "sent", offset = "clock"))
  expect_no_match(paste(found$notes, collapse = " "), "taken for UTC")
  own <- text_file(c(
    "sent,clock,kilos", "2031-03-14T08:12:40+01:00,+01:00,5",
    "2031-03-15T08:12:40+01:00,+01:00,6", "2031-03-16T08:12:40+01:00,+01:00,7"
  ))
  expect_identical(inspect_file(own)$arguments$when, "sent")
  whole <- text_file(c(
    "day,shift,kilos", "2031-03-14,+01,5", "2031-03-15,+02,6",
    "2031-03-16,+01,7"
  ))
  expect_identical(inspect_file(whole)$arguments$when, "day")
})

test_that("the zone of each row stands in a column, daylight saving and all", {
  file <- text_file(c(
    "sent,tz,boat", "2031-07-01 12:00,WET,a", "2031-07-01 12:00,UTC,a",
    "2031-07-01 12:00,CET,b", "2031-01-01 12:00,CET,b",
    "2031-03-30 01:30,WET,a", "2031-07-01 13:00,Nowhere,a",
    "2031-07-01 25:00,UTC,a"
  ))
  r <- read_records(
    file, c(date = "sent", zone = "tz"), c(calls = "count"), "boat",
    zone = "WET"
  )
  expect_identical(
    format(r$when, "%m-%d %H:%M", tz = "UTC"),
    c("07-01 11:00", "07-01 12:00", "07-01 10:00", "01-01 11:00")
  )
  expect_identical(attr(r$when, "tzone"), "WET")
  aside <- rows_set_aside(r)
  expect_identical(aside$line, 6:8)
  expect_match(aside$reason[[1]], "daylight saving skips it")
  expect_identical(aside$reason[[2]], "no zone of the tz database")
  days <- text_file(c("day,tz", "2031-07-01,WET", "2031-07-02,WET"))
  expect_error(
    read_records(days, c(date = "day", zone = "tz"), c(calls = "count")),
    class = "backfill_error_when"
  )
  expect_error(
    read_records(
      file, c(date = "sent", zone = "tz", offset = "boat"),
      c(calls = "count")
    ),
    class = "backfill_error_argument"
  )
})

test_that("a draft says what it was told as one would write it, and runs", {
  folder <- withr::local_tempdir()
  file.copy(demo_file("ledger.csv"), folder)
  drafted <- command_line(c(
    "study", "draft", "ledger.csv", "--when", "period", "--items", "item=value",
    "--duplicates", "last", "--measure", "ice sold:flow", "--measure",
    "berths let:level"
  ), dir = folder)
  expect_true(all(c("    when: period", "      item: value") %in% drafted$out))
  expect_no_match(paste(drafted$out, collapse = "\n"), "series:|\"\"")
  study <- file.path(folder, "study.yaml")
  writeLines(drafted$out, study)
  expect_gt(nrow(findings(run_study(read_study(study)))), 0)
})
