# Records in DuckDB against the same ones in memory, where that is installed: it
# takes long to compile, so that no other test needs it.

test_that("random records give the same periods in DuckDB as in memory", {
  skip_if_not_installed("duckdb")
  rounds <- as.integer(Sys.getenv("BACKFILL_ORACLE", "40"))
  expect_cases_alike(duckdb_base(), seq_len(rounds))
  expect_digits_and_codes(duckdb_base())
})

# A file with the crossings, their times by the clock of the isles as well.
duckdb_file <- function(env = parent.frame()) {
  file <- withr::local_tempfile(fileext = ".duckdb", .local_envir = env)
  at <- DBI::dbConnect(suppressMessages(duckdb::duckdb()), dbdir = file)
  withr::defer(DBI::dbDisconnect(at, shutdown = TRUE))
  data <- as.data.frame(crossings())[c("time", "tide")]
  data$time <- as.numeric(data$time)
  data$clock <- format(crossings()$time, "%Y-%m-%d %H:%M:%S", tz = "WET")
  DBI::dbWriteTable(at, "given", data)
  DBI::dbExecute(at, paste(
    "CREATE TABLE crossings AS SELECT to_timestamp(time) AS time,",
    "CAST(clock AS TIMESTAMP) AS clock, tide FROM given"
  ))
  file
}

test_that("a DuckDB file is read by its address, and nothing else is", {
  skip_if_not_installed("duckdb")
  file <- duckdb_file()
  address <- paste0("duckdb:", file)
  before <- unname(tools::md5sum(file))
  handle <- function(when, table = "crossings", ...) {
    records_at(address, table, when, c(tide = "flow"), zone = "WET", ...)
  }
  keep <- list(repeated = "first", duplicates = "keep")
  by_clock <- do.call(as_records, c(list(
    data.frame(
      clock = format(crossings()$time, "%Y-%m-%d %H:%M:%S", tz = "WET"),
      tide = crossings()$tide
    ), "clock", c(tide = "flow"), zone = "WET"
  ), keep))
  tide <- as_records(
    as.data.frame(crossings())[c("time", "tide")], "time", c(tide = "flow"),
    zone = "WET"
  )
  for (every in c("hour", "day", "month")) {
    rolled <- function(x) as.data.frame(roll_up(x, every))
    expect_alike(rolled(handle("time")), rolled(tide), every)
    there <- do.call(handle, c(list("clock"), keep))
    expect_alike(rolled(there), rolled(by_clock), every)
  }
  expect_error(
    handle("a", "SELECT 1 AS a, content AS tide FROM read_text('/etc/hosts')"),
    class = "backfill_error_database"
  )
  expect_error(
    handle("time", "SELECT * FROM crossings; DROP TABLE crossings"),
    class = "backfill_error_database"
  )
  expect_error(records_at("duckdb:none", "x", "t", c(n = "flow")), "no file")
  expect_identical(unname(tools::md5sum(file)), before)
})

test_that("its account is that of the same rows in SQLite", {
  skip_if_not_installed("duckdb")
  skip_if_not_installed("RSQLite")
  data <- data.frame(
    day = as.Date("2031-01-06") + c(0:20, 25, 25, NA),
    of = c("Ægir", NA), kilos = c(1:20, NA, -1, 0, 5)
  )
  said <- function(base) {
    base$put(data, "lots")
    there <- records_at(base$at, "lots", "day", c(kilos = "flow"),
                        series = "of", duplicates = "keep")
    gsub("in (the SQLite database|DuckDB)", "there",
         cli::ansi_strip(capture.output(print(account(there)))))
  }
  expect_identical(said(duckdb_base()), said(sqlite_base()))
})

test_that("a folder of Parquet is rolled up by a SELECT of one's own", {
  skip_if_not_installed("duckdb")
  skip_if_not_installed("nanoparquet")
  folder <- withr::local_tempdir()
  data <- data.frame(day = as.Date("2031-01-01") + 0:364, kilos = 1:365 / 7)
  for (part in split(data, data$day < "2031-06-01")) {
    nanoparquet::write_parquet(part, tempfile("p", folder, ".parquet"))
  }
  there <- records_at(
    duckdb_base()$at, sprintf("SELECT * FROM '%s/*.parquet'", folder), "day",
    c(kilos = "flow")
  )
  here <- as_records(data, "day", c(kilos = "flow"))
  expect_alike(
    as.data.frame(roll_up(there, "month")),
    as.data.frame(roll_up(here, "month")), "parquet"
  )
})
