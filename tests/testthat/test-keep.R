# Tables kept in files and read back as what they were.

# What is not the same after a table was kept in a file and read back: where
# it lies, and what it knows of its layout, which is found anew.
without_place <- function(x) {
  about <- attr(x, "backfill")
  about[c("layout", "beside")] <- NULL
  attr(x, "backfill") <- about
  x
}

kept_as <- function(x, type, env = parent.frame()) {
  file <- withr::local_tempfile(fileext = paste0(".", type), .local_envir = env)
  write_periods(x, file)
  read_periods(file)
}

every_table <- function() {
  nights <- inns()
  monthly <- roll_up(nights, "month")
  grown <- add_growth(monthly, "1 year")
  index <- seasonal_index(monthly)
  flags <- flag_periods(monthly, "a cycle before", c(percent = 12))
  hourly <- roll_up(
    read_records(demo_file("crossings.csv"), "time", c(
      market = "flow", tide = "flow"
    ), zone = "WET"),
    "hour"
  )
  ledger <- read_records(
    demo_file("ledger.csv"), "period", c(value = "level"), series = "item",
    known = "entered"
  )
  list(
    nights = nights, monthly = monthly, grown = grown, index = index,
    sheet = summary(index, type = "worksheet"), tests = summary(index),
    adjusted = deseasonalise(monthly, index), ahead = project(monthly, 6),
    flags = flags, flagged = summary(flags), hourly = hourly,
    fiscal = roll_up(nights, calendar("year", year_start = 4)),
    known = align_as_of(ledger, "week"), wide = widen(monthly),
    together = correlations(monthly), profile = cycle_profile(nights, "month"),
    grid = cycle_grid(nights, "month", "year"),
    memory = autocorrelation(monthly), gaps = gaps(monthly),
    turns = turning_points(monthly, "6 months"),
    trend = trend_line(monthly, of = "value"),
    ranking = rank_changes(monthly), cycles = suggest_cycle(monthly)
  )
}

test_that("every sort of table is read back as it was, from every format", {
  skip_if_not_installed("writexl")
  skip_if_not_installed("nanoparquet")
  tables <- every_table()
  for (name in names(tables)) {
    for (type in c("csv", "jsonl", "parquet")) {
      expect_identical(
        without_place(kept_as(tables[[name]], type)),
        without_place(tables[[name]]), label = paste(name, type)
      )
    }
  }
  # A workbook is read in a session of its own.
  in_books <- if (thorough()) names(tables) else names(tables)[c(TRUE, NA, NA)]
  for (name in in_books[!is.na(in_books)]) {
    expect_equal(
      without_place(kept_as(tables[[name]], "xlsx")),
      without_place(tables[[name]]), tolerance = 1e-14, label = name
    )
  }
})

test_that("every number is read back to the last bit, in as few digits as do", {
  withr::local_seed(1)
  hard <- c(
    0.1 + 0.2, 2^c(-1074, -1022, 53, 1023), 1e15, 1e22,
    123456789012345680, 1e-4, 1e-5, -0.3, 100000, .Machine$double.xmax,
    stats::rnorm(5000) * 10^stats::runif(5000, -30, 30), stats::rnorm(20000)
  )
  day <- as.Date("1980-01-01") + seq_along(hard) - 1
  x <- roll_up(
    as_records(data.frame(day, hard), "day", c(hard = "level")), "day"
  )
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(x, file)
  expect_identical(read_periods(file)$value, x$value)
  expect_identical(kept_as(x, "jsonl")$value, x$value)
  text <- utils::read.csv(file, colClasses = "character")$value
  digits <- nchar(gsub("e.*$|^-?[0.]*|[.]", "", text))
  expect_lte(max(digits), 17)
  expect_identical(
    text[1:13], c(
      "0.30000000000000004", "5e-324",
      "2.2250738585072014e-308", "9007199254740992", "8.98846567431158e+307",
      "1e+15", "1e+22", "1.2345678901234568e+17", "0.0001", "1e-05", "-0.3",
      "100000", "1.7976931348623157e+308"
    )
  )
})

