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

may_close <- function(x, along) {
  nrow(x) > 0 && period_seconds(along$calendar) < 7 * 86400
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
