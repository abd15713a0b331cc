#' Add growth
#'
#' How much each period changed since an earlier one of the same series: the
#' period before, or one that lies any number of periods or length of time back.
#' Several spans can be asked for at once, and each has a column. The base is
#' found by its period and not by its row, so a missing row never shifts it, and
#' it never comes from another series.
#'
#' With \eqn{b} the base of \eqn{x}, `as` gives
#' \tabular{lll}{ `"percent"` \tab \eqn{100\,(x - b) / b}{100 (x - b) /
#' b} \tab in percent, such as 3.2 \cr `"ratio"` \tab \eqn{x /
#' b} \tab \cr `"difference"` \tab \eqn{x -
#' b} \tab in the measure's unit \cr `"log"` \tab \eqn{\ln(x / b)}{ln(x /
#' b)} \tab \cr `"annualised"` \tab \eqn{100\,((x / b)^{1/y} - 1)}{100 ((x /
#' b)^(1/y) - 1)} \tab in percent a year; \eqn{y} are the years from base to
#' period: months by 12, else days by 365.2425 \cr `"points"` \tab \eqn{x - b}
#' \tab in percentage points, for measures in percent }
#'
#' The figure is `NA` where the table does not reach back to the base, where the
#' period or its base is partial or empty, and where a base of zero or less
#' makes nonsense of a percentage, a ratio or a logarithm. Printing the table
#' and [summary()][summary.backfill_periods] say how often each was the case. No
#' figure is ever infinite.
#'
#' @section Dates: Over a length of time that is not a whole number of periods
#'   the base is found by its date. Of days it is the same date of an earlier
#'   month or year, or where that month is shorter its last day (28 February for
#'   the 29th); of periods of the clock the same time on that date; of weeks,
#'   for a year, the 52nd before; of working days the last one on or before that
#'   date.
#'
#' @param x A periods table, from [roll_up()].
#' @param over How far back the base lies: a number of periods, or a length of
#'   time such as `"1 year"` or `"30 days"`; or several of them. A number counts
#'   only periods in which something is expected: before the Monday of a market
#'   comes its Friday. A length of time longer than a period does not.
#' @param as The form of the change, from the table in the details.
#' @param forward `TRUE` for growth still to come: from this period to the one
#'   that lies `over` later. The column is marked as a target, as are columns
#'   made of it, since it tells the future.
#' @param max_age Where the base itself has no whole value, such as a day on
#'   which a market is closed: how many periods before it, at most, a value may
#'   lie that takes its place (the latest does). By default none may.
#' @param of Name of the column to compute it of.
#' @param name Name of the new column, one for each `over`. By default the form
#'   and the span: `"growth_1_month"`, `"ratio_1_year"`, `"difference_2_days"`,
#'   `"log_growth_1_year"`, `"annual_growth_5_years"`, `"points_1_month"`; with
#'   `"_ahead"` after the form where it looks ahead.
#' @return The table with a column more for each `over`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table,
#'   `backfill_error_over` for a length that the periods have no rule for,
#'   `backfill_error_column` where `of` is missing or a name is taken,
#'   `backfill_error_argument`. Percent of a measure in percent is given with a
#'   warning of class `backfill_warning_use`.
#' @references Growth over the same period of the year before is the usual way
#'   to compare seasonal series; see for example Makridakis, S., Wheelwright, S.
#'   C. and Hyndman, R. J. (1998). *Forecasting: Methods and Applications*, 3rd
#'   ed., chapter 2. Wiley.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), when = "month", series = "inn",
#'   measures = c(guest_nights = "flow")
#' )
#' monthly <- add_growth(
#'   roll_up(nights, every = "month"), over = c("1 month", "1 year")
#' )
#' summary(add_growth(monthly, over = "1 year", as = "log"))
#' @export
add_growth <- function(
  x, over = 1, as = "percent", forward = FALSE, max_age = 0, of = "value",
  name = NULL
) {
  check_given()
  x <- check_periods(x)
  age <- age_in_periods(max_age, facts(x)$calendar)
  along <- along_counted(x, of)
  distances <- check_distances(over, along)
  check_names_of(name, distances)
  excluded <- growth_excludes(x, along, as, of)
  grown <- if (any(excluded)) {
    lapply(
      along[intersect(c("series", "number", "value", "opened"), names(along))],
      `[`, !excluded
    )
  } else {
    along
  }
  grown$calendar <- along$calendar
  for (i in seq_along(distances)) {
    column <- check_new_name(
      name[i] %||% growth_name(as, distances[[i]], forward), x
    )
    made <- grow(grown, distances[[i]], as, forward, age)
    value <- rep(NA_real_, length(excluded))
    value[!excluded] <- made$value
    note <- growth_note(
      of, as, distances[[i]], forward, made$withheld, sum(excluded)
    )
    if (of == "value") {
      note$unlike <- unlike_coverage(x, grown$order, made$base, made$value)
    }
    note$made <- list(
      over = over[[i]], as = as, ahead = forward, max_age = age
    )
    x <- add_column(x, column, value, along, note)
  }
  x
}

# The age up to which an earlier value stands in for the one looked for.
age_in_periods <- function(max_age, calendar) {
  if (identical(max_age, 0)) {
    return(0)
  }
  age <- whole_periods(max_age, calendar)
  if (is.null(age)) {
    stop_periods(max_age, calendar, "max_age", "argument")
  }
  age
}

