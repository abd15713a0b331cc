# Makes the sample data of the Tarn Isles from known truths, and writes those
# truths down for the tests. Run it with `make data`. The same seed gives the
# same files, to the byte.

suppressWarnings(RNGversion("4.0.0"))
set.seed(20310409)

for (
  script in setdiff(
    list.files("data-raw", full.names = TRUE), "data-raw/demo-world.R"
  )
) {
  source(script)
}

folder <- "inst/extdata"
dir.create(folder, showWarnings = FALSE)
truths <- list(
  sailings = write_sailings(file.path(folder, "sailings.csv")),
  guest_nights = write_guest_nights(file.path(folder, "guest-nights.csv")),
  holidays = write_holidays(file.path(folder, "holidays.ics")),
  fish_auction = write_fish_auction(file.path(folder, "fish-auction.csv")),
  cold_store = write_cold_store(file.path(folder, "cold-store-meters.csv")),
  harbour_economy = write_harbour_economy(file.path(
    folder, "harbour-economy.csv"
  )),
  sea_temperature = write_sea_temperature(folder),
  islands = write_islands(file.path(folder, "islands.csv")),
  events = write_events(file.path(folder, "events.csv"))
)
jsonlite::write_json(
  truths, "tests/testthat/demo-truths.json", auto_unbox = TRUE, digits = NA,
  pretty = TRUE
)
