# The call that inspect_file() prints, run as a user would who copies it.
run_call <- function(found) {
  eval(parse(text = found$call), envir = new.env(parent = asNamespace("backfill")))
}

test_that("the demo files are seen for what they are, and the printed call reads them so", {
  roles <- function(found, role) found$columns$column[found$columns$role == role]
  guest <- inspect_file(demo_file("guest-nights.csv"))
  expect_identical(roles(guest, "series"), "island")
  expect_identical(run_call(guest), guest_nights())
  fish <- inspect_file(demo_file("fish-auction.csv"))
  expect_identical(fish$columns$kind, c("", "", rep("level", 4), "flow"))
  expect_match(fish$notes, "`duplicates` is set to \"keep\" for now")
  expect_identical(run_call(fish), fish_auction("keep"))
  hours <- inspect_file(demo_file("sailings.csv"))
  expect_match(hours$notes, "daylight saving ends.*`zone`", all = FALSE)
  known <- inspect_file(demo_file("sailings.csv"), zone = "WET")
  expect_identical(run_call(known), sailings())
  store <- inspect_file(demo_file("cold-store-meters.csv"))
  expect_identical(store$columns$kind, c("", "", "counter"))
  expect_identical(run_call(store)$value, cold_store()$reading)
  skip_if_not_installed("ncdf4")
  sea <- demo_file("sea-temperature-2031.nc")
  expect_identical(run_call(inspect_file(sea))$sea_temperature,
                   read_records(sea, measures = c(sea_temperature = "level"))$sea_temperature)
})

test_that("dates in parts, codes as series, a counter and an undecided order are found", {
  rows <- expand.grid(hr = 0:23, day = 10:20, gate = 1:2)
  parts <- text_file("day,hour,gate,count",
                     sprintf("%02d.03.2031,%d,%d,%d", rows$day, rows$hr, rows$gate, rows$hr * rows$gate))
  found <- inspect_file(parts)
  expect_identical(found$arguments$when, c(date = "day", hour = "hour"))
  expect_identical(found$arguments$series, "gate")
  meter <- text_file("year,month,reading", sprintf("2031,%d,%d", 1:12, cumsum(51:62)))
  found <- inspect_file(meter)
  expect_identical(found$columns$kind, c("", "", "counter"))
  expect_identical(nrow(run_call(found)), 12L)
  open <- inspect_file(text_file("date,kilos", "01/02/2031,5", "02/02/2031,6", "03/02/2031,9"))
  expect_match(open$notes, "Two orders fit.*`date_order` is set to \"dmy\"")
  expect_error(inspect_file(demo_file("islands.csv")), "No column of islands.csv holds dates",
               class = "backfill_error_when")
  expect_error(inspect_file(parts, colour = "red"), class = "backfill_error_argument")
  expect_error(inspect_file(text_file("date,kilos")), "a header but no rows", class = "backfill_error_file")
})

test_that("the printed shell line reads the file as the printed call does", {
  for (name in c("cold-store-meters.csv", "fish-auction.csv")) {
    ran <- backfill_cli("inspect", demo_file(name))
    expect_identical(ran$status, 0L)
    line <- ran$out[-seq_len(match("In a shell:", ran$out))]
    words <- scan(text = gsub("\\\\$", "", line), what = "", quiet = TRUE)
    by_year <- c("--every", "year", "--format", "csv", "--over", "none", "--window", "none", "--quiet")
    periods <- do.call(backfill_cli, as.list(c(words[-1], by_year)))
    expect_identical(periods$status, 0L, label = name)
    expect_identical(length(periods$out), if (name == "fish-auction.csv") 51L else 15L, label = name)
  }
  guesses <- backfill_cli("inspect", demo_file("guest-nights.csv"), "--format", "csv")
  expect_identical(data.table::fread(text = guesses$out)$role, c("date", "series", "measure"))
})

test_that("a long file is guessed by its first lines, and the account is of all of it", {
  day <- as.Date("1990-01-01") + 0:9999
  rows <- sprintf("%s,\"gate %d,\nof the harbour\",%d", format(day), rep(1:12, each = length(day)), 1:12)
  long <- inspect_file(text_file("day,gate,count", rows))
  expect_identical(long$columns$role, c("date", "series", "measure"))
  account <- intake(long$records)
  expect_identical(account$rows_used, length(rows))
  expect_identical(account$series, 12L)
})
