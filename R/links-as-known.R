#' Series of unlike frequency as they were known
#'
#' Carries every series to the days of one calendar, or to days that you name.
#' On each of them a series has the last value that was **known** by then, so
#' that nothing later leaks in: a monthly figure that was published on the 24th
#' of the next month is not there before.
#'
#' When a figure was known is told by the records, where they were read with
#' `known`; a period may then have several versions, of which the later one
#' counts from its own publication on. Else it is `delay` days after the period
#' has ended. Where neither is given the call is refused; a `delay` of 0 says on
#' purpose that figures were known as soon as their period had ended.
#'
#' Records that do not say when they were known are taken to name the first day
#' of their period, whose length is how often they come; one of the last four
#' days of a month names a period that ends with that month. Where this is not
#' so, roll the records up first.
#'
#' Growth is taken along the periods of each series before it is carried, since
#' a monthly series' growth over a year is not that of its copies by the day:
#' `growth` sets each period against the one that holds the day so long before
#' its end, each in the version known then.
#'
#' @param x Records that were read with `known`, a periods table, or a list of
#'   several, whose calendars may differ.
#' @param on The days: a length of period such as `"month"` or a [calendar()],
#'   for the last day of each of its periods; a `Date` vector; or the name of a
#'   series, for the last days of the periods in which it has a value.
#' @param delay Days from the end of a period to the day on which it was known:
#'   one number, or one for each series by its name. Refused for those of which
#'   the records tell.
#' @param max_age The most days since the end of its period that a value is
#'   carried.
#' @param growth A length of time such as `"1 year"`, to carry growth over it,
#'   in percent, instead of the values.
#' @param of Of periods the name of the column that is carried.
#' @return A tibble with a row for each series and day: `series` (its name),
#'   `on` (the day), `value`, `reference` (the first day of the period that it
#'   is for), `known` (the day since when it has been known), `age` (days from
#'   the end of that period to `on`), and `missing`: why there is no value, or
#'   `""`.
#' @section Errors: `backfill_error_input` for tables that are neither;
#'   `backfill_error_argument` where it is not said when figures were known, for
#'   days that are none, or a delay that names no series.
#' @seealso [as_known_on()] for the records of one day.
#' @concept as-of join
#' @concept vintages
#' @examples
#' ledger <- read_records(demo_file("ledger.csv"), when = "period",
#'   series = "item", known = "entered", measures = c(value = "level")
#' )
#' align_as_of(ledger, on = "month")
#' nights <- read_records(demo_file("inns.csv"), when = "month",
#'   series = "inn", measures = c(guest_nights = "flow")
#' )
#' align_as_of(
#'   list(ledger, roll_up(nights, every = "month")), on = "quarter",
#'   delay = c(Anchor = 10, Hearth = 10, Lantern = 10, Wherry = 10)
#' )
#' @export
align_as_of <- function(
  x, on, delay = NULL, max_age = Inf, growth = NULL, of = "value"
) {
  check_given()
  tables <- if (inherits(x, "data.frame")) list(x) else x
  check_alignable(tables)
  check_delay(delay)
  if (!identical(max_age, Inf)) {
    check_whole(max_age, "max_age", 0, 1e6, "days a value may be old")
  }
  over <- if (!is.null(growth)) check_growth(growth)
  dated <- put_dated(lapply(tables, dated_figures, of = of))
  lines <- dated$lines
  check_lines_apart(lines, delay)
  named <- rlang::is_string(on) && on %in% lines
  if (!are_days(on) && !named) {
    on <- as_calendar(on, argument = "on")
  }
  wait <- delay_of(lines, dated$told, delay)
  figures <- dated$figures
  figures$known <- figures$known + wait[figures$line]
  if (!is.null(over)) {
    check_growth_reaches(figures, over, lines)
    figures <- growth_as_known(figures, over)
  }
  known_figures <- figures[!is.na(figures$value), ]
  out <- as_known(
    figures, days_of_base(on, known_figures, lines), length(lines), max_age
  )
  new_result(
    new_rows(series = lines[out$line], out[-1]), "aligned",
    list(
      delay = delay, assumed = lines[!dated$told & wait == 0],
      max_age = max_age, growth = growth, lines = lines,
      calendar = if (is_calendar(on)) lay_calendar_over(on, range(out$on)),
      sources = unique(unlist(lapply(tables, sources_of)))
    )
  )
}

