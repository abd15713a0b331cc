# The length of periods that suits records: the month where there are 24 of
# them, else the longest below it that there are 24 of, but none shorter than
# what records come by. Of more than 50 years it is the year.

suited_period <- function(records) {
  seconds <- unit_seconds[c("year", "quarter", "month", "week", "day", "hour")]
  when <- records[[facts(records)$when]]
  span <- as.numeric(diff(range(when, na.rm = TRUE)), units = "secs")
  step <- step_of_records(records)
  if (inherits(when, "Date")) seconds <- seconds[names(seconds) != "hour"]
  open <- names(seconds)[seconds > 0.9 * step]
  enough <- open[span / seconds[open] >= 24]
  if (span > 50 * seconds[["year"]]) {
    return(enough[[1]])
  }
  usual <- setdiff(enough, c("year", if ("month" %in% open) "quarter"))
  c(usual, open[[length(open)]])[[1]]
}

# The longest cadence of the records, in seconds.
step_of_records <- function(records) {
  yearly <- roll_up(records, every = "year")
  max(0, cadence_seconds(facts(yearly)$cadences$cadences), na.rm = TRUE)
}

# The month, but for records that come by longer periods, which cannot be rolled
# up to it. What the first rows show to come more often is not looked at
# further.
month_or_longer <- function(records) {
  longer <- unit_seconds[c("year", "quarter")]
  often <- function(when) {
    between <- as.numeric(diff(sort(vctrs::vec_unique(when))), units = "secs")
    length(between) > 0 && mean(between) < 0.9 * longer[[2]]
  }
  when <- records[[facts(records)$when]]
  first <- when[seq_len(min(length(when), 1e4))]
  if (length(when) < 2 || often(first) || often(when)) {
    return("month")
  }
  fits <- names(longer)[step_of_records(records) > 0.9 * longer]
  c(fits, "month")[[1]]
}
