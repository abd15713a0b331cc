# What the calendar has in each period: weekdays, leap days, festivals.

# What the calendar has in each period of a range of numbers, less what its
# position in the year has on average: a row for each period, a column for each
# effect. Weekdays and leap days come again after 28 years.
calendar_counts <- function(range, calendar, told) {
  cycle <- check_cycle("1 year", calendar)
  own <- seq(range[[1]], range[[2]])
  columns <- list()
  if (told$days != "none") {
    all <- seq(range[[1]], max(range[[2]], range[[1]] + 28 * cycle$length - 1))
    columns <- lapply(day_counts(all, calendar, told$days), function(count) {
      usual <- seq_len(28 * cycle$length)
      place <- as.integer(cycle$position(all, calendar))
      mean <- tapply(count[usual], place[usual], mean)
      (count - as.vector(mean[place]))[seq_along(own)]
    })
  }
  if (length(told$festivals) > 0) {
    columns$festival <- festival_counts(own, calendar, cycle, told)
  }
  do.call(cbind, columns)
}

day_counts <- function(number, calendar, days) {
  start <- as.numeric(period_start(c(number, max(number) + 1), calendar))
  # 1970-01-01 was a Thursday.
  each <- lapply(0:6, function(weekday) diff((start + 2 - weekday) %/% 7))
  names(each) <- weekday_names
  columns <- if (days == "each") {
    lapply(each[-7], `-`, each[[7]])
  } else {
    open <- if (calendar$workdays) open_weekdays(calendar) else 1:5
    working <- if (calendar$workdays) {
      diff(open_before_cpp(start, calendar))
    } else {
      Reduce(`+`, each[open])
    }
    list(
      "working day" = working -
        length(open) / (7 - length(open)) * (diff(start) - working)
    )
  }
  c(columns, list("leap day" = diff(start)))
}

# Less the average of all years that the festival is known of.
festival_counts <- function(number, calendar, cycle, told) {
  ends <- number_of_days_cpp(range(told$festivals), calendar)
  place <- function(number) as.integer(cycle$position(number, calendar))
  years <- seq(
    ends[[1]] - place(ends[[1]]) + 1,
    ends[[2]] + cycle$length - place(ends[[2]])
  )
  usual <- tapply(festival_shares(years, calendar, told), place(years), mean)
  festival_shares(number, calendar, told) - as.vector(usual[place(number)])
}

# The share of each festival's days that lie in each period.
festival_shares <- function(number, calendar, told) {
  reach <- seq(-told$before, told$after)
  days <- outer(told$festivals, reach, "+")
  of <- number_of_days_cpp(as.vector(days), calendar)
  tabulate(
    match(of, number, nomatch = length(number) + 1L), length(number)
  ) / length(reach)
}