check_alignable <- function(tables) {
  fits <- is.list(tables) && length(tables) > 0 && all(vapply(
    tables, function(table) is_periods(table) || is_records(table), NA
  ))
  if (!fits) {
    abort_backfill(
      "input",
      "`x` must be records, a periods table, or a list of such tables."
    )
  }
}

check_delay <- function(delay) {
  fits <- is.null(delay) || are_numbers(delay) && all(delay >= 0) &&
    (length(delay) == 1 || rlang::is_named(delay))
  if (!fits) {
    abort_backfill(
      "argument", "`delay` is {value_in_words(delay)}.",
      i = "It must be a number of days, or one for each series by its name,",
      "such as c(cod = 3, ling = 10)."
    )
  }
}

check_lines_apart <- function(lines, delay) {
  twice <- unique(lines[duplicated(lines)])
  if (length(twice) > 0) {
    abort_backfill(
      "input", "Two tables have a series {in_words(quoted(twice))}.",
      ">" = "Rename one of them, or give it once."
    )
  }
  unknown <- setdiff(names(delay), lines)
  if (length(unknown) > 0) {
    abort_backfill(
      "argument", "`delay` names {in_words(unknown)}, which is not a series.",
      i = "The series are {in_words(lines, 8)}."
    )
  }
}

# The delay of each line, which must be said where the records do not tell.
delay_of <- function(lines, told, delay) {
  wait <- if (is.null(names(delay))) {
    rep(delay %||% NA_real_, length(lines))
  } else {
    unname(delay[match(lines, names(delay))])
  }
  stop_delay_of_told(if (is.null(names(delay))) {
    lines[all(told) & !is.null(delay)]
  } else {
    intersect(lines[told], names(delay))
  })
  wait[told] <- 0
  if (anyNA(wait)) {
    abort_backfill(
      "argument",
      "It is not said when figures of {in_words(lines[is.na(wait)], 4)} were",
      "known.",
      i = "A figure of a period is known only once the period has ended.",
      ">" = "Name the column with the day of publication when you read the",
      "records (`known`), or give a `delay` in days; a `delay` of 0 says that",
      "they were known at once."
    )
  }
  wait
}

stop_delay_of_told <- function(lines) {
  if (length(lines) > 0) {
    abort_backfill(
      "argument",
      "`delay` is given, but the records tell when figures of",
      "{in_words(lines, 4)} were known.",
      ">" = "Leave it out, or read the records without `known`."
    )
  }
}

are_days <- function(on) inherits(on, "Date") && length(on) > 0 && !anyNA(on)

# The days that values are carried to, in order: `on` itself, the last days of
# the periods of the line of that name, or those of a calendar.
days_of_base <- function(on, figures, lines) {
  if (are_days(on)) {
    return(sort(unique(floor(as.numeric(on)))))
  }
  if (is.character(on)) {
    return(sort(unique(figures$end[figures$line == match(on, lines)])))
  }
  if (nrow(figures) == 0) {
    abort_backfill("input", "No period has a whole value.")
  }
  ends <- .Date(range(figures$start, figures$known))
  calendar <- lay_calendar_over(on, ends)
  number <- period_number(ends, calendar)
  # The last period may not have ended.
  days <- days_since(last_day(seq(number[[1]], number[[2]]), calendar))
  days[days <= ends[[2]] | days == max(days)]
}

# list(line, on, value, reference, known, age, missing), a row for each line and
# day.
as_known <- function(figures, days, count, max_age) {
  order <- order(
    figures$line, figures$known, figures$start, method = "radix"
  )
  sorted <- vctrs::vec_slice(figures, order)
  row <- as.vector(as_of_cpp(
    sorted$line, sorted$start, sorted$known, sorted$value, days, count
  ))
  on <- rep(days, count)
  age <- on - sorted$end[row]
  old <- !is.na(row) & age > max_age
  row[old] <- NA
  missing <- ifelse(
    old, "too old", ifelse(is.na(row), "not known yet", "")
  )
  new_rows(
    line = rep(seq_len(count), each = length(days)), on = .Date(on),
    value = sorted$value[row], reference = .Date(sorted$start[row]),
    known = .Date(sorted$known[row]), age = as.integer(on - sorted$end[row]),
    missing = missing
  )
}
