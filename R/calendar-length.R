# Lengths of time in words ("month", "15 minutes", "1 year") or as ISO 8601
# durations ("P1M", "PT15M").

# The seconds of one unit on the clock; months, quarters and years have no fixed
# length, so theirs is the mean one and serves to tell a shorter length from a
# longer one.
unit_seconds <- c(
  second = 1, minute = 60, hour = 3600, day = 86400, week = 604800,
  month = 2629746, quarter = 7889238, year = 31556952
)

# list(count, unit), or NULL where the text is no length of time. Months that
# make quarters or years become these.
parse_length <- function(text) {
  if (!rlang::is_string(text)) {
    return(NULL)
  }
  length <- parse_iso_length(trimws(text)) %||% parse_words_length(trimws(text))
  if (
    is.null(length) || is.na(length$unit) ||
      !length$unit %in% names(unit_seconds) || length$count < 1
  ) {
    return(NULL)
  }
  whole_years(length)
}

# Three months are a quarter, and as many as make whole years are years.
whole_years <- function(length) {
  if (length$unit == "month" && length$count %% 12 == 0) {
    return(list(count = length$count %/% 12, unit = "year"))
  }
  if (length$unit == "month" && length$count == 3) {
    list(count = 1L, unit = "quarter")
  } else {
    length
  }
}

# The lengths that only periods have: "third", "5 working days".
parse_special_length <- function(text) {
  if (!rlang::is_string(text)) {
    return(NULL)
  }
  part <- regmatches(
    text,
    regexec(
      "^(?:([0-9]{1,4})\\s+)?(third|working day)s?(?: of (?:a )?month)?$",
      trimws(text), ignore.case = TRUE
    )
  )[[1]]
  count <- if (length(part) > 0) if (nzchar(part[[2]])) {
    as.integer(part[[2]])
  } else {
    1L
  }
  if (!is.null(count) && count > 0) {
    list(count = count, unit = tolower(part[[3]]))
  }
}

unit_months <- c(month = 1L, quarter = 3L, year = 12L)

# "P1M", "PT15M"
parse_iso_length <- function(text) {
  part <- regmatches(text, regexec("^P(T?)([0-9]{1,6})([SMHDWY])$", text))[[1]]
  if (length(part) > 0) {
    of_day <- c(D = "day", W = "week", M = "month", Y = "year")
    of_time <- c(S = "second", M = "minute", H = "hour")
    list(count = as.integer(part[[3]]), unit = unname((if (nzchar(part[[2]])) {
      of_time
    } else {
      of_day
    })[part[[4]]]))
  }
}

# "month", "15 minutes"
parse_words_length <- function(text) {
  part <- regmatches(
    text, regexec("^(?:([0-9]{1,6})\\s+)?([A-Za-z]+?)s?$", text, perl = TRUE)
  )[[1]]
  if (length(part) > 0) {
    list(
      count = if (nzchar(part[[2]])) as.integer(part[[2]]) else 1L,
      unit = tolower(part[[3]])
    )
  }
}

length_seconds <- function(length) {
  length$count * unit_seconds[[length$unit]]
}

length_in_words <- function(length) {
  if (length$count == 1) {
    length$unit
  } else {
    paste0(length$count, " ", length$unit, "s")
  }
}
