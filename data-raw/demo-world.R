# Makes the sample data of the Tarn Isles from known truths, and writes those truths down for the tests.
# Run it with `make data`. The same seed gives the same files, to the byte.

suppressWarnings(RNGversion("4.0.0"))
set.seed(20310409)

source("data-raw/guest-nights.R")
source("data-raw/sailings.R")

truths <- list(sailings = write_sailings("inst/extdata/sailings.csv"),
               guest_nights = write_guest_nights("inst/extdata/guest-nights.csv"))
jsonlite::write_json(truths, "tests/testthat/demo-truths.json", auto_unbox = TRUE, digits = NA, pretty = TRUE)
