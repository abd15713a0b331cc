# Cycles: after how many periods a season comes back, and the position of each
# period in it.

# The cycle of a calendar's periods, in words, where it goes without saying.
own_cycle <- function(calendar) {
  cycle <- if (by_clock(calendar) && calendar$unit != "hour") {
    if (86400 %% calendar$count == 0) "1 day"
  } else if (calendar$number == 1) {
    switch(
      calendar$unit, hour = , day = , "working day" = "1 week", week = ,
      third = , month = , quarter = "1 year"
    )
  }
  if (is.null(cycle)) {
    abort_backfill(
      "argument", "The cycle of {period_noun(calendar, 2)} is not known.",
      ">" = "Name it with `cycle`, as a number of periods or a length of time;",
      "suggest_cycle() looks for one."
    )
  }
  cycle
}

# list(length, words, noun, labels, position, own). `position` gives that of
# each number of a laid calendar, from 1, in the cycle of `length` periods.
# Where the calendar has names for the positions (months, weekdays, hours) they
# are its own, so that they keep their place where a cycle has a period more or
# less: 29 February shares the position of the 28th, week 53 that of week 52,
# and the hours are those of the local clock.
check_cycle <- function(cycle, calendar) {
  own <- is.null(cycle)
  cycle <- cycle %||% own_cycle(calendar)
  count <- whole_periods(cycle, calendar) %||% periods_in_cycle(cycle, calendar)
  if (is.null(count) || count < 2) {
    stop_periods(cycle, calendar, "cycle", "window")
  }
  named <- named_positions(count, calendar)
  if (is.null(named)) {
    named <- list(noun = "position", labels = sprintf("%d", seq_len(count)),
                  position = function(number, laid) number %% count + 1)
  }
  words <- if (is.character(cycle) && !grepl(
    "^[0-9]+$", cycle
  )) counted_length(length_as_said(cycle))
  c(
    list(
      length = as.integer(count),
      words = words %||% count_of_periods(count, calendar), own = own
    ),
    named
  )
}

# How many periods a cycle has mostly, where that differs.
periods_in_cycle <- function(cycle, calendar) {
  length <- read_distance(cycle)
  if (calendar$number != 1 || is.null(length) || length$count != 1) {
    return(NULL)
  }
  switch(paste(calendar$unit, length$unit), "day year" = 365, "week year" = 52,
         "working day week" = length(open_weekdays(calendar)))
}

open_weekdays <- function(calendar) {
  which(
    bitwAnd(calendar$weekdays, 2L^(0:6)) > 0
  )
}

named_positions <- function(count, calendar) {
  if (by_clock(calendar)) {
    return(clock_positions(count, calendar))
  }
  what <- if (calendar$number == 1) {
    sprintf("%s %d", calendar$unit, as.integer(count))
  } else {
    ""
  }
  open <- open_weekdays(calendar)
  if (what == sprintf("working day %d", length(open))) {
    return(weekday_positions(open))
  }
  switch(what,
    "day 7" = weekday_positions(1:7),
    "month 12" = list(
      noun = "month", labels = month.name,
      position = function(number, laid) parts_of(number, laid)$mon + 1
    ),
    "quarter 4" = quarter_positions(calendar$year_start),
    "third 36" = list(
      noun = "third of a month",
      labels = paste0(rep(month.name, each = 3), ", third ", 1:3),
      position = function(number, laid) number %% 36 + 1
    ),
    "week 52" = list(
      noun = "week", labels = sprintf("W%02d", 1:52),
      position = function(number, laid) {
        pmin(week_of_year(period_start(number, laid), laid)$week, 52)
      }
    ),
    "day 365" = day_positions
  )
}

parts_of <- function(number, laid) {
  as.POSIXlt(named_by(period_start(number, laid), laid))
}

weekday_positions <- function(days) {
  list(
    noun = "weekday", labels = weekday_names[days],
    position = function(number, laid) {
      match((parts_of(number, laid)$wday + 6) %% 7 + 1, days)
    }
  )
}

quarter_positions <- function(year_start) {
  list(
    noun = "quarter", labels = paste0("Q", 1:4),
    position = function(number, laid) {
      (parts_of(number, laid)$mon + 1 - year_start) %% 12 %/% 3 + 1
    }
  )
}

days_of_months <- c(31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
first_days <- c(0, cumsum(days_of_months[-12]))
day_names <- sprintf(
  "%02d-%02d", rep(1:12, days_of_months), sequence(days_of_months)
)

day_positions <- list(
  noun = "day of the year", labels = day_names,
  position = function(number, laid) {
    parts <- parts_of(number, laid)
    first_days[parts$mon + 1] + pmin(parts$mday, days_of_months[parts$mon + 1])
  }
)

# Slots of the local clock, in a day or a week.
clock_positions <- function(count, calendar) {
  slots <- 86400 / calendar$count
  if (slots != floor(slots) || !count %in% c(slots, 7 * slots)) {
    return(NULL)
  }
  second <- (seq_len(slots) - 1) * calendar$count
  times <- sprintf(
    "%02d:%02d", as.integer(second %/% 3600), as.integer(second %/% 60 %% 60)
  )
  of_week <- count == 7 * slots
  noun <- if (calendar$unit == "hour" && calendar$number == 1) {
    "hour"
  } else {
    "time of day"
  }
  list(
    noun = if (of_week) paste(noun, "of the week") else noun,
    labels = if (of_week) {
      paste(rep(weekday_names, each = slots), times)
    } else {
      times
    },
    position = function(number, laid) {
      parts <- as.POSIXlt(period_start(number, laid))
      slot <- (parts$hour * 3600 + parts$min * 60 + parts$sec) %/%
        calendar$count
      slot + 1 + if (of_week) (parts$wday + 6) %% 7 * slots else 0
    }
  )
}

# The cycle that the periods have by themselves, or NULL.
known_cycle <- function(calendar) {
  cycle <- tryCatch(
    check_cycle(NULL, calendar), backfill_error = function(cnd) NULL
  )
  cycle[c("length", "words", "noun")]
}

# What was found at the positions of one calendar holds at those of another
# where their years start alike, as far as that moves the positions. `argument`
# is what was found.
check_same_positions <- function(found, own, argument) {
  places <- function(calendar) {
    weeks <- as.numeric(calendar$weeks)
    in_year <- length(weeks) > 0 || calendar$unit == "quarter"
    list(
      period_noun(calendar), weeks,
      if (in_year) as.numeric(calendar$year_start),
      if (length(weeks) > 0) as.numeric(calendar$week_start)
    )
  }
  if (identical(places(found), places(own))) {
    return()
  }
  called <- vapply(list(found, own), period_noun, "", 2)
  if (called[[1]] == called[[2]]) {
    called <- vapply(list(found, own), function(calendar) {
      calendar["zone"] <- list(NULL)
      sub("\\b( [(]|$)", "s\\1", format(calendar))
    }, "")
  }
  abort_backfill(
    "input",
    "`{argument}` is of {called[[1]]}, but the table has {called[[2]]}."
  )
}
