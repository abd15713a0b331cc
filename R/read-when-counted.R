# Dates that are counts: serial days of spreadsheets, seconds or milliseconds since 1970.

# How each becomes seconds since 1970, whether it tells an instant, and the counts that are taken for it unasked: those
# of about 1955 to 2118.
date_units <- list(
  "day" = list(seconds = function(x) (x - 25569) * 86400, instant = FALSE, from = 2e4, to = 8e4,
               words = "serial days of a spreadsheet (1 is 1900-01-01)"),
  "day 1904" = list(seconds = function(x) (x - 24107) * 86400, instant = FALSE, from = Inf, to = Inf,
                    words = "serial days of a spreadsheet (0 is 1904-01-01)"),
  "second" = list(seconds = function(x) x, instant = TRUE, from = 3e8, to = 4.7e9, words = "seconds since 1970-01-01 UTC"),
  "millisecond" = list(seconds = function(x) x / 1000, instant = TRUE, from = 3e11, to = 4.7e12,
                       words = "milliseconds since 1970-01-01 UTC")
)

# As read_written(); NULL where the figures are no counts in a known unit, or not in half of the rows.
read_counted <- function(x, unit) {
  known <- is.finite(x)
  declared <- !is.null(unit)
  if (!declared) {
    inside <- vapply(date_units, function(u) sum(known & x >= u$from & x < u$to), 0L)
    unit <- names(which.max(inside))
    if (max(inside) * 2 <= length(x)) {
      return(NULL)
    }
    known <- known & x >= date_units[[unit]]$from & x < date_units[[unit]]$to
  }
  rule <- date_units[[unit]]
  # Counts of days have their times in a fraction that is exact to a millisecond.
  second <- round(rule$seconds(x), 3)
  known <- known & second >= -62135596800 & second < 253402300800 # years 1 to 9999
  outcome <- ifelse(is.na(x), 1L, ifelse(known, 0L, 2L))
  timed <- rule$instant || any(second[known] %% 86400 != 0)
  list(
    second = ifelse(known, second, NA), outcome = outcome,
    precision = rep(precisions[[if (timed) "time" else "day"]], length(x)),
    has_offset = rep(rule$instant, length(x)), at = seq_along(x),
    note = sprintf("Dates are read as %s%s.", rule$words, if (declared) ", as declared" else "")
  )
}
