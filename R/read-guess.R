# Guesses about columns: which hold dates, which figures, which tell series
# apart, and of what kind a measure is.

# A sample of texts is enough to guess by.
sample_of <- function(x, most = 2000) {
  known <- x[!is.na(x)]
  if (length(known) <= most) {
    known
  } else {
    known[unique(round(seq(1, length(known), length.out = most)))]
  }
}

# The share of texts that are dates.
share_of_dates <- function(x) {
  if (inherits(x, "Date") || inherits(x, "POSIXct")) {
    return(1)
  }
  text <- unique(as.character(sample_of(x)))
  if (length(text) == 0 || is.logical(x)) {
    return(0)
  }
  mean(rowSums(read_dates_cpp(text, 1969L, 1L)$outcome == 0L) > 0)
}

# list(columns, when, reason): one column that holds dates, or several that hold
# the parts of one.
guess_when <- function(raw) {
  data <- raw$data
  facts <- facts_of_dates(data)
  found <- date_beside_time(data, facts) %||% whole_date(data, facts) %||%
    date_in_parts(data, facts) %||% single_date(data, facts)
  if (!is.null(found)) {
    return(with_offset(found, data))
  }
  abort_backfill(
    "when", "No column of {basename(raw$sources$source[[1]])} holds dates.",
    i = "Its columns are {in_words(quoted(names(data)))}.",
    ">" = "If the header is wrong, say how many lines stand above it: `skip`."
  )
}

# Times beside a column of their clock's distance from UTC, which they do not
# have themselves.
with_offset <- function(found, data) {
  of_utc <- "^((UTC|GMT)?[-+][0-9]{1,2}(:?[0-5][0-9])?|Z|UTC|GMT)$"
  holds_offsets <- vapply(data, function(x) {
    text <- sample_of(x)
    text <- text[!is.na(text) & nzchar(text)]
    is.character(x) && length(text) > 0 && all(grepl(of_utc, text))
  }, NA)
  offset <- setdiff(names(data)[holds_offsets], found$columns)
  time <- utils::head(as.character(data[[rev(found$columns)[[1]]]]), 20)
  time <- time[!is.na(time)]
  bare <- any(grepl(":", time)) && !any(grepl("Z$|:[0-9.]+[-+][0-9:]+$", time))
  if (length(offset) == 0 || !bare) {
    return(found)
  }
  when <- found$when
  if (is.null(names(when))) when <- c(date = unname(when))
  list(
    columns = c(found$columns, offset[[1]]),
    when = c(when, offset = offset[[1]]),
    reason = "times, and how far their clock was ahead of UTC"
  )
}

# Of each column the `share` of dates in it, which `part` of a date its name
# says, whether it is `named` as a date and `numeric`; and which of them may
# hold a `whole` date.
facts_of_dates <- function(data) {
  numeric <- vapply(data, is.numeric, NA)
  share <- vapply(data, share_of_dates, 0)
  # Of plain numbers a name must say that they are dates.
  named <- grepl(
    "date|time|day|month|year|week|quarter|period|when|stamp", names(data),
    ignore.case = TRUE
  )
  counted <- vapply(data, holds_counted_dates, NA)
  share[numeric & !named] <- 0
  share[numeric & named & counted] <- 1
  # Where nothing else is a date, numbers as large as seconds since 1970 are.
  if (!any(share >= 0.8)) {
    share[counted & vapply(data, in_seconds, NA)] <- 1
  }
  part <- tolower(gsub("[^A-Za-z]+", "_", names(data)))
  part[part == "hr"] <- "hour"
  part[part == "doy"] <- "day_of_year"
  is_part <- part %in% c("year", "month", "day", "week", "hour", "quarter")
  list(
    share = share, part = part, named = named, numeric = numeric,
    whole = which(share >= 0.8 & !(numeric & is_part))
  )
}

holds_counted_dates <- function(x) {
  is.numeric(x) && !is.null(read_counted(as.numeric(sample_of(x)), NULL))
}

in_seconds <- function(x) {
  if (!is.numeric(x) || length(x) < 3 || !all(is.finite(x))) {
    return(FALSE)
  }
  min(x) > 1e9 && all(x == floor(x)) && max(x) > min(x)
}

