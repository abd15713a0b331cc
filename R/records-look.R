# What looks odd in records: long gaps, and values that are hardly what they seem.

# The longest gaps between neighbours of one series, where slots of the cadence are missing between them: series
# columns, `after`, `before` (times) and `missing`. `sorted` puts the rows in order of series and time.
longest_gaps <- function(when, index, sorted, cadence, table, most = 3) {
  series <- index$index[sorted]
  time <- as.numeric(when)[sorted] * if (inherits(when, "Date")) 86400 else 1
  n <- length(time)
  empty <- tibble::tibble(index$names[0, , drop = FALSE], after = when[0], before = when[0], missing = numeric())
  if (n < 2 || cadence_steps[cadence$steps + 1] == "none") {
    return(empty)
  }
  local <- instant_to_local(time, table)
  distance <- ifelse(diff(series) == 0, diff(local), 0)
  # A look at the slots of those only that can be long.
  far <- which(distance > 1.5 * cadence_seconds(cadence))
  if (length(far) == 0) {
    return(empty)
  }
  missing <- slots_between(local[far], local[far + 1], time[far], time[far + 1], cadence)
  # Of a gap that several series have at once, all are shown.
  span <- vctrs::vec_group_id(vctrs::data_frame(from = time[far], to = time[far + 1]))
  order <- order(-missing, time[far])
  order <- order[missing[order] > 0]
  longest <- order[span[order] %in% first_few(unique(span[order]), most)]
  names <- vctrs::vec_slice(index$names, series[far[longest]])
  tibble::tibble(names, after = when[sorted[far[longest]]], before = when[sorted[far[longest] + 1]],
                 missing = missing[longest])
}

# How many slots lie between two that have a record.
slots_between <- function(from, to, from_instant, to_instant, cadence) {
  switch(cadence_steps[cadence$steps + 1],
    calendar = {
      unit <- period_units[cadence$unit + 1]
      period_number(floor(to / 86400), unit) - period_number(floor(from / 86400), unit) - 1
    },
    instant = round((to_instant - from_instant) / cadence$length) - 1,
    local = if (cadence$weekdays == 127) {
      round((to - from) / cadence$length) - 1
    } else {
      expected <- bitwAnd(cadence$weekdays, 2^(0:6)) > 0
      rowSums(count_weekdays(floor(from / 86400) + 1, floor(to / 86400))[, expected, drop = FALSE])
    }
  )
}

# A text for each span of time, with the series that has the gap, or how many have it.
gaps_in_words <- function(gaps) {
  series <- as.list(gaps)[setdiff(names(gaps), c("after", "before", "missing"))]
  span <- vctrs::vec_group_id(vctrs::data_frame(from = gaps$after, to = gaps$before))
  first <- !duplicated(span)
  whose <- if (length(series) > 0) {
    name <- do.call(paste, c(unname(lapply(series, as.character)), sep = " / "))[first]
    many <- tabulate(span)
    ifelse(many == 1, paste(" of", name), sprintf(" in each of %d series", many))
  }
  sprintf("%s%s between %s and %s", vapply(gaps$missing[first], count_of, "", noun = "record"), whose %||% "",
          moments_in_words(gaps$after[first]), moments_in_words(gaps$before[first]))
}

# `measure` and `what`, a row for each thing that is odd.
suspicious_values <- function(data, measures, index, sorted) {
  series <- index$index[sorted]
  found <- lapply(names(measures), function(name) {
    value <- data[[name]][sorted]
    known <- !is.na(value)
    c(
      all_zero(value, known, series, index$names), odd_codes(value[known]),
      constant_run(value[known], series[known]),
      if (measures[[name]]$kind == "counter") falls(value[known], series[known]),
      if (measures[[name]]$kind == "flow" && any(value[known] < 0)) {
        sprintf("%s below zero in a flow", count_of(sum(value[known] < 0), "value is", "values are"))
      }
    )
  })
  tibble::tibble(measure = rep(names(measures), lengths(found)), what = as.character(unlist(found)))
}

all_zero <- function(value, known, series, names) {
  highest <- tapply(abs(value[known]), series[known], max)
  zero <- as.integer(names(highest))[highest == 0]
  if (length(zero) == 0) {
    return(NULL)
  }
  if (length(names) == 0) {
    return("every value is 0")
  }
  said <- do.call(paste, c(unname(lapply(vctrs::vec_slice(names, zero), as.character)), sep = " / "))
  sprintf("every value of %s is 0", in_words(said, 6))
}

# Numbers that often stand for a missing value: a row of nines, far away from all else.
odd_codes <- function(value) {
  codes <- c(-9, -99, -999, -9999, -99999, 999, 9999, 99999, 999999)
  for (code in codes[codes %in% value]) {
    count <- sum(value == code)
    rest <- range(value[value != code], 0)
    outside <- if (code < 0) code < rest[[1]] - diff(rest) / 10 else code > rest[[2]] + diff(rest) * 2
    if (outside && count < length(value)) {
      return(sprintf("%s %s, far from all else; if that is a code, say so: `missing` is \"%s\"",
                     count_of(count, "value is", "values are"), format_plain(code), format_plain(code)))
    }
  }
  NULL
}

# A run of at least 30 alike, and ten times as long as runs mostly are, looks like an instrument that stands still.
constant_run <- function(value, series) {
  if (length(value) < 30) {
    return(NULL)
  }
  change <- c(TRUE, diff(value) != 0 | diff(series) != 0)
  run <- diff(c(which(change), length(value) + 1))
  same <- value[change]
  run[same == 0] <- 0
  longest <- which.max(run)
  if (run[[longest]] < 30 || run[[longest]] < 10 * mean(run[run > 0])) {
    return(NULL)
  }
  sprintf("%s stands %s in a row", format_plain(same[[longest]]),
          count_of(run[[longest]], "time"))
}

falls <- function(value, series) {
  fall <- sum(diff(value) < 0 & diff(series) == 0)
  if (fall > 0) sprintf("the counter falls %s", count_of(fall, "time"))
}

format_plain <- function(x) format(x, scientific = FALSE, digits = 15)
