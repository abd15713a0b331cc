#' Roll records up to regular periods
#'
#' One row for every series, measure and period, those without a record included. The kind of a measure decides what
#' becomes of its records: a flow is added up, a level is averaged, a ratio is made of its parts when these are rolled
#' up (see [measure()]). A counter is differenced first: what it rose by since the reading before counts on the day of
#' the reading; where it falls (a reset, a correction) that is not known, and the period is partial.
#'
#' Each period has a standing. From the records' cadence (hourly, daily, on market days, monthly, ...) follows how many
#' slots a period should have; its `coverage` is the share of them in which something was recorded, and it is
#' `"complete"` where that is at least `enough`, `"partial"` where it is less, and `"empty"` where there is nothing. The
#' first and last period are hardly ever whole, and show it this way. Each series has a cadence of its own; one with too
#' few records to show it has that of all records together. With daily records, a weekday on which fewer than half of
#' the days have one, of three at least, has no slots (a market closed on Sundays). Where the cadence is
#' irregular there is no coverage: a period is complete where it has a record, but the first is partial unless records
#' start on its first day, and the last unless they go on to its last day. Calculations on the table leave partial
#' periods out.
#'
#' Sums are compensated (Neumaier 1974), so that the order of the records changes no more than a last digit.
#'
#' @param x A records table, from [read_records()] or [as_records()].
#' @param every Length of the periods: `"day"`, `"week"` (from Monday, ISO 8601), `"month"`, `"quarter"` or `"year"`, or
#'   the same as an ISO 8601 duration (`"P1M"`).
#' @param cadence How often something is recorded: `NULL` to find it from the records, a length of time such as
#'   `"hour"`, `"15 minutes"` or `"day"`, or `"irregular"` for events that come when they come.
#' @param enough The coverage from which a period counts as complete, above 0 and up to 1.
#' @return A periods table: a tibble with the series columns, then `measure`, `period` (first day, a `Date`), `value`
#'   (in the measure's unit), `standing` (a factor), `n` (records with a value behind it) and `coverage` (a share from 0
#'   to 1, `NA` where the cadence is irregular), sorted by series, measure and period. All series reach over the same
#'   periods.
#' @section Errors: `backfill_error_every` for an unknown period, or one shorter than the cadence;
#'   `backfill_error_input` where `x` is no records table or has no rows; `backfill_error_argument`.
#' @references Neumaier, A. (1974). Rundungsfehleranalyse einiger Verfahren zur Summation endlicher Summen. *Zeitschrift
#'   für Angewandte Mathematik und Mechanik* 54, 39-51.
#' @examples
#' sailings <- read_records(demo_file("sailings.csv"),
#'   when = "time", measures = c(north = "flow", south = "flow"), zone = "WET"
#' )
#' roll_up(sailings, every = "month", enough = 0.95)
#' @export
roll_up <- function(x, every, cadence = NULL, enough = 1) {
  check_records(x)
  unit <- check_every(every)
  check_share(enough, "enough")
  if (nrow(x) == 0) {
    abort_backfill("input", "The records table has no rows.")
  }
  role <- roles(x)
  when <- x[[role$when]]
  table <- zone_table_of(when, role$zone)
  series <- series_index(x, role$series)
  survey <- survey_times(when, series, table)
  cadences <- if (is.null(cadence)) find_cadences(survey, table) else parse_cadence(cadence, survey)
  check_finer(cadences, unit, series$names)
  check_size(survey, table, unit, nrow(series$names))

  cells <- lapply(names(plain_measures(role$measures)), function(name) {
    value <- as.double(x[[name]])
    if (role$measures[[name]]$kind == "counter") {
      value <- increments(value, when, series$index)
    }
    roll_up_cpp(when, survey$scale, table$from, table$offset, series$index, value, unit_code(unit), cadences,
                survey$each$lowest, survey$each$highest)
  })
  names(cells) <- names(plain_measures(role$measures))
  number <- cells[[1]]$first + seq_len(cells[[1]]$periods) - 1
  expected <- expected_slots(number, unit, cadences, table)
  reached <- reached_ends(number, unit, survey, table)
  parts <- lapply(names(cells), function(name) {
    measure_periods(cells[[name]], role$measures[[name]]$kind, expected, reached, enough)
  })
  names(parts) <- names(cells)
  for (name in names(ratios(role$measures))) {
    parts[[name]] <- ratio_periods(parts[[role$measures[[name]]$of]], parts[[role$measures[[name]]$per]])
  }
  data <- stack_measures(unname(parts[names(role$measures)]), names(role$measures), series$names,
                         period_start(number, unit))
  new_periods(data, unit, role$series, role$measures, role$zone, describe_cadences(cadences, series$names),
              enough, role$account$sources$source)
}