test_that("both hours that a clock shows twice are written and read back", {
  at <- as.POSIXct("2031-10-25 20:00:00", tz = "UTC") + 3600 * 0:9
  records <- as_records(
    data.frame(at = .POSIXct(as.numeric(at), "CET"), v = 1:10), "at",
    c(v = "flow"), zone = "CET"
  )
  hours <- roll_up(records, "hour")
  for (type in c(".csv", ".json")) {
    file <- withr::local_tempfile(fileext = type)
    write_periods(hours, file)
    text <- paste(readLines(file), collapse = " ")
    expect_match(text, "2031-10-26T02:00:00+02:00", fixed = TRUE)
    expect_match(text, "2031-10-26T02:00:00+01:00", fixed = TRUE)
    if (type == ".csv") {
      expect_identical(columns(read_periods(file)), columns(hours))
    }
  }
})

test_that("verbs go on with what was read back as if nothing had been", {
  table <- roll_up(read_records(
    demo_file("landings.csv"), "date", c(price = "level", kilos = "flow"),
    series = c("species", "boat"), missing = "unsold", duplicates = "last"
  ), "month", by = "species", pool = c(price = "kilos"), enough = 0.3)
  back <- kept_as(table, "csv")
  for (further in list(
    function(x) roll_up(x, "3 months", enough = 0.3),
    function(x) add_growth(add_moving(x, 12), "1 year"),
    function(x) flag_periods(x, "a cycle before", c(percent = 20)),
    function(x) correlations(x), function(x) project(x, 4)
  )) {
    expect_identical(
      without_place(further(back)), without_place(further(table))
    )
  }
})

test_that("hostile names and texts come back as they were", {
  withr::local_seed(3)
  odd <- c(
    "=cmd()", "'=cmd()", "-5", "'-5", "+a", "@b", "''=x", "", NA, " lead",
    "trail ", "a,b", "say \"so\"", "\"", "\"\"", "two\nlines", "tab\t", "NA",
    "Fj\u00f8rd", "<script>alert(1)</script>", "\\", "#", "TRUE", "007"
  )
  days <- as.Date("2031-01-01") + 0:9
  table <- data.frame(
    day = rep(days, each = length(odd)), "a name, \"odd\"" = rep(odd, 10),
    kilos = rnorm(10 * length(odd)), check.names = FALSE
  )
  daily <- roll_up(as_records(
    table, "day", c(kilos = "flow"), series = "a name, \"odd\""
  ), "day")
  for (type in c("csv", "jsonl", "parquet")) {
    expect_identical(
      without_place(kept_as(daily, type)), without_place(daily), label = type
    )
  }
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(daily, file)
  text <- readLines(file, encoding = "UTF-8")
  expect_false(any(grepl("^\"?[=+@-][a-z]", text)))
})

test_that("the metadata describes each column by the standard", {
  file <- withr::local_tempfile(fileext = ".csv")
  write_periods(add_growth(roll_up(inns(), "month"), "1 year"), file)
  about <- jsonlite::fromJSON(
    paste0(file, "-metadata.json"), simplifyVector = FALSE
  )
  expect_identical(about$url, basename(file))
  expect_identical(about[["@context"]][[1]], "http://www.w3.org/ns/csvw")
  columns <- about$tableSchema$columns
  titles <- vapply(columns, `[[`, "", "titles")
  expect_identical(titles, names(utils::read.csv(file)))
  types <- vapply(columns, function(one) one$datatype, "")
  expect_identical(types, c(
    "string", "string", "date", "double", "string", "integer", "double",
    "double"
  ))
  expect_identical(
    unlist(about$tableSchema$primaryKey), c("inn", "measure", "period")
  )
  said <- vapply(columns, function(one) one[["dc:description"]] %||% "", "")
  expect_match(said[[4]], "flow, sum")
  expect_match(said[[8]], "growth of value over 1 year")
  # No term is ours but the one that is an address.
  expect_true(all(grepl("^(@context|url|dc:|tableSchema|https://)", names(
    about
  ))))
})

