# A date in several columns: put together as one text, which is then read as any
# other.

# The part that a column can be, and the names by which it is known where none
# is given.
date_parts <- c(
  "date", "time", "hour", "year", "quarter", "month", "day", "day_of_year",
  "week", "weekday", "offset", "zone"
)
part_sets <- list(
  c("date", "time"), c("date", "hour"), c("year", "month"),
  c("year", "month", "day"), c("year", "day_of_year"), c("year", "week"),
  c("year", "week", "weekday"), c("year", "quarter"),
  c("year", "month", "day", "hour"), c("year", "month", "day", "time"),
  c("year", "day_of_year", "hour")
)

# Where a time stands, its zone or how far its clock was ahead of UTC may stand
# as well.
with_offsets <- c(list("date"), Filter(
  function(set) any(c("time", "hour") %in% set), part_sets
))

# `when` as a named vector, part = column. Names that are not given are taken
# from the columns' own.
check_parts <- function(when) {
  part <- rlang::names2(when)
  own <- gsub("[^a-z]+", "_", tolower(when))
  part[part == ""] <- own[part == ""]
  part <- gsub(" ", "_", part)
  # Without a month a day is a date.
  if (!any(c("month", "date") %in% part)) {
    part[part == "day" & rlang::names2(when) == ""] <- "date"
  }
  known <- part %in% date_parts
  clock <- part[part %in% c("offset", "zone")]
  sets <- if (length(clock) > 0) with_offsets else part_sets
  # One of them alone stands beside a set.
  beside <- sort(unname(if (length(clock) == 1) setdiff(part, clock) else part))
  if (!all(known) || !list(beside) %in% lapply(sets, sort)) {
    part <- ifelse(known, part, "an unknown part")
    sets <- vapply(sets, paste, "", collapse = " + ")
    given <- in_words(paste0(quoted(when), " (as ", part, ")"))
    abort_backfill(
      "argument", "`when` names {given}, which together make no date.",
      i = "The sets of parts that make a date are",
      "{in_words(sets, last = ' or ')}.",
      ">" = "Say what each is, as part=column: `when` is",
      "{part_sets[[3]][[1]]}={when[[1]]} and so on."
    )
  }
  stats::setNames(when, part)
}

# One text for each row. Each combination of values is put together once.
compose_when <- function(columns) {
  parts <- vctrs::new_data_frame(Map(part_text, columns, names(columns)))
  distinct <- as.list(vctrs::vec_unique(parts))
  text <- compose_parts(distinct)
  blank <- Reduce(
    `&`, lapply(distinct, function(part) is.na(part) | part == "")
  )
  text[blank] <- NA
  text[as.integer(vctrs::vec_group_id(parts))]
}

part_text <- function(x, part) {
  if (inherits(x, "POSIXct")) {
    whole <- all(as.numeric(x) %% 86400 == 0, na.rm = TRUE)
    # Workbooks keep a time of day as one of a day in 1899.
    form <- if (whole) "%Y-%m-%d" else
      switch(part, date = "%Y-%m-%d %H:%M:%OS6", "%H:%M:%S")
    return(ifelse(is.na(x), NA, format(x, form)))
  }
  if (is.numeric(x)) {
    ifelse(is.na(x), NA, sprintf("%.15g", x))
  } else {
    trimws(as.character(x))
  }
}

# Text of ISO 8601 where the parts are numbers; else the parts side by side, for
# the reader of written dates.
compose_parts <- function(parts) {
  date <- parts[["date"]] %||% date_of_parts(parts)
  date[is.na(date)] <- ""
  hour <- parts[["hour"]]
  clock <- parts[["time"]] %||% if (!is.null(hour)) ifelse(
    grepl(":", hour), hour, paste0(padded(sub("[.]0*$", "", hour)), ":00")
  )
  text <- if (is.null(clock)) date else trimws(paste(date, clock))
  offset <- parts[["offset"]]
  if (is.null(offset)) text else paste0(text, offset_text(offset))
}

# "+01:00" of hours such as 1, "+1", "-0130", "UTC+1" or "-3.5"; other text,
# which makes no time, as it is.
offset_text <- function(offset) {
  plain <- sub("^(UTC|GMT)(?=.)", "", offset, perl = TRUE)
  plain[plain %in% c("UTC", "GMT", "Z", "z")] <- "0"
  hours <- suppressWarnings(as.numeric(plain))
  digits <- grepl("^[-+]?[0-9]{3,4}$", plain)
  hours[digits] <- (abs(hours) %/% 100 + abs(hours) %% 100 / 60)[digits] *
    sign(hours)[digits]
  minutes <- round(abs(hours) * 60)
  ifelse(is.na(hours), offset, sprintf(
    "%s%02d:%02d", ifelse(hours < 0, "-", "+"), as.integer(minutes %/% 60),
    as.integer(minutes %% 60)
  ))
}

# "2031-04-09", "2031-Q2", "2031-099" or "2031-W15-3" of what is given.
date_of_parts <- function(parts) {
  of_year <- if (!is.null(parts[["quarter"]])) {
    paste0("-Q", sub("^[Qq]", "", parts[["quarter"]]))
  } else if (!is.null(parts[["day_of_year"]])) {
    paste0("-", padded(parts[["day_of_year"]], 3))
  } else if (!is.null(parts[["week"]])) {
    paste0("-W", padded(sub("^[Ww]", "", parts[["week"]])))
  } else {
    paste0("-", padded(parts[["month"]]))
  }
  paste0(
    padded(parts[["year"]], 4), of_year,
    if (!is.null(parts[["day"]])) paste0("-", padded(parts[["day"]])),
    if (!is.null(parts[["weekday"]])) {
      paste0("-", weekday_of(parts[["weekday"]]))
    }
  )
}

padded <- function(x, width = 2) {
  number <- grepl("^[0-9]+$", x)
  x[number] <- plain_formatC(
    as.integer(substr(x[number], 1, 9)), width = width, flag = "0",
    format = "d"
  )
  x[is.na(x)] <- ""
  x
}

# 1 to 7 from Monday, or its name.
weekday_of <- function(x) {
  named <- pmatch(tolower(x), tolower(weekday_names), duplicates.ok = TRUE)
  ifelse(is.na(named), x, named)
}