# A period must be as long as the cadence at least.
check_finer <- function(cadences, unit, names, call = caller_env()) {
  coarse <- cadence_seconds(cadences) > unit_seconds[[unit]]
  if (any(coarse)) {
    coarsest <- cadences$words[[which.max(cadence_seconds(cadences))]]
    abort_backfill(
      "every",
      sprintf("The records are one per %s, which cannot be rolled up to a shorter period (%s).",
              describe_cadences(cadences[coarse, ], vctrs::vec_slice(names, coarse), named = !all(coarse)), unit),
      ">" = sprintf("Choose a period of a %s or longer%s, or say `cadence` where that is not their cadence.", coarsest,
                    if (all(coarse)) "" else ", leave these series out"),
      call = call
    )
  }
}

# One mistyped year can stretch the table over centuries; better to say so than to run out of memory.
check_size <- function(survey, table, unit, series_count, call = caller_env()) {
  days <- end_days(survey, table)
  rows <- (diff(period_number(days, unit)) + 1) * series_count
  if (rows > most_rows) {
    abort_backfill(
      "input",
      sprintf("The table would have %s: %s from %s to %s.", count_of(rows, "row"),
              count_of(series_count, "series", "series"), period_label(.Date(days[[1]]), "day"),
              period_label(.Date(days[[2]]), "day")),
      ">" = "See whether one of these dates is wrong, or choose longer periods.",
      call = call
    )
  }
}

most_rows <- 1e8

# For the first and the last period, whether the records reach its outer end.
reached_ends <- function(number, unit, survey, table) {
  days <- end_days(survey, table)
  reached <- rep(TRUE, length(number))
  reached[[1]] <- days[[1]] == as.numeric(period_start(number[[1]], unit))
  last <- length(number)
  reached[[last]] <- reached[[last]] && days[[2]] == as.numeric(period_start(number[[last]] + 1, unit)) - 1
  reached
}

# The cells of one measure, series by series, as columns of the periods table. `expected` has a row for each period and
# a column for each series.
measure_periods <- function(cells, kind, expected, reached, enough) {
  coverage <- cells$slots / as.vector(expected)
  coverage[is.nan(coverage)] <- NA
  whole <- ifelse(is.na(coverage), rep(reached, ncol(expected)), coverage >= enough)
  standing <- ifelse(cells$records == 0L, 3L, ifelse(whole, 1L, 2L))
  value <- switch(kind, flow = , counter = cells$sum, level = cells$sum / cells$records)
  value[cells$records == 0L] <- NA
  vctrs::data_frame(
    value = value,
    standing = structure(standing, levels = standings, class = "factor"),
    n = cells$records,
    coverage = coverage
  )
}

# A ratio is as whole as the less whole of its parts; the mean of its readings would weigh them wrongly.
ratio_periods <- function(of, per) {
  of$value <- divided(of$value, per$value)
  standing <- pmax(as.integer(of$standing), as.integer(per$standing))
  of$standing <- structure(standing, levels = standings, class = "factor")
  of$coverage <- pmin(of$coverage, per$coverage)
  of
}

# What a counter rose by since the reading of its series before, on the day of the reading. Where it falls, it was reset
# or corrected, and what it rose by is not known.
increments <- function(reading, when, series) {
  order <- order(series, as.numeric(when), method = "radix")
  order <- order[!is.na(reading[order])]
  rise <- c(NA_real_, diff(reading[order]))
  rise[c(TRUE, diff(series[order]) != 0)] <- NA
  rise[rise < 0] <- NA
  out <- rep(NA_real_, length(reading))
  out[order] <- rise
  out
}

stack_measures <- function(parts, measures, series, period) {
  blocks <- length(measures) * nrow(series)
  stacked <- vctrs::vec_rbind(!!!parts)
  # From measure by series by period to series by measure by period.
  block <- as.vector(matrix(seq_len(blocks), nrow = length(measures), byrow = TRUE))
  rows <- rep((block - 1) * length(period), each = length(period)) + seq_along(period)
  tibble::new_tibble(c(
    as.list(vctrs::vec_rep_each(series, length(measures) * length(period))),
    list(measure = rep(rep(measures, each = length(period)), nrow(series)), period = rep(period, blocks)),
    as.list(vctrs::vec_slice(stacked, rows))
  ), nrow = blocks * length(period))
}