test_that("a file that was changed, cut or is another's is told from a whole one", {
  monthly <- roll_up(inns(), "month")
  folder <- withr::local_tempdir()
  file <- file.path(folder, "nights.csv")
  write_periods(monthly, file)
  expect_error(
    write_periods(read_periods(file), file), "not overwritten",
    class = "backfill_error_file"
  )
  text <- readLines(file)
  writeLines(text[-3], file)
  expect_warning(
    back <- read_periods(file), "was changed",
    class = "backfill_warning_changed"
  )
  expect_identical(nrow(back), nrow(monthly) - 1L)
  damaged <- list(
    sub("value", "valve", text), sub("608", "6o8", text),
    sub("complete", "whole", text)
  )
  expect_damaged <- function(file, versions) {
    for (lines in versions) {
      writeLines(lines, file)
      expect_error(
        suppressWarnings(read_periods(file)), "damaged",
        class = "backfill_error_file"
      )
    }
  }
  expect_damaged(file, damaged)
  writeLines(text, file)
  beside <- paste0(file, "-metadata.json")
  metadata <- readLines(beside)
  for (pair in list(
    c("backfill_table", "lm"), c(
      "\"type\": \"double\"", "\"type\": \"closure\""
    ),
    c("\"version\": 1", "\"version\": 2"), c("\"factor\"", "\"environment\"")
  )) {
    writeLines(sub(pair[[1]], pair[[2]], metadata, fixed = TRUE), beside)
    expect_error(
      read_periods(file), "damaged", class = "backfill_error_file",
      label = pair[[2]]
    )
  }
  writeLines("{\"url\": \"nights.csv\"}", beside)
  expect_error(
    read_periods(file), "was not written by", class = "backfill_error_file"
  )
  unlink(beside)
  expect_error(read_periods(file), class = "backfill_error_file")
  expect_error(
    read_periods(demo_file("inns.csv")), class = "backfill_error_file"
  )
  expect_error(read_periods(folder), class = "backfill_error_file")
  lines <- file.path(folder, "nights.jsonl")
  write_periods(monthly, lines)
  text <- readLines(lines)
  writeLines(text[-3], lines)
  expect_warning(
    back <- read_periods(lines), "was changed",
    class = "backfill_warning_changed"
  )
  expect_identical(nrow(back), nrow(monthly) - 1L)
  expect_damaged(lines, list(
    replace(text, 3, substr(text[[3]], 1, 20)),
    sub("\"class\":[^]]*]", "\"class\":[]", text), sub("value", "valve", text)
  ))
  unlink(lines)
  plain <- file.path(folder, "plain.csv")
  write_periods(monthly, plain, metadata = FALSE)
  expect_identical(list.files(folder), c("nights.csv", "plain.csv"))
})

test_that("a run leaves its tables in the formats that the study asks for", {
  skip_if_not_installed("writexl")
  skip_if_not_installed("yaml")
  withr::local_envvar(R_USER_CACHE_DIR = withr::local_tempdir())
  folder <- withr::local_tempdir()
  file.copy(demo_file("inns.csv"), folder)
  file <- file.path(folder, "study.yaml")
  lines <- c(
    "backfill: 1", "records:", "  nights:", "    file: inns.csv",
    "    when: month", "    series: inn",
    "    measures: {guest_nights: flow}", "steps:",
    "  - roll_up: {every: month}", "    name: monthly",
    "tables: [csv, xlsx, parquet]"
  )
  writeLines(lines, file)
  out <- file.path(folder, "run")
  run_study(file, out)
  sums <- function() tools::md5sum(list.files(out, full.names = TRUE))
  first <- sums()
  run <- run_study(file)
  direct <- study_result(run, "monthly")
  # The list of what was made is a table like others.
  back <- kept_as(run, "csv")
  expect_identical(lapply(back, as.vector), lapply(run, as.vector))
  for (type in c("csv", "xlsx", "parquet")) {
    back <- read_periods(file.path(out, paste0("monthly.", type)))
    expect_equal(without_place(back), without_place(direct), tolerance = 1e-14)
  }
  Sys.sleep(1.1) # a workbook's dates have seconds
  run_study(file, out, fresh = TRUE)
  expect_identical(sums(), first)
  writeLines(replace(lines, 11, "tables: []"), file)
  expect_error(
    read_study(file), "names no format", class = "backfill_error_study"
  )
  writeLines(replace(lines, 11, "events: nowhere.csv"), file)
  expect_error(
    read_study(file), "line 11.*nowhere.csv", class = "backfill_error_study"
  )
  writeLines(replace(lines, 11, "tables: ods"), file)
  expect_error(
    read_study(file), "\"ods\" is not a format", class = "backfill_error_study"
  )
})

