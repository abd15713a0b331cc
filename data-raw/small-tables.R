# Residents, berths and beds of each island, with one that has no inn; and dated
# notes.

islands_truth <- list(
  residents = list(
    Ostrel = 8450, Vannow = 5120, Lissary = 2310, Skellan = 940, Marra = 12
  ),
  berths = c(86, 41, 22, 9, 0), beds = c(610, 330, 140, 34, 0),
  without_records = "Marra"
)

write_islands <- function(file) {
  truth <- islands_truth
  rows <- data.frame(
    island = names(truth$residents), residents = unlist(truth$residents),
    berths = truth$berths, beds = truth$beds
  )
  utils::write.csv(rows, file, row.names = FALSE, quote = FALSE)
  truth
}

events_truth <- list(
  notes = list(
    "2029-01-09" = "Counting starts on all three lines",
    "2029-06-01" = "Boat blessing off Ostrel",
    "2029-11-01" = "The Wherry closed for repairs until the new year",
    "2030-02-11" = "Harbour closed for a week",
    "2030-08-18" = "Nobody read the ice house meters",
    "2030-09-02" = "Meter of tank 2 at the Mole exchanged",
    "2030-11-18" = "Week of storms",
    "2031-02-16" = "Night register of the brine meter exchanged",
    "2031-03-17" = "Reading of tank 3 at the Quay corrected",
    "2031-05-06" = "Counter of the market line fails for a day",
    "2031-12-17" = "Counting ends"
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
