# Objects of base R that are no data frames: time series and matrices, as a data
# frame whose column `when` has the dates.

frame_of_object <- function(x, when, measures) {
  if (is.data.frame(x)) {
    return(x)
  }
  if (stats::is.ts(x)) {
    return(framed(as.matrix(x), dates_of_ts(x), when, measures))
  }
  if (is.matrix(x) && !is.null(rownames(x))) {
    return(framed(x, rownames(x), when, measures))
  }
  abort_backfill(
    "input", "`x` is {value_in_words(x)}; a data frame is expected.",
    i = "A time series of base R will do, too, or a matrix whose row names are",
    "dates."
  )
}

framed <- function(x, dates, when, measures) {
  names <- colnames(x) %||% names(measures)
  if (!rlang::is_string(when) || length(names) != ncol(x)) {
    abort_backfill(
      "argument",
      "`x` has {count_of(ncol(x), 'column')} without a name, and `measures`",
      "names {length(measures)}.",
      i = "`when` must name the column of dates that is made."
    )
  }
  check_untaken(when, names, "when")
  data <- lapply(seq_len(ncol(x)), function(i) unname(x[, i]))
  vctrs::new_data_frame(stats::setNames(
    c(list(unname(dates)), data), c(when, names)
  ))
}

# "2031-04", "2031-Q2" or "2031" of each of its times.
dates_of_ts <- function(x) {
  per_year <- stats::frequency(x)
  if (!per_year %in% c(1, 4, 12)) {
    abort_backfill(
      "when",
      "The time series has {plain_format(per_year)} a year, which have no",
      "dates of their own.",
      i = "Those of months, quarters and years have.",
      ">" = "Give a data frame with a column of dates."
    )
  }
  place <- round(as.numeric(stats::time(x)) * per_year)
  year <- place %/% per_year
  part <- place %% per_year + 1
  switch(
    as.character(per_year), "1" = sprintf("%04d", year),
    "4" = sprintf("%04d-Q%d", year, as.integer(part)),
    sprintf("%04d-%02d", year, as.integer(part))
  )
}
