# Which periods of a table something is expected in: what comes before a Monday
# of a market is its Friday.

# For each period of the table (a row) and each of its `names`, the series,
# whether something is expected or recorded there. Where that is not known it
# always is.
open_periods <- function(x, along, names) {
  ends <- range(along$number)
  slots <- known_slots(
    ends, along$calendar, ends, along$calendar, facts(x)$cadences,
    facts(x)$series, names$names
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

# What is open of the calendar's periods, from that of the first row on, in each
# series; NULL where all are. `open` and `upto`, how many were open up to each,
# have a row for each period, `own` is the column of each row of `along`, `at`
# its place, `first` the number of the first. Where series are set against each
# other (`together`), only what is closed in all of them is closed.
openings <- function(x, along, together = FALSE) {
  if (!may_close(x, along)) {
    return(NULL)
  }
  names <- series_index(x, facts(x)$series)
  open <- open_periods(x, along, names)
  if (together) open[] <- rowSums(open) > 0
  if (all(open)) {
    return(NULL)
  }
  first <- min(along$number)
  own <- names$index[along$order]
  upto <- apply(open, 2, cumsum)
  dim(upto) <- dim(open)
  list(
    open = open, upto = upto, own = own, first = first,
    at = cbind(along$number - first + 1, own)
  )
}

# The numbers of the rows of `along` among the periods that are open in their
# own series.
open_numbers <- function(x, along) {
  found <- openings(x, along)
  if (is.null(found)) along$number else found$upto[found$at]
}

# As along_series(), and where some periods are closed `opened` has the number
# of each row among those of its series that are not (NA where it is closed
# itself), and `count_before()` how many of them lie before other periods, one
# for each row. What counts periods counts these.
along_counted <- function(x, of) {
  with_opened(x, along_series(x, of))
}

with_opened <- function(x, along, together = FALSE) {
  found <- openings(x, along, together)
  if (is.null(found)) {
    return(along)
  }
  along$opened <- ifelse(
    found$open[found$at], found$upto[found$at], NA_real_
  )
  along$count_before <- function(number) {
    # Before the table there are none, and whoever asks for them is outside it.
    back <- pmin(number - found$first, 0)
    back + rbind(0, found$upto)[
      cbind(number - found$first - back + 1, found$own)
    ]
  }
  along$periods <- found$first - 1 + which(found$open[, 1])
  along
}

# The rows that are counted, numbered so; `rows` says which these are.
only_counted <- function(along) {
  if (is.null(along$opened)) {
    return(c(along, list(rows = seq_along(along$number))))
  }
  rows <- which(!is.na(along$opened))
  list(
    order = along$order[rows], series = along$series[rows],
    number = along$opened[rows], value = along$value[rows],
    calendar = along$calendar, periods = along$periods, rows = rows
  )
}

# What was worked out for the rows that are counted, for each row of `along`; NA
# for the others.
of_each_row <- function(made, along) {
  if (is.null(along$opened)) {
    return(made)
  }
  out <- rep(made[NA_integer_], length(along$number))
  out[!is.na(along$opened)] <- made
  out
}

# As along_series(), without the rows of periods that are closed, and with those
# that are left numbered one after the other. Of series that are set against
# each other (`together`) `periods` has the numbers that these have in the
# calendar.
along_open <- function(x, of, together = FALSE) {
  along <- along_series(x, of)
  opened <- with_opened(x, along, together)
  if (is.null(opened$opened)) along else only_counted(opened)
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