test_that("figures that are no numbers are kept beside those that are", {
  x <- data.frame(day = as.Date("2031-01-01") + 0:4, v = c(1.1, 3, 1, 5, 2))
  daily <- roll_up(as_records(x, "day", c(v = "level")), "day")
  daily$odd <- c(0.1 + 0.2, Inf, -Inf, NA, 1)
  for (type in c("csv", "jsonl")) {
    expect_identical(kept_as(daily, type)$odd, daily$odd, label = type)
  }
  # The first line and a row, as anybody can read them.
  file <- withr::local_tempfile(fileext = ".jsonl")
  write_periods(daily, file)
  lines <- lapply(readLines(file), jsonlite::fromJSON)
  expect_identical(lines[[1]][[1]]$class[[1]], "backfill_periods")
  expect_identical(lines[[1]][[1]]$rows, 5L)
  expect_identical(lines[[2]]$period, "2031-01-01")
  expect_identical(lines[[2]]$value, 1.1)
})

test_that("a command goes on with periods that another wrote, as if with the records", {
  folder <- withr::local_tempdir()
  file.copy(demo_file("inns.csv"), folder)
  run <- function(...) backfill_cli(..., "--quiet", dir = folder)
  types <- Filter(function(type) {
    package <- c(xlsx = "writexl", parquet = "nanoparquet")[type]
    is.na(package) || requireNamespace(package, quietly = TRUE)
  }, c("csv", "jsonl", "xlsx", "parquet"))
  for (type in types) {
    run("periods", "inns.csv", "--out", paste0("monthly.", type))
    kept <- run("growth", paste0("monthly.", type))
    expect_identical(kept$out, run("growth", "inns.csv")$out, label = type)
  }
  piped <- processx::run("sh", c("-c", paste(
    "\"$0\" periods inns.csv --format jsonl --quiet |",
    "\"$0\" moving - --window 3 --format jsonl --quiet |",
    "\"$0\" growth - --quiet"
  ), system.file("exec", "backfill", package = "backfill")), wd = folder)
  expect_identical(
    strsplit(piped$stdout, "\n")[[1]], run("growth", "inns.csv")$out
  )
  for (command in list(
    c("growth", "--per-day"), "flags", c("season", "--project", "6"),
    c("periods", "--every", "quarter", "--year-start", "4"),
    c("periods", "--fill", "linear")
  )) {
    kept <- run(command[[1]], "monthly.csv", command[-1])
    # The records' own periods are months.
    expect_identical(kept$status, 0L, label = command[[1]])
    expect_identical(
      kept$out, run(command[[1]], "inns.csv", command[-1])$out,
      label = paste(command, collapse = " ")
    )
  }
  said <- backfill_cli("growth", "monthly.csv", dir = folder)$err
  expect_match(said, "monthly.csv is a table of periods", all = FALSE)
  run("season", "inns.csv", "--out", "season.csv")
  for (wrong in list(
    c("growth", "monthly.csv", "--from", "2030-01-01"),
    c("growth", "monthly.csv", "--aside", "aside.csv"),
    c("growth", "monthly.csv", "--week-start", "Sunday"),
    c("growth", "monthly.csv", "--year-start", "4"),
    c("growth", "season.csv"), c("inspect", "monthly.csv"),
    c("report", "monthly.csv", "--out", "page.html")
  )) {
    expect_identical(
      do.call(run, as.list(wrong))$status, 2L,
      label = paste(wrong, collapse = " ")
    )
  }
  # Without its metadata, or with its columns named, it is a file as any other.
  expect_s3_class(read_records(
    file.path(folder, "monthly.csv"), when = "period",
    series = c("inn", "measure"), measures = c(value = "flow")
  ), "backfill_records")
  expect_error(
    read_records(file.path(folder, "monthly.csv")),
    class = "backfill_error_input"
  )
})
