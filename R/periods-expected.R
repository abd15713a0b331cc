# Which periods of a table something is expected in: what comes before a Monday
# of a market is its Friday.

# For each period of the table (a row) and each of its `names`, the series,
# whether something is expected or recorded there. Where that is not known it
# always is.
open_periods <- function(x, along, names) {
  ends <- range(along$number)
  slots <- known_slots(
    ends, along$calendar, ends, along$calendar, facts(x), names$names
  )$shorter
  open <- is.na(slots) | slots > 0
  known <- !is.na(along$value)
  at <- cbind(along$number - ends[[1]] + 1, names$index[along$order])
  open[at[known, , drop = FALSE]] <- TRUE
  open
}

# Only days off, weekdays, kept times and records less frequent than the periods
# leave any of these without something expected.
may_close <- function(x, along) {
  calendar <- along$calendar
  length <- period_seconds(calendar)
  if (nrow(x) == 0 || length >= 7 * 86400) {
    return(FALSE)
  }
  cadences <- facts(x)$cadences$cadences
  always <- is_irregular(cadences) | (
    cadences$steps %in% 1:2 & cadences$length <= length &
      cadences$weekdays == every_weekday & lengths(cadences$kept) == 0
  )
  calendar$workdays && calendar$unit != "working day" || !all(always)
}

# The numbers of the rows of `along` among the periods that are open in their
# own series.
open_numbers <- function(x, along) {
  if (!may_close(x, along)) {
    return(along$number)
  }
  names <- series_index(x, facts(x)$series)
  open <- open_periods(x, along, names)
  if (all(open)) {
    return(along$number)
  }
  first <- min(along$number)
  opened_by(open)[cbind(along$number - first + 1, names$index[along$order])]
}

# How many periods were open up to each, series by series.
opened_by <- function(open) {
  opened <- apply(open, 2, cumsum)
  dim(opened) <- dim(open)
  opened
}

# As along_series(), and where some periods are closed `opened` has the number
# of each row among those of its series that are not (NA where it is closed
# itself), and `opened_before()` how many of them lie before other periods, one
# for each row. What counts periods counts these.
along_counted <- function(x, of, call = caller_env()) {
  with_opened(x, along_series(x, of, call))
}

with_opened <- function(x, along) {
  if (!may_close(x, along)) {
    return(along)
  }
  names <- series_index(x, facts(x)$series)
  open <- open_periods(x, along, names)
  if (all(open)) {
    return(along)
  }
  first <- min(along$number)
  own <- names$index[along$order]
  opened <- opened_by(open)
  at <- cbind(along$number - first + 1, own)
  along$opened <- ifelse(open[at], opened[at], NA_real_)
  along$opened_before <- function(number) {
    # Before the table there are none, and whoever asks for them is outside it.
    back <- pmin(number - first, 0)
    back + rbind(0, opened)[cbind(number - first - back + 1, own)]
  }
  along
}

# The rows that are counted, numbered so. `rows` says which these are.
only_counted <- function(along) {
  if (is.null(along$opened)) {
    return(c(along, list(rows = seq_along(along$number))))
  }
  rows <- which(!is.na(along$opened))
  list(
    series = along$series[rows], number = along$opened[rows],
    value = along$value[rows], calendar = along$calendar, rows = rows
  )
}

# As along_series(), without the rows of periods that are closed, and with those
# that are left numbered one after the other. Where series are set against each
# other (`together`), only what is closed in all of them is left out, and
# `periods` has the numbers that these have in the calendar.
along_open <- function(x, of, call = caller_env(), together = FALSE) {
  along <- along_series(x, of, call)
  if (!may_close(x, along)) {
    return(along)
  }
  names <- series_index(x, facts(x)$series)
  open <- open_periods(x, along, names)
  if (together) open[] <- rowSums(open) > 0
  if (all(open)) {
    return(along)
  }
  at <- cbind(
    along$number - min(along$number) + 1, names$index[along$order]
  )
  kept <- which(open[at])
  list(
    order = along$order[kept], series = along$series[kept],
    number = as.double(opened_by(open)[at[kept, , drop = FALSE]]),
    value = along$value[kept], calendar = along$calendar,
    periods = min(along$number) - 1 + which(open[, 1])
  )
}

# One cadence for series that are put together: their own where they agree, on
# the weekdays of any of them; none where they do not.
shared_cadence <- function(cadences) {
  all <- vctrs::vec_rbind(!!!cadences)
  steps <- vctrs::vec_unique(
    all[c("steps", "length", "anchor", "offset", "kept")]
  )
  if (nrow(steps) != 1 || any(is_irregular(all))) {
    return(new_cadences("none", words = "irregular"))
  }
  one <- all[1, ]
  one$weekdays <- Reduce(bitwOr, all$weekdays)
  cadence_words(one)
}
