# Growth along the periods of each series, as it was known: taken before series
# are carried to common days.

# list(count, unit) of a length of days or longer.
check_growth <- function(growth) {
  length <- parse_length(growth)
  units <- c("day", "week", names(unit_months))
  if (is.null(length) || !length$unit %in% units) {
    abort_backfill(
      "argument", "`growth` is {value_in_words(growth)}.",
      i = "It must be a length of days, weeks, months, quarters or years, such",
      "as \"1 year\"."
    )
  }
  length
}

# Over less than a period there is none.
check_growth_reaches <- function(figures, length, lines) {
  within <- days_before(figures$end, length) >= figures$start
  short <- setdiff(figures$line[within], figures$line[!within])
  if (length(short) > 0) {
    abort_backfill(
      "argument",
      "`growth` is {value_in_words(counted_length(length))}, which is shorter",
      "than the periods of {in_words(lines[short], 4)}.",
      ">" = "Give a length of one period of each series or more."
    )
  }
}

# The figures of dated_figures() in percent over those of the period that holds
# the day so long before each period's end. A figure is known as soon as both
# are, and changes with every version of either. Where there is no such period,
# or its value is not above zero, it is NA, which takes a former version back.
growth_as_known <- function(figures, length) {
  order <- order(
    figures$line, figures$start, figures$known, method = "radix"
  )
  versions <- vctrs::vec_slice(figures, order)
  of <- vctrs::vec_identify_runs(versions[c("line", "start")])
  first <- which(!duplicated(of))
  periods <- vctrs::vec_slice(versions, first)
  base <- base_of_periods(periods, length)
  events <- growth_events(versions$known, as.vector(of), base)
  now <- version_known(versions$known, of, events$period, events$known)
  before <- version_known(
    versions$known, of, base[events$period], events$known
  )
  from <- versions$value[before]
  out <- vctrs::vec_slice(periods, events$period)
  out$known <- events$known
  out$value <- ifelse(
    from > 0, 100 * (versions$value[now] / from - 1), NA_real_
  )
  out
}

# The place of the period of the same line that holds the day `length` before
# the end of each, or NA. Periods come in order of line and start.
base_of_periods <- function(periods, length) {
  day <- days_before(periods$end, length)
  wide <- 1e6 # days, more than there are between any two
  at <- findInterval(
    periods$line * wide + day, periods$line * wide + periods$start
  )
  at[at == 0] <- NA
  held <- periods$line[at] == periods$line & day <= periods$end[at] &
    at < seq_along(at)
  ifelse(held, at, NA_integer_)
}

days_before <- function(day, length) {
  if (!length$unit %in% names(unit_months)) {
    return(day - length$count * c(day = 1, week = 7)[[length$unit]])
  }
  parts <- as.POSIXlt(.Date(day))
  month <- 12 * parts$year + parts$mon -
    length$count * unit_months[[length$unit]]
  first_of <- function(month) {
    month_starts(1900 + month %/% 12, month %% 12 + 1)
  }
  # The 31st is the last day of a shorter month.
  pmin(first_of(month) + parts$mday - 1, first_of(month + 1) - 1)
}

# The days on which the growth of each period became known or changed: those of
# its own versions, and those of its base's after its own first one.
growth_events <- function(known, of, base) {
  own <- vctrs::data_frame(period = of, known = known)
  # Which periods have each period for their base: one at most, as a rule.
  dependent <- which(!is.na(base))
  pairs <- split(dependent, base[dependent])
  depends <- pairs[as.character(of)]
  count <- lengths(depends)
  of_base <- vctrs::data_frame(
    period = as.integer(unlist(depends)), known = rep(known, count)
  )
  first <- known[match(seq_along(base), of)]
  of_base <- of_base[of_base$known > first[of_base$period], ]
  vctrs::vec_unique(vctrs::vec_rbind(own, of_base))
}

# The row of the version of each `period` that was known on a day, or NA.
version_known <- function(known, of, period, day) {
  wide <- 1e6
  at <- findInterval(period * wide + day, of * wide + known)
  at[at == 0] <- NA
  ifelse(of[at] == period, at, NA_integer_)
}
