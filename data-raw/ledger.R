# What the harbour master entered in the ledger, and when: ice sold by the week,
# berths let and nets mended by the month, rope bought and crew signed by the
# quarter. An entry that was corrected stands there twice, the correction with
# the later day. Crew signed comes two quarters before the kilos landed; nothing
# else in the ledger comes before anything.

ledger_truth <- list(
  first = "2027-07-01", last = "2031-12-31",
  ice = list(base = 14, season = 0.35, autocorrelation = 0.5, sd = 0.06),
  berths = list(
    base = 118, sd = 0.03,
    month_index = c(
      0.62, 0.66, 0.80, 0.98, 1.14, 1.30, 1.42, 1.40, 1.16, 0.96, 0.80, 0.76
    )
  ),
  nets = list(base = 46, autocorrelation = 0.6, sd = 0.12),
  rope = list(base = 2300, autocorrelation = 0.5, sd = 0.10),
  crew = list(base = 96, autocorrelation = 0.3, sd = 0.12),
  entered_after_days = list(
    ice = 3, berths = 9, nets = 6, rope = 20, crew = 24
  ),
  corrected_share = 0.06, corrected_after_days = c(20, 60), corrected_sd = 0.04
)

drawn_about <- function(base, n) {
  error <- stats::arima.sim(
    list(ar = base$autocorrelation), n,
    sd = base$sd * sqrt(1 - base$autocorrelation^2)
  )
  base$base * exp(as.numeric(error))
}

# Crew signed in each quarter, which the landings answer.
draw_crew <- function() {
  quarter <- seq(
    as.Date(ledger_truth$first), as.Date(ledger_truth$last), by = "3 months"
  )
  list(
    start = quarter,
    quarter = paste0(
      format(quarter, "%Y"), "-Q", as.POSIXlt(quarter)$mon %/% 3 + 1
    ),
    signed = round(drawn_about(ledger_truth$crew, length(quarter)))
  )
}

write_ledger <- function(file, crew) {
  truth <- ledger_truth
  week <- seq(as.Date("2027-07-05"), as.Date("2031-12-22"), by = "week")
  month <- seq(as.Date(truth$first), as.Date("2031-12-01"), by = "month")
  turn <- cos(2 * pi * (as.POSIXlt(week)$yday - 200) / 365.25)
  ice <- drawn_about(truth$ice, length(week)) * (1 + truth$ice$season * turn)
  berths <- truth$berths$base *
    truth$berths$month_index[as.POSIXlt(month)$mon + 1] *
    exp(stats::rnorm(length(month), sd = truth$berths$sd))
  nets <- drawn_about(truth$nets, length(month))
  rope <- drawn_about(truth$rope, length(crew$start))
  next_of <- function(start, by) {
    .Date(vapply(as.numeric(start), function(day) {
      as.numeric(seq(.Date(day), by = by, length.out = 2)[[2]])
    }, 0))
  }
  months <- format(month, "%Y-%m")
  rows <- rbind(
    entries("ice sold", iso_week(week), ice, week + 7, "ice", 1),
    entries("berths let", months, berths, next_of(month, "month"), "berths"),
    entries("nets mended", months, nets, next_of(month, "month"), "nets"),
    entries(
      "rope bought", crew$quarter, rope, next_of(crew$start, "3 months"), "rope"
    ),
    entries(
      "crew signed", crew$quarter, crew$signed,
      next_of(crew$start, "3 months"), "crew"
    )
  )
  rows <- rows[order(rows$entered, rows$item), ]
  utils::write.csv(rows, file, row.names = FALSE, quote = FALSE)
  c(truth, list(
    rows = nrow(rows), weeks = length(week), months = length(month),
    quarters = length(crew$start),
    corrected = sum(duplicated(rows[c("item", "period")]))
  ))
}

# Rows of one item, entered some days behind the `end` of their periods, and
# the corrections.
entries <- function(item, period, value, end, name, digits = 0) {
  truth <- ledger_truth
  shown <- function(x) formatC(x, format = "f", digits = digits)
  entered <- end - 1 + truth$entered_after_days[[name]]
  n <- length(period)
  wrong <- sort(sample(n, round(truth$corrected_share * n)))
  first <- value
  first[wrong] <- value[wrong] *
    exp(stats::rnorm(length(wrong), sd = truth$corrected_sd))
  wrong <- wrong[shown(first[wrong]) != shown(value[wrong])]
  after <- sample(
    seq(truth$corrected_after_days[[1]], truth$corrected_after_days[[2]]),
    length(wrong), replace = TRUE
  )
  rbind(
    data.frame(item = item, period = period, value = shown(first),
               entered = format(entered)),
    data.frame(item = rep(item, length(wrong)), period = period[wrong],
               value = shown(value[wrong]),
               entered = format(entered[wrong] + after))
  )
}

iso_week <- function(day) {
  thursday <- as.POSIXlt(day + 3)
  sprintf("%04d-W%02d", thursday$year + 1900, thursday$yday %/% 7 + 1)
}
