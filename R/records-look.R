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
    look <- look_at_values_cpp(
      value, sorted, index$index, c(likely_codes, repeated_end(value))
    )
    c(
      all_zero(look$zero_series, index$names), odd_code(
        look$codes, look$values
      ), constant_run(look),
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
  sprintf(
    "%s below zero in a flow", count_of(count, "value is", "values are")
  )
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

# A lowest or highest value that stands several times, as a code would.
repeated_end <- function(value) {
  ends <- unique(range(value[is.finite(value)], 0))
  times <- vapply(ends, function(end) sum(value == end, na.rm = TRUE), 0)
  setdiff(ends[times >= 3 & ends != 0], likely_codes)
}

# The first of them that is far away from all else.
odd_code <- function(codes, values) {
  reach <- codes$highest - codes$lowest
  outside <- ifelse(
    codes$code < 0, codes$code < codes$lowest - reach / 10,
    codes$code > codes$highest + reach * 2
  )
  odd <- codes[codes$count > 0 & codes$count < values & outside, ]
  if (nrow(odd) == 0) {
    return(NULL)
  }
  sprintf(
    "%s %s, far from all else; if that is a code, say so: `missing` is \"%s\"",
    count_of(odd$count[[1]], "value is", "values are"),
    format_plain(odd$code[[1]]), format_plain(odd$code[[1]])
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
