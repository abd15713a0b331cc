# Guest nights per month and inn, with the bed-nights that were open: base x
# trend x season x error. Two inns have opposite seasons, that of one moves by
# half a month a year, one has none. Planted: an inn that opens late, two months
# in which one was closed, a blank, and rows that cannot be used.

inns_truth <- list(
  first = "2028-02", last = "2031-11",
  inns = list(Lantern = 5200, Hearth = 2900, Wherry = 1400, Anchor = 620),
  island = list(
    Lantern = "Ostrel", Hearth = "Vannow", Wherry = "Lissary",
    Anchor = "Skellan"
  ),
  beds = list(Lantern = 420, Hearth = 210, Wherry = 96, Anchor = 34),
  growth_percent_per_year = list(
    Lantern = 2, Hearth = 6, Wherry = -3, Anchor = 9
  ),
  month_index = list(
    Lantern = c(
      0.31, 0.38, 0.55, 0.87, 1.12, 1.44, 1.92, 2.03, 1.31, 0.86, 0.52, 0.69
    ),
    # The long nights fill its rooms.
    Hearth = c(
      1.62, 1.54, 1.22, 0.86, 0.68, 0.56, 0.48, 0.52, 0.74, 1.02, 1.30, 1.46
    )
  ),
  moving = list(
    inn = "Wherry", amplitude = 0.45, first_peak_month = 6.5,
    months_per_year = 0.5
  ),
  without_season = "Anchor",
  error_sd = 0.03,
  late_start = list(inn = "Anchor", first = "2028-06"),
  closed = list(inn = "Wherry", months = c("2029-11", "2029-12")),
  blank = list(inn = "Lantern", month = "2028-11"),
  set_aside = list(
    "no such date in the calendar" = 1, "not a date" = 1, "not a number" = 1
  )
)

season_of_inn <- function(inn, month, years) {
  truth <- inns_truth
  if (inn == truth$moving$inn) {
    peak <- truth$moving$first_peak_month + truth$moving$months_per_year * years
    return(1 + truth$moving$amplitude * cos(2 * pi * (month - peak) / 12))
  }
  if (inn == truth$without_season) {
    return(rep(1, length(month)))
  }
  truth$month_index[[inn]][month]
}

write_inns <- function(file) {
  truth <- inns_truth
  first <- seq(
    as.Date(paste0(truth$first, "-01")), as.Date(paste0(truth$last, "-01")),
    by = "month"
  )
  rows <- expand.grid(
    inn = names(truth$inns), at = seq_along(first), stringsAsFactors = FALSE
  )
  years <- (rows$at - 1) / 12
  month <- as.POSIXlt(first)$mon[rows$at] + 1
  season <- mapply(season_of_inn, rows$inn, month, years)
  nights <- unlist(truth$inns)[rows$inn] *
    (1 + unlist(truth$growth_percent_per_year)[rows$inn] / 100)^years *
    season * exp(stats::rnorm(nrow(rows), sd = truth$error_sd))
  days <- as.numeric(
    seq(first[[1]], by = "month", length.out = length(first) + 1)[-1] - first
  )
  rows <- data.frame(
    month = format(first, "%Y-%m")[rows$at], inn = rows$inn,
    island = unlist(truth$island)[rows$inn],
    guest_nights = as.character(round(nights)),
    bed_nights = as.character(unlist(truth$beds)[rows$inn] * days[rows$at])
  )
  is_row <- function(inn, month) rows$inn == inn & rows$month %in% month
  rows$guest_nights[is_row(truth$blank$inn, truth$blank$month)] <- ""
  rows$guest_nights[is_row("Hearth", "2030-05")] <- "many"
  early <- rows$inn == truth$late_start$inn &
    rows$month < truth$late_start$first
  rows <- rows[!is_row(truth$closed$inn, truth$closed$months) & !early, ]
  rows <- below(
    rows, "2029-12", c("2029-13", "Lantern", "Ostrel", "3127", "13020")
  )
  rows <- below(
    rows, "2031-03", c("spring 2031", "Anchor", "Skellan", "2044", "1020")
  )
  utils::write.csv(rows, file, row.names = FALSE, quote = FALSE, na = "")
  c(truth, list(rows = nrow(rows)))
}

# A row put below those of a month.
below <- function(rows, month, row) {
  place <- max(which(rows$month == month))
  rbind(rows[seq_len(place), ], row, rows[-seq_len(place), ])
}