check_distances <- function(over, along) {
  if (length(over) == 0) {
    stop_periods(NULL, along$calendar, "over", "over")
  }
  lapply(
    over, check_distance, calendar = along$calendar, argument = "over",
    closed = !is.null(along$opened)
  )
}

check_names_of <- function(name, columns) {
  if (!is.null(name) && length(name) != length(columns)) {
    abort_backfill(
      "argument",
      "`name` has {count_of(length(name), 'name')} for",
      "{count_of(length(columns), 'column')}."
    )
  }
}

growth_note <- function(of, as, distance, ahead, withheld, excluded) {
  new_note(
    "growth", of,
    paste0(
      growth_in_words[[as]], " of {of} over ", distance$words,
      if (ahead) " ahead"
    ),
    as = as, span = distance$words, target = ahead, change = as != "ratio",
    drifts = FALSE,
    unit = switch(as, percent = , annualised = "%", points = "points"),
    withheld = c(
      withheld,
      if (as == "points") c("the measure is not in percent" = excluded)
    )
  )
}

growth_in_words <- c(
  percent = "growth", ratio = "ratio", difference = "difference",
  log = "log growth", annualised = "growth a year",
  points = "change in percentage points"
)

growth_forms <- c(
  percent = "growth", ratio = "ratio", difference = "difference",
  log = "log_growth", annualised = "annual_growth", points = "points"
)

growth_name <- function(as, distance, ahead) {
  paste0(
    growth_forms[[as]], if (ahead) "_ahead",
    "_", gsub("[ -]", "_", distance$words)
  )
}

# list(value, withheld) in the order of `along`. `age` is that of the oldest
# stand-in for a base, in periods.
grow <- function(along, distance, as, ahead, age) {
  base <- rows_off(along, distance, if (ahead) 1 else -1, age)
  if (ahead && age > 0) {
    # What stands in for a later period must lie ahead itself.
    base[which(base <= seq_along(base))] <- NA
  }
  form <- switch(
    as, percent = 0L, points = , difference = 2L, log = 3L, ratio = ,
    annualised = 1L
  )
  found <- change_cpp(along$value, base, ahead, form)
  closed <- closed_rows(along, distance)
  if (as == "annualised") {
    years <- abs(years_between(
      along$number[base], along$number, along$calendar
    ))
    negative <- which(found$value < 0)
    found$value[negative] <- NA
    found$counts[[5]] <- length(negative)
    found$value <- 100 * (found$value^(1 / years) - 1)
  }
  reach <- if (ahead) {
    "the table does not reach so far ahead"
  } else {
    "the table does not reach back so far"
  }
  counts <- as.integer(found$counts[-1])
  withheld <- stats::setNames(
    c(counts[[1]] - closed, counts[-1]),
    c(
      reach, "the period or its base is not whole",
      "the base is zero or negative", "the figure is zero or negative"
    )
  )
  shown <- c(
    TRUE, TRUE, !as %in% c("difference", "points"),
    as %in% c("log", "annualised")
  )
  list(
    value = found$value, base = base,
    withheld = with_closed(withheld[shown], closed)
  )
}

# Of how many figures period and base lack unlike shares of their records, and
# by what share at most that alone moves a sum. `order` are the rows of the
# table that lie along time, `base` the places of the bases among them.
unlike_coverage <- function(x, order, base, figure) {
  sums <- vapply(
    facts(x)$measures, function(one) identical(one$use, "sum"), NA
  )
  # A sum that was enlarged lacks nothing any more.
  coverage <- ifelse(is.na(share_scaled(x)), x$coverage, 1)[order]
  if (!any(sums) || !any(coverage < 1, na.rm = TRUE)) {
    return(NULL)
  }
  given <- which(
    !is.na(figure) & x$measure[order] %in% names(sums)[sums]
  )
  moved <- abs(coverage[given] / coverage[base[given]] - 1)
  moved <- moved[which(moved > 1e-9)]
  list(n = length(moved), most = max(moved, 0))
}

# From the start of one period to that of another.
years_between <- function(from, to, calendar) {
  if (grepl("month", base_of(calendar))) {
    return((to - from) * calendar$count / 12)
  }
  days <- as.numeric(period_start(to, calendar)) - as.numeric(period_start(
    from, calendar
  ))
  days / 365.2425 / if (by_clock(calendar)) 86400 else 1
}

# Percentage points are of measures in percent only, and percent of these is
# easily mistaken for points.
growth_excludes <- function(x, along, as, of) {
  none <- rep(FALSE, length(along$value))
  unit <- if (of == "value") {
    vapply(facts(x)$measures, function(measure) measure$unit %||% "", "")
  }
  in_percent <- names(unit)[unit == "%"]
  if (as == "points") {
    if (of != "value") {
      return(rep(
        !identical(facts(x)$added[[of]]$unit, "%"), length(along$value)
      ))
    }
    if (length(in_percent) == 0) {
      abort_backfill(
        "argument", "`as` is \"points\", but no measure is in percent.",
        ">" = "Name the unit, as in measure(\"level\", unit = \"%\"), or",
        "choose \"difference\"."
      )
    }
    return(!x$measure[along$order] %in% in_percent)
  }
  if (as == "percent" && length(in_percent) > 0) {
    warn_backfill(
      "use",
      "{in_words(in_percent)} {if (length(in_percent) == 1) 'is' else 'are'}",
      "in percent already; this growth is in percent of that, `as` as",
      "\"points\" gives it in percentage points."
    )
  }
  none
}
