# Residents per island, with one island that has no guest nights; and dated
# notes.

islands_truth <- list(
  residents = list(
    Ostrel = 8450, Vannow = 5120, Lissary = 2310, Skellan = 940, Marra = 12
  ), without_records = "Marra"
)

write_islands <- function(file) {
  truth <- islands_truth
  rows <- data.frame(
    island = names(truth$residents), residents = unlist(truth$residents),
    harbour = c("yes", "yes", "yes", "yes", "no")
  )
  utils::write.csv(rows, file, row.names = FALSE, quote = FALSE)
  truth
}

events_truth <- list(
  notes = list(
    "2029-01-09" = "Counting starts at both gates",
    "2029-06-01" = "Boat blessing off Ostrel",
    "2029-11-01" = "Lissary inn closed for repairs until the new year",
    "2030-02-11" = "Counters without power for three days",
    "2030-08-05" = "Warm spell",
    "2030-09-02" = "Meter exchanged in hall 2 of the Mole store",
    "2030-11-18" = "Week of storms",
    "2031-03-17" = "Reading of hall 3 of the Quay store corrected",
    "2031-05-06" = "North gate closed for a day", "2031-12-17" = "Counting ends"
  )
)

write_events <- function(file) {
  notes <- events_truth$notes
  utils::write.csv(
    data.frame(date = names(notes), note = unlist(notes)), file,
    row.names = FALSE, quote = FALSE
  )
  list(rows = length(notes))
}
