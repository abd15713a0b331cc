# Guest nights per month on four islands: base x trend x month x error. Planted:
# an island that starts late, two months that were never handed in, a blank, and
# rows that cannot be used.

guest_nights_truth <- list(
  first = "2028-02", last = "2031-11",
  islands = list(Ostrel = 5200, Vannow = 2900, Lissary = 1400, Skellan = 620),
  growth_percent_per_year = list(
    Ostrel = 2, Vannow = 6, Lissary = -3, Skellan = 9
  ),
  month_index = c(
    0.31, 0.38, 0.55, 0.87, 1.12, 1.44, 1.92, 2.03, 1.31, 0.86, 0.52, 0.69
  ),
  error_sd = 0.03,
  late_start = list(island = "Skellan", first = "2028-06"),
  gap = list(island = "Lissary", months = c("2029-11", "2029-12")),
  blank = list(island = "Ostrel", month = "2028-11"),
  set_aside = list(
    "no such date in the calendar" = 1, "not a date" = 1, "not a number" = 1
  )
)

write_guest_nights <- function(file) {
  truth <- guest_nights_truth
  month <- seq(
    as.Date(paste0(truth$first, "-01")), as.Date(paste0(truth$last, "-01")),
    by = "month"
  )
  rows <- expand.grid(
    island = names(truth$islands), month = format(month, "%Y-%m"),
    stringsAsFactors = FALSE
  )
  years <- (match(rows$month, format(month, "%Y-%m")) - 1) / 12
  nights <- unlist(truth$islands)[rows$island] * (
    1 + unlist(truth$growth_percent_per_year)[rows$island] / 100
  )^years *
    truth$month_index[as.integer(substr(rows$month, 6, 7))] * exp(
    stats::rnorm(nrow(rows), sd = truth$error_sd)
  )
  rows <- data.frame(
    month = rows$month, island = rows$island,
    guest_nights = as.character(round(nights))
  )

  is_row <- function(island, month) {
    rows$island == island & rows$month %in% month
  }
  rows$guest_nights[is_row(truth$blank$island, truth$blank$month)] <- ""
  rows$guest_nights[is_row("Vannow", "2030-05")] <- "many"
  rows <- rows[!is_row(truth$gap$island, truth$gap$months) &
    !(
      rows$island == truth$late_start$island &
        rows$month < truth$late_start$first
    ), ]
  place <- max(which(rows$month == "2029-12"))
  rows <- rbind(
    rows[seq_len(place), ], c("2029-13", "Ostrel", "3127"),
    rows[-seq_len(place), ]
  )
  place <- max(which(rows$month == "2031-03"))
  rows <- rbind(
    rows[seq_len(place), ], c("spring 2031", "Skellan", "2044"),
    rows[-seq_len(place), ]
  )
  utils::write.csv(rows, file, row.names = FALSE, quote = FALSE, na = "")
  c(truth, list(rows = nrow(rows)))
}
