# What kind of measure figures are, by how they go on and what they are called.

# list(kind, reason, open); values in order of series and time. `open` says that
# the user should decide.
guess_kind <- function(name, value, series) {
  known <- !is.na(value)
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
  named_concentration(name) %||% named_level(name) %||%
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
    "low|close|jobs|height|pressure"
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
