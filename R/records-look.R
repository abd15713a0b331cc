# What looks odd in records: long gaps, and values that are hardly what they
# seem.

# The longest gaps between neighbours of one series, where slots of its cadence
# are missing between them: series columns, `after`, `before` (times) and
# `missing`. `sorted` puts the rows in order of series and time.
longest_gaps <- function(when, index, sorted, cadences, table, most = 3) {
  scale <- unit_of_times(when)
  found <- find_gaps_cpp(
    when, scale, table$from, table$offset, sorted, index$index, cadences
  )
  instant <- as.numeric(when) * scale
  found$missing <- missing_kept(
    found$missing, instant[found$after], instant[found$before],
    cadences[index$index[found$after], ], table
  )
  found <- lapply(found, `[`, found$missing > 0)
  # Of a gap that several series have at once, all are shown.
  span <- vctrs::vec_group_id(
    vctrs::data_frame(from = when[found$after], to = when[found$before])
  )
  order <- order(-found$missing, as.numeric(when[found$after]))
  longest <- order[span[order] %in% first_few(unique(span[order]), most)]
  names <- vctrs::vec_slice(index$names, index$index[found$after[longest]])
  new_rows(
    names, after = when[found$after[longest]],
    before = when[found$before[longest]], missing = found$missing[longest]
  )
}

# A text for each span of time, with the series that has the gap, or how many
# have it.
gaps_in_words <- function(runs) {
  series <- as.list(runs)[setdiff(names(runs), c("after", "before", "missing"))]
  span <- vctrs::vec_group_id(
    vctrs::data_frame(from = runs$after, to = runs$before)
  )
  first <- !duplicated(span)
  whose <- if (length(series) > 0) {
    name <- do.call(
      paste, c(unname(lapply(series, as.character)), sep = " / ")
    )[first]
    many <- tabulate(span)
    ifelse(
      many == 1, paste(" of", name), sprintf(" in each of %d series", many)
    )
  }
  sprintf(
    "%s%s between %s and %s",
    vapply(runs$missing[first], count_of, "", noun = "record"), whose %||% "",
    moments_in_words(runs$after[first]), moments_in_words(runs$before[first])
  )
}

# `measure` and `what`, a row for each thing that is odd.
suspicious_values <- function(data, measures, index, sorted) {
  found <- lapply(names(measures), function(name) {
    value <- as.double(data[[name]])
    look <- look_at_values_cpp(value, sorted, index$index)
    c(
      all_zero(look$zero_series, index$names), constant_run(look),
      if (measures[[name]]$kind == "counter" && look$falls > 0) {
        sprintf("the counter falls %s", count_of(look$falls, "time"))
      },
      if (measures[[name]]$kind == "flow" && look$negatives > 0) {
        below_zero(look$negatives)
      }
    )
  })
  new_rows(
    measure = rep(names(measures), lengths(found)),
    what = as.character(unlist(found))
  )
}

below_zero <- function(count) {
  glue("{count_of(count, 'value is', 'values are')} below zero in a flow")
}

all_zero <- function(series, names) {
  if (length(series) == 0) {
    return(NULL)
  }
  if (length(names) == 0) {
    return("every value is 0")
  }
  said <- do.call(
    paste,
    c(
      unname(lapply(vctrs::vec_slice(names, series), as.character)), sep = " / "
    )
  )
  sprintf("every value of %s is 0", in_words(said, 6))
}

# Numbers that often stand for a missing value: a row of nines.
likely_codes <- c(-9, -99, -999, -9999, -99999, 999, 9999, 99999, 999999)

# What looks like codes for missing values in figures: a lowest or highest value
# that is a row of nines or stands at least three times, far from all else.
# list(code, count). `extremes(above, below)` gives the ends of the figures
# between two bounds, as extremes_cpp() does; behind a code there may be
# another.
odd_codes <- function(extremes) {
  bounds <- c(-Inf, Inf)
  found <- list(code = numeric(), count = numeric())
  repeat {
    seen <- extremes(bounds[[1]], bounds[[2]])
    ends <- c(seen$low, seen$high)
    counts <- c(seen$at_low, seen$at_high)
    likely <- may_be_code(ends, counts)
    others <- ifelse(likely, c(seen$next_low, seen$next_high), ends)
    odd <- which(likely & ends != 0 & is_far_off(ends, stats::na.omit(others)))
    if (length(odd) == 0) {
      return(found)
    }
    found$code <- c(found$code, ends[odd])
    found$count <- c(found$count, counts[odd])
    bounds[odd] <- ends[odd]
  }
}

odd_codes_in <- function(value) {
  odd_codes(function(above, below) extremes_cpp(value, above, below))
}

may_be_code <- function(ends, counts) counts >= 3 | ends %in% likely_codes

# Far below is easily told where all else is above zero.
is_far_off <- function(code, others) {
  reach <- range(others, 0)
  width <- diff(reach)
  far <- ifelse(
    code > 0, ifelse(code %in% likely_codes, 2, 10),
    if (reach[[1]] < 0) 2 else 0.1
  )
  away <- pmax(reach[[1]] - code, code - reach[[2]])
  width > 0 & away > far * width
}

codes_note <- function(name, found) {
  code <- format_each(found$code)
  glue(
    "Look at {rep(name, length(code))}: in",
    "{vapply(found$count, count_of, '', noun = 'row')} it is {code}, far from",
    "all else; if that is a code for a missing value, say so: `missing` is",
    "\"{code}\"."
  )
}

# A run of at least 30 alike, and ten times as long as runs mostly are, looks
# like an instrument that stands still.
constant_run <- function(look) {
  if (look$longest >= 30 && look$longest >= 10 * look$mean_run) {
    sprintf(
      "%s stands %s in a row", format_plain(look$longest_value),
      count_of(look$longest, "time")
    )
  }
}

format_plain <- function(x) plain_format(x, scientific = FALSE, digits = 15)

format_each <- function(x) vapply(x, format_plain, "")
