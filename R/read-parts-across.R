# Dates of which a part stands across: a row for each year and a column for each
# month, or a row for each day and a column for each hour.

# What stands for the parts beside, to see whether a header is the part across.
part_examples <- c(
  date = "2001-01-01", time = "00:00", hour = "0", year = "2001",
  quarter = "1", month = "1", day = "1", day_of_year = "1", week = "1",
  weekday = "1"
)

# Which headers are the part `across` of a date whose other parts are `beside`.
headers_of_part <- function(header, across, beside) {
  others <- lapply(part_examples[beside], rep, length(header))
  text <- compose_when(c(
    as.list(others), stats::setNames(list(header), across)
  ))
  known <- rowSums(read_dates_cpp(text, 1969L, 1L)$outcome == 0L) > 0
  # 24 is the last hour where hours are named by their ends.
  known | across == "hour" & header == "24"
}

# list(name, when, cells): what the new column is called, the columns of the
# date then, and which headers are dates, or parts of them.
dates_of_header <- function(header, when) {
  if (length(when) == 1) {
    readable <- rowSums(
      read_dates_cpp(as.character(header), 1969L, 1L)$outcome == 0L
    ) > 0
    return(list(name = unname(when), when = when, cells = readable))
  }
  when <- check_parts(when)
  across <- which(!when %in% header)
  if (length(across) != 1) {
    abort_backfill(
      "argument", "`when` names {in_words(quoted(when))}, of which",
      "{if (length(across) == 0) 'all' else 'only some'} are columns in the",
      "file.",
      i = "With `layout` \"dates across\" one part of the date is given a new",
      "name, and stands in the headers."
    )
  }
  part <- names(when)[[across]]
  cells <- headers_of_part(header, part, names(when)[-across]) &
    !header %in% when
  list(name = when[[across]], when = when, cells = cells)
}

# list(when, cells) where the headers of a table are months, quarters or hours
# beside a column of years or days; else NULL.
part_across <- function(raw) {
  header <- raw$header[[length(raw$header)]]
  beside <- c(year = column_of_years(raw), date = column_of_days(raw))
  tried <- list(
    c("year", "month", 6), c("year", "quarter", 3), c("date", "hour", 12)
  )
  for (one in tried) {
    if (!one[[1]] %in% names(beside)) next
    own <- beside[[one[[1]]]]
    cells <- headers_of_part(header, one[[2]], one[[1]]) & header != own
    # The headers of hours are numbers, and those of quarters say so.
    cells <- cells & (one[[2]] != "quarter" | grepl("^[Qq][1-4]$", header))
    if (sum(cells) >= as.numeric(one[[3]])) {
      return(list(
        when = stats::setNames(c(own, one[[2]]), one[1:2]), cells = cells
      ))
    }
  }
}

# The other way round: years across beside a column of months, quarters or
# weeks, or days across beside one of hours; not where the user has said that
# whole dates stand across, or that the column is a series.
part_beside <- function(raw, known) {
  header <- raw$header[[length(raw$header)]]
  years <- grepl("^(1[5-9]|2[01])[0-9]{2}$", header)
  dated <- is_date_text(header)
  across <- if (identical(years, dated)) "year" else "date"
  if (sum(dated) < 2 || across %in% header || length(known$when) == 1) {
    return(NULL)
  }
  tried <- if (across == "year") c("quarter", "month", "week") else "hour"
  for (part in tried) {
    beside <- setdiff(names(raw$data)[!dated], known$series)
    holds <- vapply(beside, function(name) {
      holds_part(raw$data[[name]], name, part, across)
    }, NA)
    if (any(holds)) {
      own <- names(which(holds))[[1]]
      return(list(
        when = stats::setNames(c(own, across), c(part, across)), cells = dated
      ))
    }
  }
}

# Whether a column holds a part of dates, but for a line or two of totals.
# Numbers are what the column is called, other texts what they say.
holds_part <- function(column, name, part, across) {
  text <- unique(as.character(sample_of(column)))
  if (length(text) < 3) {
    return(FALSE)
  }
  known <- headers_of_part(text, part, across)
  says <- if (part == "quarter") grepl("^[Qq][1-4]$", text) else
    grepl(if (part == "hour") ":" else "^[[:alpha:]]+", text)
  called <- grepl(part, name, ignore.case = TRUE)
  sum(known) >= 3 && mean(known) >= 2 / 3 && (called || all(says[known]))
}

column_of_years <- function(raw) {
  years <- vapply(raw$data, function(column) {
    number <- read_number(as.character(column))$value
    known <- number[!is.na(number)]
    length(known) > 1 && all(known == floor(known)) &&
      all(known >= 1500 & known <= 2200)
  }, NA)
  named <- names(raw$data)[years]
  if (length(named) > 0) named[[1]]
}

column_of_days <- function(raw) {
  dated <- vapply(raw$data, share_of_dates, 0) >= 0.8 &
    !vapply(raw$data, holds_figures, NA)
  if (any(dated)) names(raw$data)[dated][[1]]
}
