# Lengths of time in words ("month", "15 minutes", "1 year") or as ISO 8601 durations ("P1M", "PT15M").

# The seconds of one unit on the clock; months, quarters and years have no fixed length, so theirs is the mean one and
# serves to tell a shorter length from a longer one.
unit_seconds <- c(
  second = 1, minute = 60, hour = 3600, day = 86400, week = 604800,
  month = 2629746, quarter = 7889238, year = 31556952
)

# list(count, unit), or NULL where the text is no length of time.
parse_length <- function(text) {
  if (!rlang::is_string(text)) {
    return(NULL)
  }
  text <- trimws(text)
  iso <- regmatches(text, regexec("^P(T?)([0-9]{1,6})([SMHDWY])$", text))[[1]]
  if (length(iso) > 0) {
    of_day <- c(D = "day", W = "week", M = "month", Y = "year")
    of_time <- c(S = "second", M = "minute", H = "hour")
    unit <- unname((if (nzchar(iso[[2]])) of_time else of_day)[iso[[4]]])
    count <- as.integer(iso[[3]])
  } else {
    words <- regmatches(text, regexec("^(?:([0-9]{1,6})\\s+)?([A-Za-z]+?)s?$", text, perl = TRUE))[[1]]
    unit <- if (length(words) > 0) tolower(words[[3]]) else NA
    count <- if (length(words) > 0 && nzchar(words[[2]])) as.integer(words[[2]]) else 1L
  }
  if (is.na(unit) || !unit %in% names(unit_seconds) || count < 1) {
    return(NULL)
  }
  if (unit == "month" && count %% 12 == 0) {
    list(count = count %/% 12L, unit = "year")
  } else if (unit == "month" && count %% 3 == 0) {
    list(count = count %/% 3L, unit = "quarter")
  } else {
    list(count = count, unit = unit)
  }
}

length_seconds <- function(length) {
  length$count * unit_seconds[[length$unit]]
}

length_in_words <- function(length) {
  if (length$count == 1) length$unit else paste0(length$count, " ", length$unit, "s")
}
