# Damaged copies of demo files: each is read with every row accounted for, or refused with an error of ours.

damage <- list(
  function(x) replace(x, sample(length(x), 3), as.raw(sample(0:255, 3))),
  function(x) x[-sample(length(x), 5)],
  function(x) x[seq_len(sample(length(x), 1))],
  function(x) {
    put_in <- sample(c("\"", ",", ";", ",,,", "\n\n", "\r", "\t;", "\u00e9", "1e9"), 1)
    append(x, charToRaw(put_in), sample(length(x), 1))
  },
  function(x) x[c(seq_len(sample(length(x), 1)), sample(length(x), 1):length(x))]
)

outcomes_of <- function(name, rounds, read, bytes = 3000) {
  whole <- readBin(demo_file(name), "raw", bytes)
  file <- withr::local_tempfile(fileext = paste0(".", tools::file_ext(name)))
  vapply(seq_len(rounds), function(round) {
    writeBin(damage[[round %% length(damage) + 1]](whole), file)
    tryCatch({
      records <- read(file)
      account <- intake(records)
      stopifnot(account$rows_read == account$rows_used + nrow(set_aside(records)),
                nrow(records) == account$rows_used - account$rows_merged,
                !anyNA(records[[attr(records, "backfill")$when]]))
      periods <- roll_up(records, "year", cadence = "irregular")
      capture.output(print(account), print(as.data.frame(account)), print(periods))
      "read"
    }, backfill_error = function(cnd) "refused", warning = conditionMessage)
  }, "")
}

test_that("damaged text is read with every row accounted for, or refused; never anything else", {
  withr::local_seed(10)
  expect_setequal(c("read", "refused"), outcomes_of("guest-nights.csv", 75, function(file) {
    read_records(file, "month", c(guest_nights = "flow"), series = "island", duplicates = "first")
  }))
  expect_setequal(c("read", "refused"), outcomes_of("fish-auction.csv", 50, function(file) {
    read_records(file, "date", c(close = "level", kilos = "flow"), series = "species", duplicates = "sum")
  }))
  expect_setequal(c("read", "refused"), outcomes_of("cold-store-meters.csv", 30, bytes = 6000, function(file) {
    read_records(file, measures = c(kwh = "counter"), series = c("store", "hall"), layout = "dates across",
                 duplicates = "last")
  }))
})

test_that("so are damaged workbooks, JSON, Parquet, and what inspect_file() makes of damaged text", {
  withr::local_seed(11)
  expect_true(all(outcomes_of("sailings.csv", 25, function(file) {
    found <- inspect_file(file)
    if (is.null(found$records)) rlang::abort(found$problem, class = "backfill_error")
    found$records
  }) %in% c("read", "refused")))
  skip_if_not_installed("nanoparquet")
  skip_if_not_installed("writexl")
  data <- data.frame(day = format(as.Date("2031-04-01") + 0:40), kilos = 1:41 + 0.5)
  writers <- list(json = function(file) jsonlite::write_json(data, file),
                  parquet = function(file) nanoparquet::write_parquet(data, file),
                  xlsx = function(file) writexl::write_xlsx(data, file))
  for (format in names(writers)) {
    file <- withr::local_tempfile(fileext = paste0(".", format))
    writers[[format]](file)
    whole <- readBin(file, "raw", 1e6)
    for (round in seq_len(if (format == "json") 30 else 8)) {
      writeBin(damage[[round %% length(damage) + 1]](whole), file)
      outcome <- tryCatch({
        records <- read_records(file, "day", c(kilos = "flow"), duplicates = "keep")
        if (intake(records)$rows_read == nrow(records) + nrow(set_aside(records))) "read" else "lost"
      }, backfill_error = function(cnd) "refused")
      expect_true(outcome %in% c("read", "refused"), label = paste(format, round, outcome))
    }
  }
})
