# Months, quarters and years of whole weeks. The calendar's `weeks` say how:
# how many days behind the 1st of its month the first week may start, and the
# weeks of the three months of a quarter, zeros where each month starts by its
# own 1st. `class WeekMonths` in src/kernels/calendar.h counts by them.

week_patterns <- list(
  "4-4-5" = c(4, 4, 5), "4-5-4" = c(4, 5, 4), "5-4-4" = c(5, 4, 4),
  "by month" = c(0, 0, 0)
)

# The days that a week may start behind the 1st, by `first_week`.
week_reaches <- c(before = 0, nearest = 3, after = 6)

check_whole_weeks <- function(whole_weeks, first_week, length) {
  if (is.null(whole_weeks)) {
    return(NULL)
  }
  check_meant(
    !length$unit %in% c("week", "month", "quarter", "year"), "whole_weeks",
    sprintf("%ss are not made of weeks", length$unit)
  )
  c(week_reaches[[first_week]], week_patterns[[whole_weeks]])
}

# As the arguments name them.
named_weeks <- function(weeks) {
  is_it <- vapply(week_patterns, identical, NA, as.double(weeks[-1]))
  list(
    whole_weeks = names(week_patterns)[is_it],
    first_week = names(week_reaches)[week_reaches == weeks[[1]]]
  )
}

# "4-4-5, years from the Sunday nearest to 1 February"
weeks_in_words <- function(calendar) {
  named <- named_weeks(calendar$weeks)
  by_month <- named$whole_weeks == "by month"
  sprintf(
    "%s from the %s %s %s",
    if (by_month) "each" else paste0(named$whole_weeks, ", years"),
    weekday_names[[calendar$week_start]],
    c(
      nearest = "nearest to", before = "on or before", after = "on or after"
    )[[named$first_week]],
    if (by_month) "the 1st" else
      paste("1", month.name[[calendar$year_start]])
  )
}

# A day by which a period is named, where its first would do it by another
# month: of months of whole weeks, none of which starts more than 14 days away
# from the 1st of the month that it stands for.
named_by <- function(start, calendar) {
  if (base_of(calendar) == "week month") start + 14 else start
}