date_beside_time <- function(data, facts) {
  whole <- c(facts$whole, 0)[[1]]
  clock <- which(
    facts$part %in% c("hour", "time") & seq_along(data) != whole &
      (facts$numeric | facts$share < 0.8)
  )
  if (whole == 0 || length(clock) == 0) {
    return(NULL)
  }
  columns <- names(data)[c(whole, clock[[1]])]
  timed <- grepl(":", utils::head(as.character(data[[whole]]), 20))
  if (columns[[1]] != columns[[2]] && !any(timed)) {
    list(
      columns = columns,
      when = stats::setNames(columns, c("date", facts$part[[clock[[1]]]])),
      reason = "date and time stand in two columns"
    )
  }
}

whole_date <- function(data, facts) {
  whole <- facts$whole
  if (length(whole) > 0) {
    best <- whole[order(-facts$share[whole], !facts$named[whole])][[1]]
    list(
      columns = names(data)[[best]], when = names(data)[[best]],
      reason = dates_in_words(facts$share[[best]])
    )
  }
}

dates_in_words <- function(share) {
  if (share == 1) {
    "every value is a date"
  } else {
    sprintf("%d%% of its values are dates", floor(share * 100))
  }
}

date_in_parts <- function(data, facts) {
  for (set in rev(part_sets)) {
    if (all(set %in% facts$part)) {
      columns <- names(data)[match(set, facts$part)]
      return(list(
        columns = columns, when = stats::setNames(columns, set),
        reason = "together they make a date"
      ))
    }
  }
}

single_date <- function(data, facts) {
  single <- which(facts$share >= 0.8)
  if (length(single) > 0) {
    name <- names(data)[[single[[1]]]]
    list(columns = name, when = name, reason = "its texts are dates")
  }
}

# Something by which rows of one moment are known, and by which they can be put
# in order.
key_of_moments <- function(data, when) {
  columns <- data[when$columns]
  text <- if (length(columns) == 1) {
    columns[[1]]
  } else {
    compose_when(stats::setNames(columns, names(when$when)))
  }
  if (is.character(text)) {
    read <- read_dates_cpp(text, 1969L, 1L)
    second <- read$second[, which.max(colSums(read$outcome == 0L))]
    return(list(key = ifelse(is.na(second), text, second), order = second))
  }
  list(key = as.numeric(text), order = as.numeric(text))
}

holds_figures <- function(x) {
  if (is.numeric(x)) {
    return(TRUE)
  }
  if (!is.character(x)) {
    return(FALSE)
  }
  text <- sample_of(x)
  text <- text[!trimws(text) %in% missing_marks]
  length(text) > 0 && mean(
    read_numbers_cpp(text, guess_mark(text))$outcome == 0L
  ) > 0.8
}

guess_mark <- function(x) {
  if (!is.character(x)) {
    return(".")
  }
  text <- sample_of(x)
  fits <- vapply(
    c(".", ","), function(mark) sum(read_numbers_cpp(text, mark)$outcome == 0L),
    0
  )
  names(fits)[[which.max(fits)]]
}

# Columns are added, texts first, until no two rows are for the same series and
# moment, or none helps any more.
guess_series <- function(data, texts, figures, moments) {
  few <- function(name) {
    length(unique(data[[name]])) <= max(
      50, length(data[[name]]) / 10
    )
  }
  codes <- figures[vapply(figures, function(name) {
    x <- data[[name]]
    is.integer(x) && few(name) && grepl(
      "id$|code|no$|nr$|number|hall|gate|store|station|site|line", name,
      ignore.case = TRUE
    )
  }, NA)]
  chosen <- character()
  reason <- character()
  repeats <- function(columns) {
    sum(
      vctrs::vec_duplicate_detect(
        vctrs::new_data_frame(c(list(.moment = moments$key), data[columns]))
      )
    )
  }
  left <- repeats(chosen)
  for (name in c(Filter(few, texts), codes)) {
    if (left == 0) break
    then <- repeats(c(chosen, name))
    if (then < left) {
      chosen <- c(chosen, name)
      reason <- c(reason, sprintf("tells apart rows of the same date (%s)",
                                  count_of(
                                    length(unique(data[[name]])), "value"
                                  )))
      left <- then
    }
  }
  list(series = chosen, reason = reason)
}
