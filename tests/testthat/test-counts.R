# Event logs: the rows themselves are counted.

event_log <- function(env = parent.frame()) {
  withr::local_seed(11)
  at <- sort(as.POSIXct("2029-01-10 08:00", tz = "UTC") +
               round(stats::runif(900, 0, 3e7), -2))
  log <- data.frame(
    opened = format(at, "%Y-%m-%d %H:%M:%S"),
    quay = sample(c("North", "South"), 900, TRUE),
    what = sample(c("leak", "lamp", "noise"), 900, TRUE, c(0.6, 0.39, 0.01)),
    note = sprintf("no %d", sample(900))
  )
  file <- withr::local_tempfile(fileext = ".csv", .local_envir = env)
  utils::write.csv(log, file, row.names = FALSE)
  list(log = log, file = file, month = substr(log$opened, 1, 7))
}

test_that("rows are counted by period and series: all of them, zero where there are none", {
  made <- event_log()
  log <- made$log
  x <- read_records(made$file, "opened", c(calls = "count"), series = "what")
  months <- roll_up(x, "month")
  counted <- table(log$what, made$month)
  expect_identical(
    months$value,
    as.numeric(counted[cbind(months$what, format(months$period, "%Y-%m"))])
  )
  expect_identical(sum(months$value), 900)
  expect_true(0 %in% months$value)
  # The log begins and ends within a month, for rare events as well.
  ends <- months$period %in% range(months$period)
  expect_identical(months$standing == "partial", ends)
  expect_true(all(months$standing[!ends] == "complete"))
  expect_identical(roll_up(roll_up(x, "day"), "month")$value, months$value)
  chunked <- roll_up(read_records(
    made$file, "opened", c(calls = "count"), series = "what", chunked = TRUE
  ), "month")
  expect_identical(chunked$value, months$value)
  expect_identical(chunked$standing, months$standing)
  together <- roll_up(x, "month", by = character())
  expect_identical(together$value, as.numeric(colSums(counted)))
  kept <- withr::local_tempfile(fileext = ".csv")
  write_periods(months, kept)
  expect_identical(
    read_periods(kept)$value, months$value
  )
  expect_output(print(months), "calls [(]count, added up[)]")
})

test_that("two events of one time are two, and a number beside them stays a flow", {
  log <- data.frame(
    day = as.Date("2031-04-09") + c(0, 0, 0, 2), cost = c(5, 5, 7, 1)
  )
  x <- as_records(log, "day", c(tickets = "count"))
  days <- roll_up(x, "day")
  expect_identical(days$value, c(3, 0, 1))
  expect_identical(as.character(days$standing), rep("complete", 3))
  both <- roll_up(as_records(
    log, "day", c(tickets = "count", cost = "flow"), duplicates = "keep"
  ), "month")
  expect_identical(both$value[order(both$measure)], c(18, 4))
  # With figures that are measured, rows of one time are looked at.
  expect_error(
    as_records(log, "day", c(tickets = "count", cost = "flow")),
    class = "backfill_error_duplicates"
  )
  expect_identical(
    roll_up(x, "month", absent = c(tickets = "zero"))$value, 4
  )
  expect_error(
    as_records(log, "day", c(cost = "count")), "name of a column",
    class = "backfill_error_column"
  )
  wide <- data.frame(port = "a", "2031-01" = 1, "2031-02" = 2, "2031-03" = 3,
                     check.names = FALSE)
  expect_error(
    as_records(wide, "month", c(n = "count"), series = "port",
               layout = "dates across"),
    "counts the rows", class = "backfill_error_argument"
  )
})

test_that("a log without figures goes to periods and a page by itself", {
  made <- event_log()
  folder <- withr::local_tempdir()
  file.copy(made$file, file.path(folder, "calls.csv"))
  seen <- inspect_file(file.path(folder, "calls.csv"))
  expect_identical(seen$arguments$measures, list(records = "count"))
  expect_match(seen$shell, "--measure records:count", all = FALSE)
  direct <- roll_up(seen$records, "month")
  ran <- command_line(
    "periods", "calls.csv", "--every", "month", "--format", "csv",
    dir = folder
  )
  expect_match(ran$err, "records a count", all = FALSE)
  told <- utils::read.csv(text = ran$out)
  expect_equal(told$value, direct$value)
  ran <- command_line(
    "periods", "calls.csv", "--measure", "calls:count", "--series", "quay",
    "--series", "what", "--every", "month", "--format", "csv", "--quiet",
    dir = folder
  )
  told <- utils::read.csv(text = ran$out)
  expect_identical(sum(told$value), 900L)
  expect_length(unique(paste(told$quay, told$what)), 6)
  skip_if_not_installed("yaml")
  draft <- command_line("study", "draft", "calls.csv", dir = folder)
  writeLines(draft$out, file.path(folder, "look.yaml"))
  run <- run_study(file.path(folder, "look.yaml"))
  expect_identical(sum(study_result(run, "rolled")$value), 900)
})

test_that("what a measure says in full stands in the call and the command for it", {
  seen <- inspect_file(demo_file("inns.csv"), measures = list(
    guest_nights = measure("flow", "nights")
  ))
  expect_match(
    seen$call, "list(guest_nights = measure(\"flow\", unit = \"nights\"))",
    fixed = TRUE, all = FALSE
  )
  expect_match(
    seen$shell, "--measure guest_nights:flow:nights ", all = FALSE
  )
  again <- eval(str2lang(paste(seen$call, collapse = "\n")))
  expect_identical(again, seen$records)
})
