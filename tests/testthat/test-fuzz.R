# Damaged files of every format (see helper-mutate.R): each is read with every
# row accounted for, or refused with an error of ours. BACKFILL_FUZZ says how
# many inputs there are of each class and format; `make fuzz` asks for many.

rounds <- as.integer(Sys.getenv("BACKFILL_FUZZ", "1"))

test_that("damaged files are read with every row accounted for, or refused; never anything else", {
  found <- fuzz_formats(rounds, seed = 1)
  expect_identical(found$first[found$faults > 0], character())
  expect_identical(found$refused + found$accepted, found$inputs)
  # That nothing is refused, or everything, would say that the mutator or the
  # reader does nothing.
  text <- subset(
    found,
    !format %in% c(
      "Parquet", "Office Open XML workbook", "OpenDocument workbook", "NetCDF",
      "gzip"
    )
  )
  expect_true(all(tapply(text$accepted, text$class, sum) > 0))
  expect_true(all(tapply(found$refused, found$class, sum) > 0))
})

test_that("a fault is found and named with the seed that brings it about", {
  expect_match(outcome_of(function(path) stop("oops"), "x"), "fault: oops")
  expect_match(outcome_of(function(path) warning("oops"), "x"), "warned: oops")
})

test_that("what libFuzzer found of the kernels that parse text holds still", {
  skip_unless_thorough()
  kernels <- checkout("tests", "kernels")
  build <- withr::local_tempdir()
  for (target in c("numbers", "dates", "delimited")) {
    program <- file.path(build, target)
    built <- processx::run("g++", c(
      "-std=gnu++17", "-O1", "-fsanitize=undefined",
      "-fno-sanitize-recover=all", paste0("-I", checkout("src", "kernels")),
      file.path(kernels, c(sprintf("fuzz_%s.cpp", target), "replay.cpp")), "-o",
      program
    ), error_on_status = FALSE)
    expect_identical(built$status, 0L, info = built$stderr)
    utils::untar(
      file.path(kernels, "corpus", paste0(target, ".tar.gz")),
      exdir = file.path(build, paste0(target, ".d"))
    )
    ran <- processx::run(
      program, file.path(build, paste0(target, ".d")), error_on_status = FALSE
    )
    expect_identical(ran$status, 0L, info = ran$stderr)
    expect_gt(as.integer(ran$stdout), 100)
  }
})

test_that("bytes that are no text are spelled out in errors, wherever they come from", {
  skip_if_not_installed("RSQLite")
  bad <- "Na\xefve"
  file <- withr::local_tempfile(fileext = ".csv")
  writeBin(charToRaw(sprintf("day,%s\n2031-01-01,1\n", bad)), file)
  expect_error(
    read_records(
      file, when = "date", measures = c(v = "flow"), encoding = "UTF-8"
    ),
    class = "backfill_error"
  )
  con <- DBI::dbConnect(RSQLite::SQLite(), ":memory:")
  withr::defer(DBI::dbDisconnect(con))
  DBI::dbExecute(con, "CREATE TABLE t (day TEXT, v REAL)")
  DBI::dbExecute(con, "INSERT INTO t VALUES (CAST(x'32EF31' AS TEXT), 1)")
  for (work in list(
    function() read_records(con, "day", c(v = "flow"), table = "t"),
    function() records_at(con, "t", "day", c(v = "flow")),
    function() as_records(data.frame(day = bad, v = 1), "day", c(v = "flow"))
  )) {
    cnd <- tryCatch(work(), error = identity)
    expect_s3_class(cnd, "backfill_error")
    expect_true(validUTF8(conditionMessage(cnd)))
  }
})
