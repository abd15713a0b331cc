# What kind of measure figures are, by how they go on and what they are called.

# list(kind, reason, open); values in order of series and time, which is the
# `second` of each, where it is known. `open` says that the user should decide,
# `restarts` how often a count starts anew.
guess_kind <- function(name, value, series, second = NULL) {
  known <- !is.na(value)
  # What has no place in time is at no place of the order.
  if (!is.null(second)) known <- known & !is.na(second)
  value <- value[known]
  same <- diff(series[known]) == 0
  step <- diff(value)[same]
  if (length(step) < 3) {
    unknown <- list(
      kind = "flow", reason = "too few values to tell; taken for a flow",
      open = TRUE
    )
    return(named_concentration(name) %||% unknown)
  }
  rising <- kind_of_steps(value, step)
  if (!is.null(rising)) {
    return(doubted(rising, named_level(name), name))
  }
  anew <- if (!is.null(second)) {
    kind_of_restarts(value[-1][same], step, second[known], same)
  }
  anew %||% named_concentration(name) %||% named_level(name) %||%
    kind_of_values(value, step)
}

# What only rises may be the reading of a meter, or a level that grew: its name
# tells, or else the user.
doubted <- function(rising, named, name) {
  if (!is.null(named)) {
    named$open <- TRUE
    named$reason <- paste0(rising$reason, ", but ", named$reason)
    return(named)
  }
  counts <- "meter|reading|counter|count|odometer|total|cumul|so.?far|to.?date"
  rising$open <- isTRUE(rising$open) || !grepl(counts, name, ignore.case = TRUE)
  rising
}

# A counter by how it rises, or nothing.
kind_of_steps <- function(value, step) {
  if (mean(step > 0) <= 0.5) {
    return(NULL)
  }
  falls <- sum(step < 0)
  if (falls == 0) {
    # A dozen steps up without one down are hardly chance.
    few <- length(step) < 12
    return(list(kind = "counter", reason = "it never falls", open = few))
  }
  # A meter that was reset or corrected falls now and then, by far more than it
  # rises.
  large <- stats::median(value) > 10 * stats::median(abs(step))
  if (falls / length(step) < 0.02 && large) {
    reason <- sprintf("it rises but for %s", count_of(falls, "fall"))
    list(kind = "counter", reason = reason)
  }
}

# A count so far of the year, month or day; years may start in any month. Sales
# that rise through each week, or its quarters through a year, are none. `value`
# is that after each step; `same` says which pairs of neighbours are steps of a
# series.
kind_of_restarts <- function(value, step, second, same) {
  day <- second %/% 86400
  at <- as.POSIXlt(.Date(day))
  month <- 12 * at$year + at$mon
  begins <- at$mon[-1][same][step < 0]
  if (length(begins) == 0) {
    return(NULL)
  }
  first <- as.integer(names(which.max(table(begins))))
  units <- list(year = (month - first) %/% 12, month = month, day = day)
  for (unit in names(units)) {
    starts <- diff(units[[unit]])[same] != 0
    if (counts_up(value, step, starts)) {
      return(list(
        kind = "counter", restarts = unit,
        reason = sprintf("it counts up and starts anew each %s", unit)
      ))
    }
  }
}

# Whether figures fall at `starts`, to about a step above zero, and not else.
counts_up <- function(value, step, starts) {
  within <- step[!starts]
  enough <- sum(starts) >= 3 && length(within) >= 5 * sum(starts)
  rises <- enough && mean(within >= 0) > 0.99 && mean(within > 0) > 0.5
  rises && mean(step[starts] < 0) > 0.8 &&
    stats::median(value[starts]) < 3 * mean(within)
}

# `NO2`, `pm10_ug`, `SalinityPpm`: words end at capitals, digits and marks.
named_concentration <- function(name) {
  words <- tolower(gsub("([a-z])([A-Z])", "\\1 \\2", name))
  if (grepl(concentrations, words, perl = TRUE)) {
    list(
      kind = "level", reason = "its name is that of a concentration",
      open = TRUE
    )
  }
}

named_level <- function(name) {
  readings <- paste0(
    "price|rate|temp|level|stock|index|share|percent|average|mean|open|high|",
    "low|close|jobs|height|pressure|rolling|trailing|moving|last.?[0-9]"
  )
  if (grepl(readings, name, ignore.case = TRUE)) {
    list(kind = "level", reason = "its name is that of a reading")
  }
}

kind_of_values <- function(value, step) {
  if (any(value < 0)) {
    return(list(
      kind = "level", reason = "it falls below zero", open = TRUE
    ))
  }
  whole <- all(value == floor(value))
  if (all(value != 0) && mean(abs(step)) < 0.1 * mean(abs(value))) {
    counts <- whole && scatter_as_counts(value, step)
    return(list(
      kind = if (counts) "flow" else "level", reason = if (counts) {
        "whole numbers that scatter as counts do"
      } else {
        "it changes little from one record to the next"
      }, open = TRUE
    ))
  }
  list(
    kind = "flow",
    reason = paste(
      if (whole) "whole numbers" else "amounts", "that come and go",
      if (whole) "as counts do"
    )
  )
}

# Counts of things that happen by themselves have a variance of their mean, and
# steps between two of them one of twice that; a level has any.
scatter_as_counts <- function(value, step) {
  ratio <- mean(step^2) / (2 * mean(value))
  ratio > 0.5 && ratio < 2
}

# What is measured in the air or in water, as an amount in a volume.
concentrations <- paste0(
  "(?<![a-z])(gas(es)?|no2|nox|so2|co2|o3|ch4|nh3|",
  "pm ?[_.]?(1|2[._]?5|10)|ozone|methane|ppmv?|ppbv?|salinity|turbidity|",
  "humidity|dissolved|concentrations?|conc|",
  "(?:[un\u00b5\u03bc]|m|k)?g ?[/_]? ?(m3|m\u00b3|l)|",
  "(?:[un\u00b5\u03bc]|m)?mol ?[/_]? ?l)(?![a-z])"
)

# Counters that start anew are counted from 0 then, which is told, and said
# where they are rolled up; not what the user says is another kind.
with_restarts <- function(guess) {
  counters <- Filter(function(one) {
    identical(stated_parts(one)$kind, "counter")
  }, guess$arguments$measures)
  restarts <- guess$restarts[names(guess$restarts) %in% names(counters)]
  if (length(restarts) == 0) {
    return(guess)
  }
  new <- unlist(guess$arguments$rename)
  name <- renamed(names(restarts), stats::setNames(names(new), new))
  guess$falls <- stats::setNames(rep("restart", length(name)), name)
  guess$notes <- c(guess$notes, glue(
    "{quoted(name)} starts anew each {restarts}: with `falls` as \"restart\"",
    "each new one is counted from 0."
  ))
  guess
}

# Where the values do not tell a flow from a level, the user must.
kinds_to_decide <- function(kinds) {
  open <- names(kinds)[vapply(kinds, function(guess) isTRUE(guess$open), NA)]
  counted <- vapply(kinds[open], function(guess) guess$kind == "counter", NA)
  if (length(open) > 0) {
    sprintf(
      paste(
        "For you to decide: whether %s added up over time (flow)%saveraged",
        "(level)%s."
      ),
      paste(in_words(quoted(open), 6), if (length(open) == 1) "is" else "are"),
      if (any(counted)) ", " else " or ",
      if (any(counted)) " or the reading of a meter (counter)" else ""
    )
  }
}
