# The jobs of practitioners, each a study on the demo data.

jobs <- sub("-study.yaml", "", setdiff(
  list.files(system.file("extdata", package = "backfill"), "-study[.]yaml$"),
  c("tarn-study.yaml", "nights-study.yaml")
), fixed = TRUE)

# Without its page, which takes longest; those of two are drawn below.
run_job <- function(name, page = FALSE, out = NULL) {
  study <- read_study(demo_file(paste0(name, "-study.yaml")))
  if (!page) study$report <- NULL
  run_study(study, out)
}

test_that("there are sixteen, each short, and each runs and finds something", {
  expect_length(jobs, 16)
  for (job in setdiff(jobs, c("calls", "parcels", "tide", "ledger", "hours"))) {
    expect_lt(length(readLines(demo_file(paste0(job, "-study.yaml")))), 40)
    expect_no_warning(run <- run_job(job))
    said <- findings(run)
    expect_gt(nrow(said), 0, label = job)
    # For a colleague: no function, option or internal name.
    odd <- grepl("[a-z]+_[a-z]+|[a-z][(][)]|--[a-z]|`", said$statement)
    expect_identical(said$statement[odd], character(), label = job)
  }
})

test_that("calls are counted by clocks of their own, once each, under one name", {
  truth <- truths()$radio
  run <- run_job("calls")
  monthly <- study_result(run, "monthly")
  expect_identical(sum(monthly$n), as.integer(truth$calls))
  expect_setequal(monthly$boat, names(truth$boats))
  share <- tapply(monthly$n, monthly$boat, sum) / truth$calls
  expect_lt(max(abs(share - unlist(truth$boats)[names(share)])), 0.03)
})

test_that("the tide comes back in whole days near multiples of what it does", {
  cycles <- study_result(run_job("tide"), "cycles")
  tide <- cycles$cycle[cycles$measure == "tide"]
  times <- tide / truths()$crossings$tide$comes_back_days
  expect_true(59L %in% tide)
  expect_lt(max(abs(times - round(times))), 0.05)
  said <- backfill:::finding_of(cycles)
  expect_match(said, "Market repeats after 7 days")
  expect_match(said, "tide repeats after .*59", ignore.case = TRUE)
})

test_that("workdays and a fair that moves are found in the parcels, and taken out", {
  truth <- truths()$packet
  effects <- study_result(run_job("parcels"), "effects")
  fair <- effects[effects$effect == "festival", ]
  # Ten days before it, some seven of a month's 21 sailings.
  share <- 100 * (truth$fair$factor - 1) * 7.2 / 21
  expect_true(fair$lower < share && fair$upper > share)
  expect_identical(fair$verdict, "found")
  expect_identical(effects$verdict[effects$effect == "working day"], "found")
})

test_that("items of the ledger keep their steps, and Wednesday is market day", {
  ledger <- study_result(run_job("ledger"), "quarterly")
  whole <- ledger[ledger$standing == "complete", ]
  expect_setequal(unique(whole$measure), c(
    "ice sold", "berths let", "ice per berth"
  ))
  at <- function(name) whole$value[whole$measure == name][1:12]
  expect_equal(at("ice per berth"), at("ice sold") / at("berths let"))
  weekdays <- study_result(run_job("hours"), "weekdays")
  expect_identical(
    as.character(weekdays$weekday[which.max(weekdays$mean)]), "Wednesday"
  )
})

test_that("a job is run from a shell by its name", {
  skip_if_not_installed("yaml")
  folder <- withr::local_tempdir()
  done <- command_line(
    c("demo", "--study", "inns", "--out", "page"), dir = folder
  )
  expect_identical(done$status, 0L)
  expect_true(file.exists(file.path(folder, "page", "findings.txt")))
  wrong <- command_line(
    c("demo", "--study", "hour", "--out", "page"), dir = folder
  )
  expect_identical(wrong$status, 2L)
  expect_match(paste(wrong$err, collapse = " "), "Did you mean \"hours\"")
})

test_that("what a table of attributes does not match is told, but not where quiet is asked for", {
  folder <- withr::local_tempdir()
  file.copy(demo_file(c("inns.csv", "islands.csv")), folder)
  line <- c(
    "periods", "inns.csv", "--when", "month", "--series", "inn", "--measure",
    "guest_nights:flow", "--attributes", "islands.csv",
    "--attribute-measure", "beds:level"
  )
  told <- command_line(line, dir = folder)
  expect_match(paste(told$err, collapse = " "), "Marra")
  quiet <- command_line(c(line, "--quiet"), dir = folder)
  expect_identical(quiet$err, character())
})

test_that("a value that says more than its choice is answered with the choice", {
  parcels <- roll_up(read_records(
    demo_file("packet.csv"), "date", c(parcels = "flow")
  ), "month")
  told <- expect_error(
    calendar_effects(parcels, days = "working days"),
    class = "backfill_error_argument"
  )
  expect_match(
    conditionMessage(told), "Did you mean \"working\"?", fixed = TRUE
  )
})
