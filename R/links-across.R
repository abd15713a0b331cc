# The figures of several series side by side: what links are looked for in.

# list(lines, values, start, number, calendar, ...): the names of the series; a
# matrix with a row for each period (or day) and a column for each series; the
# days that the periods start with (or the days themselves) and their numbers;
# the calendar, NULL where the days are of none. `last` are the rows in which
# the last figure of each series came, NULL where none is carried further.
# `already` says whether the figures are changes, `left` counts returns that
# reach over more than a period.
new_across <- function(
  lines, values, start, number, calendar, sources, already = FALSE, left = 0L,
  measures = lines, unit = NULL, last = NULL
) {
  list(
    lines = lines, values = values, start = start, number = number,
    calendar = calendar, sources = sources, already = already, left = left,
    measures = measures, unit = unit, last = last
  )
}

# With the figures of a target alone that came: what is carried on after its
# last one is not an outcome.
without_carried_on <- function(figures, targets) {
  for (line in match(targets, figures$lines)) {
    after <- seq_len(nrow(figures$values)) > figures$last[line]
    figures$values[which(after), line] <- NA
  }
  figures
}

# Of a periods table the column `of`, of series that were carried to common days
# their values.
figures_across <- function(x, of) {
  figures <- if (inherits(x, "backfill_aligned")) {
    aligned_across(x, of)
  } else {
    periods_across(check_periods(x), of)
  }
  count <- length(figures$lines)
  if (count < 2) {
    abort_backfill(
      "input", "The table has {count_of(count, 'series', 'series')}.",
      i = "It takes two series or more."
    )
  }
  figures
}

periods_across <- function(x, of) {
  along <- along_open(x, of, together = TRUE)
  value <- along$value
  left <- 0L
  if (identical(facts(x)$added[[of]]$verb, "returns")) {
    long <- spans_a_hole(x, along)
    left <- sum(long & !is.na(value))
    value[long] <- NA
  }
  ends <- if (length(along$number) > 0) range(along$number) else c(1, 0)
  number <- seq(ends[[1]], length.out = ends[[2]] - ends[[1]] + 1)
  rows <- first_rows(along)
  line <- rows$line
  values <- if (all(along$layout$lengths %in% length(number)) &&
                  length(along$layout) > 0) {
    # Every series has every period.
    matrix(value, length(number))
  } else {
    put <- rep(NA_real_, length(number) * max(line, 0L))
    put[(line - 1) * length(number) + along$number - ends[[1]] + 1] <- value
    matrix(put, length(number))
  }
  if (!is.null(along$periods)) number <- along$periods[number]
  keys <- keys_at(x, along, rows$first)
  new_across(
    names_of_lines(keys), values, period_start(number, along$calendar),
    number, along$calendar, facts(x)$sources,
    is_change(x, of, along, rows$first), left, unique(keys$measure),
    facts(x)$added[[of]]$unit
  )
}

# Whether the period expected before a row has no whole value, so that its
# return is one over a longer span.
spans_a_hole <- function(x, along) {
  price <- along_open(x, "value")
  before <- find_rows_cpp(
    price$series, price$number, price$value, 1, back = TRUE, max_age = 0
  )
  long <- rep(TRUE, nrow(x))
  long[price$order] <- is.na(price$value[before])
  long[along$order]
}

# Carried series have a row for each of the days, one series after the other.
aligned_across <- function(x, of) {
  about <- facts(x)
  if (of != "value") {
    abort_backfill(
      "column", "`of` is \"{of}\", but carried series have a `value` alone.",
      ">" = "Say what is to be carried in align_as_of()."
    )
  }
  lines <- unique(x$series)
  days <- sort(unique(x$on))
  values <- matrix(NA_real_, length(days), length(lines))
  values[cbind(match(x$on, days), match(x$series, lines))] <- x$value
  calendar <- about$calendar
  number <- if (is.null(calendar)) {
    seq_along(days)
  } else {
    period_number(days, calendar)
  }
  new_across(
    lines, values, days, number, calendar, about$sources,
    already = !is.null(about$growth),
    last = vapply(lines, function(line) {
      own <- x$series == line & !is.na(x$value)
      newest <- own & x$reference %in% suppressWarnings(max(x$reference[own]))
      match(suppressWarnings(min(x$on[newest])), days, length(days))
    }, 0L)
  )
}

# The same, of changes from one row to the next.
changes_across <- function(figures) {
  last <- nrow(figures$values)
  figures$values <- figures$values[-1, , drop = FALSE] -
    figures$values[-last, , drop = FALSE]
  figures$start <- figures$start[-1]
  figures$number <- figures$number[-1]
  figures
}

# "2 quarters", or days of the table where these are of no calendar.
count_of_steps <- function(count, calendar) {
  if (is.null(calendar)) {
    return(count_of(count, "day of the table", "days of the table"))
  }
  count_of_periods(count, calendar)
}
