# The length of periods that suits records: the month where there are 24 of
# them, else the longest below it that there are 24 of, but none shorter than
# what records come by. Of more than 50 years it is the year.

suited_period <- function(records) {
  seconds <- unit_seconds[c("year", "quarter", "month", "week", "day", "hour")]
  when <- records[[facts(records)$when]]
  span <- as.numeric(diff(range(when, na.rm = TRUE)), units = "secs")
  yearly <- roll_up(records, every = "year")
  step <- max(0, cadence_seconds(facts(yearly)$cadences$cadences), na.rm = TRUE)
  if (inherits(when, "Date")) seconds <- seconds[names(seconds) != "hour"]
  open <- names(seconds)[seconds > 0.9 * step]
  enough <- open[span / seconds[open] >= 24]
  if (span > 50 * seconds[["year"]]) {
    return(enough[[1]])
  }
  usual <- setdiff(enough, c("year", if ("month" %in% open) "quarter"))
  c(usual, open[[length(open)]])[[1]]
}
