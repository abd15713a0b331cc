# Calendar periods: their numbers (0 holds 1970-01-01, and each next period is one more), first days and labels.

# In the order of `enum class Unit` in src/kernels/period.h.
period_units <- c("day", "week", "month", "quarter", "year")

unit_code <- function(unit) {
  match(unit, period_units) - 1L
}

# The unit of an `every` argument.
check_every <- function(every, call = caller_env()) {
  length <- parse_length(every)
  if (is.null(length) || length$count != 1 || !length$unit %in% period_units) {
    abort_backfill(
      "every",
      sprintf("`every` is %s, which is not a length of period.", value_in_words(every)),
      i = sprintf("It must be %s, or the same in ISO 8601: P1D, P1W, P1M, P3M or P1Y.",
                  in_words(encodeString(period_units, quote = "\""), last = " or ")),
      call = call
    )
  }
  length$unit
}

period_number <- function(date, unit) {
  period_number_cpp(as.numeric(date), unit_code(unit))
}

period_start <- function(number, unit) {
  .Date(period_start_cpp(as.numeric(number), unit_code(unit)))
}

# Labels as in ISO 8601 where it has a form: 2031-04-09, 2031-W15, 2031-04, 2031-Q2, 2031.
period_label <- function(start, unit) {
  parts <- as.POSIXlt(start)
  year <- sprintf("%04d", parts$year + 1900L)
  label <- switch(unit,
    day = sprintf("%s-%02d-%02d", year, parts$mon + 1L, parts$mday),
    week = {
      # An ISO week belongs to the year of its Thursday.
      thursday <- as.POSIXlt(start + 3)
      sprintf("%04d-W%02d", thursday$year + 1900L, thursday$yday %/% 7L + 1L)
    },
    month = sprintf("%s-%02d", year, parts$mon + 1L),
    quarter = sprintf("%s-Q%d", year, parts$mon %/% 3L + 1L),
    year = year
  )
  label[is.na(start)] <- NA_character_
  label
}

# "2031-04-09", "2031-04-09 07:30 WET"
moments_in_words <- function(when) {
  if (inherits(when, "Date")) {
    return(period_label(when, "day"))
  }
  paste(period_label(as.Date(when, tz = attr(when, "tzone")), "day"), format(when, "%H:%M %Z"))
}

# Numbers as days or instants, as the times of `like` are.
like_moments <- function(number, like) {
  if (inherits(like, "Date")) .Date(number) else .POSIXct(number, tz = attr(like, "tzone"))
}
