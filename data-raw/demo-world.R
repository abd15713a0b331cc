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
crew <- draw_crew()
at <- function(name) file.path(folder, name)
truths <- list(
  crossings = write_crossings(at("crossings.csv")),
  inns = write_inns(at("inns.csv")),
  holidays = write_holidays(at("holidays.ics")),
  landings = write_landings(at("landings.csv"), crew),
  ledger = write_ledger(at("ledger.csv"), crew),
  water_tanks = write_water_tanks(at("water-tanks.csv")),
  ice_house = write_ice_house(at("ice-house.csv")),
  sea = write_sea(folder),
  islands = write_islands(at("islands.csv")),
  events = write_events(at("events.csv")),
  # Last, so that the draws of those above stay what they are.
  packet = write_packet(at("packet.csv"), at("spring-fair.ics")),
  radio = write_radio(at("radio.csv"))
)
jsonlite::write_json(
  truths, "tests/testthat/demo-truths.json", auto_unbox = TRUE, digits = NA,
  pretty = TRUE
)
