# The fish auction on its market days (Monday to Saturday without holidays):
# opening, highest, lowest and closing price per kilo and the kilos sold, by
# species. Prices are a random walk of their logarithm with a shock that all
# species share; kilos are base x season x weekday x error. The file is written
# as the auction's own program does: semicolons, a decimal comma, a point
# between thousands, the day first. Planted: rows pasted twice, corrections of a
# day that stand below it, late entries at the end, prices that were not fixed,
# and a row that cannot be used.

fish_auction_truth <- list(
  first = "2030-01-02", last = "2031-12-30",
  species = list(
    cod = list(price = 4.2, kilos = 1900),
    haddock = list(price = 3.1, kilos = 1300),
    herring = list(price = 1.1, kilos = 5200),
    ling = list(price = 2.4, kilos = 480),
    mackerel = list(price = 1.7, kilos = 2600)
  ),
  shock_sd = 0.018, shared_variance = 0.5,
  kilos_month_index = c(
    0.92, 0.98, 1.12, 1.16, 1.08, 0.98, 0.90, 0.86, 0.94, 1.02, 1.04, 1.00
  ), kilos_sd = 0.25,
  identical = 4, conflicting = 3, late = list(rows = 10, month = "2031-03"),
  not_fixed = list(code = "n/a", rows = 6),
  set_aside = list("no such date in the calendar" = 1)
)

write_fish_auction <- function(file) {
  truth <- fish_auction_truth
  day <- seq(as.Date(truth$first), as.Date(truth$last), by = "day")
  day <- day[as.POSIXlt(day)$wday != 0 & !day %in% holiday_dates()]
  n <- length(day)
  shared <- stats::rnorm(n, sd = truth$shock_sd * sqrt(truth$shared_variance))
  rows <- do.call(rbind, lapply(names(truth$species), function(name) {
    base <- truth$species[[name]]
    change <- shared + stats::rnorm(
      n, sd = truth$shock_sd * sqrt(1 - truth$shared_variance)
    )
    close <- base$price * exp(cumsum(change))
    open <- close * exp(stats::rnorm(n, sd = 0.008))
    data.frame(
      date = day, species = name, open = open, high = pmax(open, close) * exp(
        abs(stats::rnorm(n, sd = 0.006))
      ),
      low = pmin(open, close) * exp(-abs(stats::rnorm(n, sd = 0.006))),
      close = close,
      kilos = base$kilos * truth$kilos_month_index[as.POSIXlt(day)$mon + 1] *
        exp(stats::rnorm(n, sd = truth$kilos_sd))
    )
  }))
  rows <- rows[order(rows$date, rows$species), ]
  comma <- function(x, digits) {
    formatC(
      x, format = "f", digits = digits, decimal.mark = ",", big.mark = "."
    )
  }
  text <- data.frame(
    date = format(rows$date, "%d.%m.%Y"), species = rows$species,
    open = comma(rows$open, 2), high = comma(rows$high, 2), low = comma(
      rows$low, 2
    ),
    close = comma(rows$close, 2), kilos = comma(rows$kilos, 1)
  )
  at <- function(date, species) {
    which(
      rows$date == as.Date(date) & rows$species == species
    )
  }
  text[at("2030-08-14", "ling"),
       c("open", "high", "low", "close")] <- truth$not_fixed$code
  text[at("2030-08-15", "ling"), "close"] <- truth$not_fixed$code
  text[at("2030-08-16", "ling"), "close"] <- truth$not_fixed$code
  text[at("2031-05-13", "cod"), c("high", "low")] <- truth$not_fixed$code
  # Late entries: taken out of their days and put at the end.
  late <- which(
    format(rows$date, "%Y-%m") == truth$late$month & rows$species == "herring"
  )[seq_len(truth$late$rows)]
  # A correction stands below the day it corrects; a row pasted twice as well.
  twice <- c(
    at("2030-05-06", "cod"), at("2030-05-06", "haddock"),
    at("2030-05-06", "herring"), at("2031-09-09", "ling")
  )
  corrected <- c(
    at("2030-11-19", "cod"), at("2030-11-20", "mackerel"),
    at("2031-02-03", "haddock")
  )
  correction <- text[corrected, ]
  correction$kilos <- comma(rows$kilos[corrected] / 10, 1)
  order <- c(setdiff(seq_len(nrow(text)), late), late)
  text <- rbind(text[order, ], text[twice, ], correction)
  place <- c(
    match(seq_along(order), order)[order], match(twice, order) + 0.3,
    match(corrected, order) + 0.3
  )
  place[seq_along(order)] <- seq_along(order)
  text <- text[order(place), ]
  place <- match("28.02.2031", text$date)
  text <- rbind(
    text[seq_len(place), ],
    c("29.02.2031", "cod", "4,10", "4,20", "4,00", "4,12", "1.804,5"),
    text[-seq_len(place), ]
  )
  utils::write.table(text, file, sep = ";", row.names = FALSE, quote = FALSE)
  c(truth, list(rows = nrow(text), market_days = n))
}
