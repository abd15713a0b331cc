# Dates that are counts: serial days of spreadsheets, seconds or milliseconds
# since 1970, decimal years.

# The seconds of a unit and where it is counted from, whether it tells an
# instant, and the counts that are taken for it unasked: those of about 1955 to
# 2118.
date_units <- list(
  "day" = list(
    unit = 86400, origin = -25569 * 86400, instant = FALSE, from = 2e4,
    to = 8e4, words = "serial days of a spreadsheet (1 is 1900-01-01)"
  ),
  "day 1904" = list(
    unit = 86400, origin = -24107 * 86400, instant = FALSE, from = Inf,
    to = Inf, words = "serial days of a spreadsheet (0 is 1904-01-01)"
  ),
  "second" = list(
    unit = 1, origin = 0, instant = TRUE, from = 3e8, to = 4.7e9,
    words = "seconds since 1970-01-01 UTC"
  ),
  "millisecond" = list(
    unit = 1e-3, origin = 0, instant = TRUE, from = 3e11, to = 4.7e12,
    words = "milliseconds since 1970-01-01 UTC"
  ),
  "year" = list(from = Inf, to = Inf)
)

# As read_written(); NULL where the figures are no counts in a known unit, or
# not in half of the rows. `serial` is the sort of serial days that the file
# counts.
read_counted <- function(x, unit, blank = is.na(x), serial = NULL) {
  declared <- !is.null(unit)
  unit <- unit %||% likely_unit(x)
  if (is.null(unit)) {
    return(NULL)
  }
  if (unit == "year") {
    return(read_decimal_years(x, blank))
  }
  rule <- rule_of_unit(unit, if (!declared) serial)
  likely <- if (declared) c(-Inf, Inf) else c(rule$from, rule$to)
  read <- counted_dates_cpp(x, rule$unit, rule$origin, likely[[1]], likely[[2]])
  if (!declared && length(read$bad) * 2 >= length(x)) {
    return(NULL)
  }
  timed <- rule$instant || read$timed
  c(read[c("second", "bad", "code")], list(
    coarse = integer(), fine = length(x) - length(read$bad), timed = timed,
    with_offset = if (rule$instant) seq_along(x) else integer(),
    note = unit_note(rule, declared)
  ))
}

unit_note <- function(rule, declared) {
  glue("Dates are read as {rule$words}{if (declared) ', as declared' else ''}.")
}

# The serial days of a file are those that it counts.
rule_of_unit <- function(unit, serial) {
  rule <- date_units[[unit]]
  if (unit == "day" && !is.null(serial)) {
    rule[c("origin", "words")] <- date_units[[serial]][c("origin", "words")]
  }
  rule
}

# By a figure in the middle of some of them.
likely_unit <- function(x) {
  known <- x[is.finite(x)]
  middle <- if (length(known) > 0) {
    stats::median(
      known[unique(round(seq(1, length(known), length.out = 1000)))]
    )
  } else {
    NA
  }
  inside <- vapply(
    date_units,
    function(unit) !is.na(middle) && middle >= unit$from && middle < unit$to, NA
  )
  if (any(inside)) {
    names(date_units)[inside][[1]]
  } else if (are_decimal_years(x)) {
    "year"
  }
}
