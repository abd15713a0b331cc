# What looks odd in records: long gaps, and values that are hardly what they seem.

# The longest gaps between neighbours of one series, where slots of the cadence are missing between them: series
# columns, `after`, `before` (times) and `missing`. `sorted` puts the rows in order of series and time.
longest_gaps <- function(when, index, sorted, cadence, table, most = 3) {
  empty <- tibble::tibble(index$names[0, , drop = FALSE], after = when[0], before = when[0], missing = numeric())
  if (cadence_steps[cadence$steps + 1] == "none") {
    return(empty)
  }
  # A look at the slots of those only that can be long.
  scale <- if (inherits(when, "Date")) 86400 else 1
  far <- far_neighbours_cpp(when, scale, table$from, table$offset, sorted, index$index, 1.5 * cadence_seconds(cadence))
  if (length(far) == 0) {
    return(empty)
  }
  from <- sorted[far]
  to <- sorted[far + 1]
  instant <- function(rows) as.numeric(when[rows]) * scale
  local <- function(rows) instant_to_local(instant(rows), table)
  missing <- slots_between(local(from), local(to), instant(from), instant(to), cadence)
  # Of a gap that several series have at once, all are shown.
  span <- vctrs::vec_group_id(vctrs::data_frame(from = when[from], to = when[to]))
  order <- order(-missing, as.numeric(when[from]))
  order <- order[missing[order] > 0]
  longest <- order[span[order] %in% first_few(unique(span[order]), most)]
  names <- vctrs::vec_slice(index$names, index$index[from[longest]])
  tibble::tibble(names, after = when[from[longest]], before = when[to[longest]], missing = missing[longest])
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
  found <- lapply(names(measures), function(name) {
    look <- look_at_values_cpp(as.double(data[[name]]), sorted, index$index, likely_codes)
    c(
      all_zero(look$zero_series, index$names), odd_code(look$codes, look$values), constant_run(look),
      if (measures[[name]]$kind == "counter" && look$falls > 0) {
        sprintf("the counter falls %s", count_of(look$falls, "time"))
      },
      if (measures[[name]]$kind == "flow" && look$negatives > 0) {
        sprintf("%s below zero in a flow", count_of(look$negatives, "value is", "values are"))
      }
    )
  })
  tibble::tibble(measure = rep(names(measures), lengths(found)), what = as.character(unlist(found)))
}

all_zero <- function(series, names) {
  if (length(series) == 0) {
    return(NULL)
  }
  if (length(names) == 0) {
    return("every value is 0")
  }
  said <- do.call(paste, c(unname(lapply(vctrs::vec_slice(names, series), as.character)), sep = " / "))
  sprintf("every value of %s is 0", in_words(said, 6))
}

# Numbers that often stand for a missing value: a row of nines.
likely_codes <- c(-9, -99, -999, -9999, -99999, 999, 9999, 99999, 999999)

# The first of them that is far away from all else.
odd_code <- function(codes, values) {
  reach <- codes$highest - codes$lowest
  outside <- ifelse(codes$code < 0, codes$code < codes$lowest - reach / 10, codes$code > codes$highest + reach * 2)
  odd <- codes[codes$count > 0 & codes$count < values & outside, ]
  if (nrow(odd) == 0) {
    return(NULL)
  }
  sprintf("%s %s, far from all else; if that is a code, say so: `missing` is \"%s\"",
          count_of(odd$count[[1]], "value is", "values are"), format_plain(odd$code[[1]]), format_plain(odd$code[[1]]))
}

# A run of at least 30 alike, and ten times as long as runs mostly are, looks like an instrument that stands still.
constant_run <- function(look) {
  if (look$longest >= 30 && look$longest >= 10 * look$mean_run) {
    sprintf("%s stands %s in a row", format_plain(look$longest_value), count_of(look$longest, "time"))
  }
}

format_plain <- function(x) format(x, scientific = FALSE, digits = 15)
