#' Fill gaps
#'
#' Gives empty periods a value, and the standing `"imputed"`. Only whole periods
#' serve as a source: partial ones do not, and are left as they are.
#'
#' | method | value |
#' |---|---|
#' | `"carry"` | that of the last whole period before |
#' | `"linear"` | on the straight line between the whole periods before and after, by their distance in periods |
#' | `"seasonal"` | that of the period one cycle before, or two and more where that one is not whole |
#' | `"zero"` | 0, which only a flow can be |
#'
#' A gap at the end is filled by `"carry"`, `"seasonal"` and `"zero"`, which
#' need only what came before; `"linear"` leaves it. A gap at the start of a
#' series is left by all of them, as it could be filled from the future only,
#' unless `leading` asks for it.
#'
#' @param x A periods table, from [roll_up()].
#' @param method `"carry"`, `"linear"`, `"seasonal"` or `"zero"`.
#' @param longest The longest run of periods to fill, a number or a length of
#'   time; longer ones are left alone.
#' @param cycle Length of the cycle for `"seasonal"`, a number of periods or a
#'   length of time; `NULL` for a year of months, quarters and weeks, and a week
#'   of days and hours.
#' @param leading `TRUE` fills gaps at the start too: with the first whole value
#'   (`"carry"`, `"linear"`), that of a later cycle (`"seasonal"`), or 0.
#' @return The table with more values; printing it tells how many were filled
#'   and how many were left.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_argument`, also for `"zero"` where a measure is not a flow,
#'   and for `"seasonal"` where the cycle is not known; `backfill_error_over`
#'   for a cycle that is not a whole number of periods.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' impute_gaps(roll_up(crossings, every = "day"), "seasonal")
#' @concept interpolate
#' @concept carry forward
#' @export
impute_gaps <- function(
  x, method, longest = Inf, cycle = NULL, leading = FALSE
) {
  check_given()
  x <- check_periods(x)
  most <- longest_run(longest, facts(x)$calendar)
  if (method == "zero") {
    check_all_flows(x)
  }
  distance <- if (method == "seasonal") {
    check_distance(
      cycle %||% own_cycle(facts(x)$calendar), facts(x)$calendar, "cycle"
    )
  }
  check_not_empty(x)
  along <- along_series(x, "value")
  grid <- along_grid(along, along$value)
  empty <- rep(FALSE, length(grid$value))
  empty[grid$row] <- x$standing[along$order] == "empty"
  filled <- fillings(grid, method, distance, along$calendar, leading)
  run <- empty_runs(empty, grid$series)
  usable <- empty & run <= most & !is.na(filled)
  at <- grid$row[order(along$order)]
  use <- usable[at]
  x$value[use] <- filled[at][use]
  x$standing[use] <- "imputed"
  with_imputed(x, list(
    method = method, cycle = distance$words, filled = sum(use),
    left = c(
      "the run is too long" = sum(empty & run > most),
      "no whole period to fill them from" =
        sum(empty & run <= most & is.na(filled))
    )
  ))
}

# The most empty periods in a row that are filled.
longest_run <- function(longest, calendar) {
  if (identical(longest, Inf)) {
    return(Inf)
  }
  most <- whole_periods(longest, calendar)
  if (is.null(most)) {
    stop_periods(longest, calendar, "longest", "argument")
  }
  most
}

check_all_flows <- function(x) {
  measures <- facts(x)$measures[unique(x$measure)]
  other <- Filter(function(measure) measure$kind != "flow", measures)
  if (length(other) > 0) {
    abort_backfill(
      "argument",
      "`method` is \"zero\", but {names(other)[[1]]} is not a flow.",
      ">" = "Choose another method, or fill the flows in a table of their own."
    )
  }
}

# What each place of the grid would be filled with.
fillings <- function(grid, method, distance, calendar, leading) {
  sources <- neighbours(grid)
  as_cycle <- function(backwards) {
    seasonal_values(
      grid, moved(distance, grid$number, calendar), backwards = backwards
    )
  }
  filled <- switch(
    method, carry = grid$value[sources$before], linear = between(grid, sources),
    seasonal = as_cycle(TRUE), zero = ifelse(is.na(sources$before), NA, 0)
  )
  if (leading) {
    lead <- is.na(sources$before)
    first <- grid$value[sources$after]
    filled[lead] <- switch(
      method, carry = , linear = first, zero = 0 * first,
      seasonal = as_cycle(FALSE)
    )[lead]
  }
  filled
}

with_imputed <- function(x, made) {
  role <- facts(x)
  role$imputed <- c(role$imputed, list(made))
  attr(x, "backfill") <- role
  x
}

# For each place of the grid the nearest one of its series with a value before
# it, and after it.
neighbours <- function(grid) {
  n <- length(grid$value)
  known <- !is.na(grid$value)
  place <- seq_len(n)
  before <- cummax(ifelse(known, place, 0L))
  after <- rev(cummin(rev(ifelse(known, place, n + 1L))))
  before[before == 0L] <- NA
  after[after > n] <- NA
  before[which(grid$series[before] != grid$series)] <- NA
  after[which(grid$series[after] != grid$series)] <- NA
  list(before = before, after = after)
}

between <- function(grid, sources) {
  from <- grid$value[sources$before]
  to <- grid$value[sources$after]
  share <- (seq_along(from) - sources$before) / (sources$after - sources$before)
  from + share * (to - from)
}

# The value one cycle away, or as many more as it takes. `base` is the number of
# the period one cycle back.
seasonal_values <- function(grid, base, backwards) {
  row <- find_rows_cpp(
    grid$series, grid$number, grid$value, base, back = FALSE, max_age = 0
  )
  if (!backwards) {
    # The period of which this one is the base; of 28 and 29 February the first,
    # which is of the same date.
    back <- row
    row <- rep(NA_integer_, length(back))
    later <- rev(which(!is.na(back)))
    row[back[later]] <- later
  }
  at <- row
  repeat {
    again <- which(!is.na(at) & is.na(grid$value[at]))
    if (length(again) == 0) {
      return(grid$value[at])
    }
    at[again] <- row[at[again]]
  }
}

# How many empty periods the run of each has.
empty_runs <- function(empty, series) {
  run <- cumsum(c(TRUE, diff(empty) != 0 | diff(series) != 0))
  tabulate(run)[run]
}
