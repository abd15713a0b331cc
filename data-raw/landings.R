# One row per lot at the fish quay, on its market days (Monday to Saturday
# without holidays): date, species, boat, kilos, boxes and the price per kilo
# that it was settled at. Kilos are base x season x crew signed two quarters
# before x storm x error. A price falls where more of its species is landed that
# day, and has a season, a memory and a rise in storms of its own. The file is
# written as the quay's own program does: semicolons, a decimal comma, a point
# between thousands, the day first. Planted: lots entered twice, corrections
# that stand below the lot they correct, late entries at the end, lots that were
# not sold, and a row that cannot be used.

landings_truth <- list(
  first = "2028-01-03", last = "2031-12-30",
  species = list(
    cod = list(price = 4.2, kilos = 1900, boats = c("Petrel", "Whimbrel")),
    haddock = list(price = 3.1, kilos = 1300, boats = c("Petrel", "Dunlin")),
    herring = list(price = 1.1, kilos = 5200, boats = c("Curlew", "Marram")),
    ling = list(price = 2.4, kilos = 480, boats = "Whimbrel"),
    mackerel = list(price = 1.7, kilos = 2600, boats = c("Marram", "Dunlin"))
  ),
  # The first boat of a species lands each day, another on most days.
  second_boat_share = 0.6,
  kilos_month_index = c(
    0.86, 0.98, 1.14, 1.20, 1.10, 0.98, 0.88, 0.84, 0.94, 1.02, 1.06, 1.00
  ),
  kilos_sd = 0.25, per_crew = 1.6, crew_lag_quarters = 2,
  price_month_index = c(
    1.08, 1.04, 0.98, 0.94, 0.95, 0.98, 1.02, 1.03, 1.00, 0.98, 0.98, 1.02
  ),
  price_elasticity = -0.35, price_autocorrelation = 0.9, price_sd = 0.08,
  lot_sd = 0.02, kilos_of_a_box = 40,
  storm = list(
    from = "2030-11-18", to = "2030-11-22", share_left = 0.3, price_factor = 1.2
  ),
  identical = 4, conflicting = 3,
  late = list(rows = 10, month = "2031-03", species = "herring",
              boat = "Curlew"),
  not_sold = list(code = "unsold", rows = 6),
  set_aside = list("no such date in the calendar" = 1, "not a number" = 6)
)

write_landings <- function(file, crew) {
  truth <- landings_truth
  day <- seq(as.Date(truth$first), as.Date(truth$last), by = "day")
  day <- day[as.POSIXlt(day)$wday != 0 & !day %in% holiday_dates()]
  lots <- do.call(rbind, lapply(
    names(truth$species), lots_of_species, day = day, crew = crew
  ))
  lots <- lots[order(lots$date, lots$species, lots$boat), ]
  text <- with_late_and_twice(lots_as_text(lots), lots)
  place <- match("28.02.2031", text$date)
  text <- rbind(
    text[seq_len(place), ],
    c("29.02.2031", "cod", "Petrel", "1.804,5", "46", "4,10"),
    text[-seq_len(place), ]
  )
  utils::write.table(text, file, sep = ";", row.names = FALSE, quote = FALSE)
  c(truth, list(rows = nrow(text), market_days = length(day)))
}

lots_of_species <- function(name, day, crew) {
  truth <- landings_truth
  base <- truth$species[[name]]
  month <- as.POSIXlt(day)$mon + 1
  quarter <- paste0(format(day, "%Y"), "-Q", (month + 2) %/% 3)
  before <- match(quarter, crew$quarter) - truth$crew_lag_quarters
  hands <- (crew$signed[before] / mean(crew$signed))^truth$per_crew
  stormy <- day >= as.Date(truth$storm$from) & day <= as.Date(truth$storm$to)
  typical <- base$kilos / length(base$boats)
  lots <- do.call(rbind, lapply(seq_along(base$boats), function(i) {
    kilos <- typical * truth$kilos_month_index[month] * hands *
      ifelse(stormy, truth$storm$share_left, 1) *
      exp(stats::rnorm(length(day), sd = truth$kilos_sd))
    out <- i == 1 | stats::runif(length(day)) < truth$second_boat_share
    data.frame(date = day, boat = base$boats[[i]], kilos = kilos)[out, ]
  }))
  landed <- as.vector(tapply(lots$kilos, match(lots$date, day), sum))
  usual <- typical * (1 + truth$second_boat_share * (length(base$boats) - 1))
  mood <- as.numeric(stats::arima.sim(
    list(ar = truth$price_autocorrelation), length(day),
    sd = truth$price_sd * sqrt(1 - truth$price_autocorrelation^2)
  ))
  price <- base$price * truth$price_month_index[month] *
    (landed / usual)^truth$price_elasticity *
    ifelse(stormy, truth$storm$price_factor, 1) * exp(mood)
  lots$species <- name
  lots$price <- price[match(lots$date, day)] *
    exp(stats::rnorm(nrow(lots), sd = truth$lot_sd))
  lots
}

comma <- function(x, digits) {
  formatC(x, format = "f", digits = digits, decimal.mark = ",", big.mark = ".")
}

lots_as_text <- function(lots) {
  data.frame(
    date = format(lots$date, "%d.%m.%Y"), species = lots$species,
    boat = lots$boat, kilos = comma(lots$kilos, 1),
    boxes = as.character(ceiling(lots$kilos / landings_truth$kilos_of_a_box)),
    price = comma(lots$price, 2)
  )
}

# Lots that were not sold; late entries, taken out of their days and put at the
# end; and below their lots, corrections and lots that were entered twice.
with_late_and_twice <- function(text, lots) {
  truth <- landings_truth
  at <- function(date, species, boat) {
    which(
      lots$date == as.Date(date) & lots$species == species & lots$boat == boat
    )
  }
  unsold <- c(
    at("2030-08-15", "ling", "Whimbrel"), at("2030-08-16", "ling", "Whimbrel"),
    at("2030-08-17", "ling", "Whimbrel"), at("2031-05-13", "cod", "Petrel"),
    at("2031-07-22", "herring", "Curlew"), at("2031-07-23", "herring", "Curlew")
  )
  stopifnot(length(unsold) == truth$not_sold$rows)
  text$price[unsold] <- truth$not_sold$code
  late <- which(
    format(lots$date, "%Y-%m") == truth$late$month &
      lots$species == truth$late$species & lots$boat == truth$late$boat
  )[seq_len(truth$late$rows)]
  twice <- c(
    at("2030-05-06", "cod", "Petrel"), at("2030-05-06", "haddock", "Petrel"),
    at("2030-05-06", "herring", "Curlew"), at("2031-09-09", "ling", "Whimbrel")
  )
  corrected <- c(
    at("2030-11-26", "cod", "Petrel"), at("2030-11-27", "mackerel", "Marram"),
    at("2031-02-03", "haddock", "Petrel")
  )
  stopifnot(
    length(twice) == truth$identical, length(corrected) == truth$conflicting
  )
  correction <- text[corrected, ]
  correction$kilos <- comma(lots$kilos[corrected] / 10, 1)
  order <- c(setdiff(seq_len(nrow(text)), late), late)
  place <- c(
    seq_along(order), match(twice, order) + 0.3, match(corrected, order) + 0.3
  )
  rbind(text[order, ], text[twice, ], correction)[order(place), ]
}
