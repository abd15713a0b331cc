# A date in several columns: put together as one text, which is then read as any
# other.

# The part that a column can be, and the names by which it is known where none
# is given.
date_parts <- c(
  "date", "time", "hour", "year", "quarter", "month", "day", "day_of_year",
  "week", "weekday"
)
part_sets <- list(
  c("date", "time"), c("date", "hour"), c("year", "month"),
  c("year", "month", "day"), c("year", "day_of_year"), c("year", "week"),
  c("year", "week", "weekday"), c("year", "quarter"),
  c("year", "month", "day", "hour"), c("year", "month", "day", "time"),
  c("year", "day_of_year", "hour")
)

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
  sorted <- lapply(part_sets, sort)
  if (!all(known) || !list(sort(unname(part))) %in% sorted) {
    part <- ifelse(known, part, "an unknown part")
    sets <- vapply(part_sets, paste, "", collapse = " + ")
    abort_backfill(
      "argument",
      "`when` names {in_words(paste0(quoted(when), ' (as ', part, ')'))}, which",
      "together make no date.",
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
  parts <- vctrs::new_data_frame(lapply(columns, part_text))
  distinct <- as.list(vctrs::vec_unique(parts))
  text <- compose_parts(distinct)
  blank <- Reduce(
    `&`, lapply(distinct, function(part) is.na(part) | part == "")
  )
  text[blank] <- NA
  text[as.integer(vctrs::vec_group_id(parts))]
}

part_text <- function(x) {
  if (inherits(x, "POSIXct")) {
    # Workbooks keep a time of day as one of a day in 1899.
    whole <- as.numeric(x) %% 86400 == 0
    return(ifelse(is.na(x), NA, if (all(whole, na.rm = TRUE)) {
      format(x, "%Y-%m-%d")
    } else {
      format(x, "%H:%M:%S")
    }))
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
  if (is.null(clock)) date else trimws(paste(date, clock))
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
