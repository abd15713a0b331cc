# What periods are called: each of them by its label, and all of them by a noun.

# By ISO 8601 where it has a form: 2031-04-09, 2031-W15, 2031-04, 2031,
# 2031-04-09T07:30, or start and length as in 2031-04-09/P10D. `start` is the
# first day or instant of each period.
period_label <- function(start, calendar) {
  if (by_clock(calendar)) {
    return(instant_label(start))
  }
  label <- start_label(start, calendar)
  label[is.na(start)] <- NA_character_
  label
}

start_label <- function(start, calendar) {
  parts <- as.POSIXlt(named_by(start, calendar))
  year <- parts$year + 1900L
  month <- function() sprintf("%04d-%02d", year, parts$mon + 1L)
  number <- calendar$number
  # A fiscal year has the number of the year in which it ends.
  in_year <- (parts$mon + 1L - calendar$year_start) %% 12L
  fiscal <- sprintf(
    "FY%04d",
    year + (calendar$year_start > 1 & parts$mon + 1L >= calendar$year_start)
  )
  one_year <- if (calendar$year_start == 1) sprintf("%04d", year) else fiscal
  switch(
    calendar$unit, "working day" = ,
    day = if (number == 1) {
      day_label(start)
    } else {
      sprintf("%s/P%dD", day_label(start), number)
    },
    week = if (
      number == 1 && (calendar$week_start == 1 || !is.null(calendar$weeks))
    ) {
      week_label(start, calendar)
    } else {
      sprintf("%s/P%dW", day_label(start), number)
    },
    third = if (number == 1) sprintf(
      "%s-T%d", month(), parts$mday %/% 10L + 1L
    ) else
      sprintf("%s/P%dD", day_label(start), number * 10L),
    month = if (number > 1) {
      sprintf("%s/P%dM", month(), number)
    } else if (is.null(calendar$weeks)) {
      month()
    } else {
      sprintf("%s-M%02d", one_year, in_year + 1L)
    },
    quarter = if (number > 1) {
      sprintf("%s/P%dM", month(), number * 3L)
    } else {
      sprintf("%s-Q%d", one_year, in_year %/% 3L + 1L)
    },
    year = if (number > 1) sprintf("%s/P%dY", month(), number) else one_year
  )
}

# Labels in a text as people write them: "9 April 2031", "April 2031", "week 15
# of 2031", "quarter 2 of 2031". Those of several days, months or years, and
# instants, keep their form.
labels_in_words <- function(text) {
  plain <- function(form) sprintf("(?<![0-9/-])%s(?![0-9/T-])", form)
  month <- "([0-9]{4})-(0[1-9]|1[0-2])"
  named <- function(found) {
    parts <- strsplit(found, "-", fixed = TRUE)[[1]]
    paste(c(
      if (length(parts) > 2) as.integer(parts[[3]]),
      month.name[[as.integer(parts[[2]])]], parts[[1]]
    ), collapse = " ")
  }
  for (form in c(plain(paste0(month, "-[0-3][0-9]")), plain(month))) {
    found <- gregexpr(form, text, perl = TRUE)
    regmatches(text, found) <- lapply(regmatches(text, found), function(all) {
      vapply(all, named, "", USE.NAMES = FALSE)
    })
  }
  for (part in c("week", "quarter", "month")) {
    form <- plain(sprintf(
      "((?:FY)?[0-9]{4})-%s0?([0-9]+)", toupper(substr(part, 1, 1))
    ))
    text <- gsub(form, paste(part, "\\2 of \\1"), text, perl = TRUE)
  }
  text
}

week_label <- function(start, calendar) {
  of <- week_of_year(start, calendar)
  sprintf(
    "%s%04d-W%02d", if (calendar$year_start > 1) "FY" else "", of$year, of$week
  )
}

# list(year, week): a week belongs to the year of its fourth day, or to that of
# whole weeks which it lies in.
week_of_year <- function(start, calendar) {
  if (is.null(calendar$weeks)) {
    fourth <- as.POSIXlt(start + 3)
    return(list(
      year = fourth$year + 1900L, week = fourth$yday %/% 7L + 1L
    ))
  }
  years <- lay_calendar(new_calendar(
    list(unit = "year", count = 1), week_start = calendar$week_start,
    year_start = calendar$year_start, weeks = calendar$weeks
  ))
  first <- period_start(period_number(start, years), years)
  list(
    year = as.integer(gsub("FY", "", period_label(first, years))),
    week = as.integer(start - first) %/% 7L + 1L
  )
}

day_label <- function(date) {
  parts <- as.POSIXlt(date)
  label <- sprintf(
    "%04d-%02d-%02d", parts$year + 1900L, parts$mon + 1L, parts$mday
  )
  label[is.na(date)] <- NA_character_
  label
}

# With the offset from UTC, which tells the hours apart that daylight saving
# repeats; none where the zone is UTC.
instant_label <- function(instant) {
  zone <- attr(instant, "tzone")
  parts <- as.POSIXlt(instant)
  offset <- if (zone %in% utc_zones) {
    ""
  } else {
    sub("(..)$", ":\\1", format(instant, "%z"))
  }
  seconds <- if (any(parts$sec != 0, na.rm = TRUE)) {
    sprintf(":%02d", as.integer(parts$sec))
  } else {
    ""
  }
  label <- sprintf(
    "%sT%02d:%02d%s%s", day_label(as.Date(instant, tz = zone)), parts$hour,
    parts$min, seconds, offset
  )
  label[is.na(instant)] <- NA_character_
  label
}

# "month", "fiscal quarter", "working day", "period of 10 days"; of `count` of
# them.
period_noun <- function(calendar, count = 1) {
  several <- calendar$number > 1
  noun <- if (several) "period" else calendar$unit
  weeks <- base_of(calendar) == "week month"
  in_year <- calendar$unit %in% c("quarter", "year")
  if (weeks) {
    noun <- paste("whole-week", noun)
  } else if (in_year && calendar$year_start > 1 && !several) {
    noun <- paste("fiscal", noun)
  }
  plural <- if (count == 1) noun else paste0(noun, "s")
  if (several) paste(
    plural, "of",
    length_in_words(list(count = calendar$number, unit = calendar$unit))
  ) else
    if (calendar$unit == "third") paste(plural, "of a month") else plural
}

# "a month", "an hour"
with_article <- function(noun) {
  paste(
    if (startsWith(noun, "hour")) "an" else "a", noun
  )
}

# Where some periods are `closed`, those that are not are "open".
count_of_periods <- function(count, calendar, closed = FALSE) {
  open <- if (closed && count != 1) "open "
  count_of(
    count, paste0(open, period_noun(calendar)),
    paste0(open, period_noun(calendar, 2))
  )
}

#' @export
format.backfill_calendar <- function(x, ...) {
  days <- if (x$workdays) {
    sprintf("working days %s%s", weekdays_in_words(x$weekdays),
            if (length(x$holidays) > 0) {
              sprintf(" without %s", count_of(length(x$holidays), "holiday"))
            } else {
              ""
            })
  }
  details <- c(
    if (!is.null(x$weeks)) {
      weeks_in_words(x)
    } else if (x$unit == "week" && x$week_start != 1) {
      sprintf("from %s", weekday_names[[x$week_start]])
    } else if (x$unit %in% c("quarter", "year") && x$year_start > 1) {
      sprintf("of years from %s", month.name[[x$year_start]])
    },
    if (!is.null(x$zone)) sprintf("by the clock of %s", x$zone), days
  )
  paste0(
    period_noun(x),
    if (length(details) > 0) paste0(" (", paste(details, collapse = "; "), ")")
  )
}
