#' Roll records, or shorter periods, up to regular periods
#'
#' One row for every series, measure and period, those without a record
#' included. The kind of a measure decides how its records are combined: a flow
#' is added up, a level is averaged, a ratio is made of its parts when these are
#' rolled up, a return is compounded (see [measure()]). A counter is differenced
#' first: what it rose by since the reading before counts on the day of the
#' reading; where it falls (a reset, a correction) that is not known, the period
#' is partial, and printing the table tells of it. `falls` and `rollover` say
#' what a fall is to count as.
#'
#' Each period has a standing. From the records' cadence (hourly, daily, on
#' market days, monthly, ...) follows how many slots a period should have; its
#' `coverage` is the share of them in which something was recorded, and it is
#' `"complete"` where that is at least `enough`, `"partial"` where it is less,
#' and `"empty"` where there is nothing. A period is thin where slots are
#' missing inside: what is complete is given as recorded, and printing the table
#' tells how much it lacks. A period is cut where the records of its series
#' begin after its start or end before its end by more than one slot, or by one
#' that is a twentieth of it or more (by more than it leaves out in a row in 95
#' of 100 cases, for a series that leaves out many): it is partial, whatever
#' `enough` says, since what it lacks is missing in one piece. The first and
#' last period are hardly ever whole, and show it this way. Each series has a
#' cadence of its own, by the clock of its zone or by the time that passes,
#' whichever its records keep to; one without any, or with too few records to
#' show it, comes irregularly, whatever the others do, unless `cadence` says
#' otherwise. With daily records, a weekday on which fewer than half of the days
#' have one, of three at least, has no slots (a market closed on Sundays); a
#' [calendar()] with working days says it for certain, holidays included. Where
#' the cadence is irregular there is no coverage: a period is complete where it
#' has a record, but the first is partial unless the table's records start on
#' its first day, and the last unless they go on to its last day. Calculations
#' on the table leave partial periods out.
#'
#' Where periods are working days, a day off belongs to the next one. What is
#' recorded on it is added there where it is an amount (a flow, what a counter
#' rose by, a return), and left out where it is a reading, such as a price;
#' printing the table says how much there was of either.
#'
#' A periods table can be rolled up further, to periods that its own fit into:
#' days to months, months to years, not weeks to months. The figures are those
#' that the records give, and standings are carried along; only the average of a
#' level over sub-series (`by`) comes out as the average of what the table has.
#' The median, quantiles and the standard deviation need the records.
#'
#' Sums are compensated (Neumaier 1974), so that the order of the records
#' changes no more than a last digit. The standard deviation is that of a sample
#' (with \eqn{n - 1}); quantiles lie between the two nearest values in
#' proportion (Hyndman and Fan 1996, definition 7). The one pass that this takes
#' needs memory for the table alone; the median and quantiles take a second pass
#' and room for the values.
#'
#' @section Sub-series: With `by`, the series are put together: what is left
#'   apart are the columns that `by` names (`character()` for none). Flows,
#'   counters and counts are added up; levels and returns are averaged over the
#'   sub-series, or as `pool` says; ratios are made of the sums of their
#'   parts; other statistics are those of all records together. A period is
#'   complete where it is in each sub-series. A sub-series without a record
#'   makes it partial, unless its cadence is irregular or `absent` says that
#'   silence means zero.
#'
#'   Last readings that are added up (of a counter, or of a level with
#'   `pool` as `"sum"`) are the last one known of each sub-series. The sum
#'   is partial before the first and after the last reading of any of them.
#'   Other readings of several counters are refused. An attribute that
#'   [add_attributes()] joined counts once for its key, however many sub-series
#'   have that.
#'
#' @param x A records table, from [read_records()] or [as_records()], a source
#'   of [read_records()] that is `chunked`, or a periods table of shorter
#'   periods.
#' @param every Length of the periods: words such as `"hour"`, `"day"`, `"week"`
#'   (from Monday, ISO 8601), `"10 days"`, `"month"`, `"quarter"` or `"year"`,
#'   the same as an ISO 8601 duration (`"P1M"`), or a [calendar()].
#' @param by Names of the columns that keep series apart; `NULL` for the series
#'   columns. Other columns of the records, such as a region added by
#'   [add_attributes()], can be among them.
#' @param use The statistic instead of the one that the kind decides: `"sum"`,
#'   `"mean"`, `"first"`, `"last"`, `"lowest"`, `"highest"`, `"median"`, `"sd"`,
#'   a quantile such as `"90%"`, `"count"` (records) or `"slots"` (distinct
#'   slots of the cadence with a record). One for all measures, or named by
#'   measure: `c(price = "last")`. Several of one measure,
#'   `list(price = c("first", "highest", "lowest", "last"))`, become measures of
#'   their own, `price_first` and so on. Of a counter, `"sum"` is of what it
#'   rose by, the others are of its readings. Of a periods table each period
#'   counts as one reading.
#' @param absent What the lack of records means, one for all measures that it
#'   fits, or named by measure: for a flow `"zero"`, so that a period without a
#'   record is a complete one of 0, as are days without one within a period; for
#'   a counter `"spread"`, so that a rise over slots without a reading is spread
#'   over them evenly and these stand as imputed. Statistics other than sums and
#'   counts are `NA` where nothing was recorded, silence or not. By default the
#'   lack is not known: the value is `NA`, and a counter's rise counts in the
#'   period of its closing reading, which is partial.
#' @param partial How to treat a first and last period of a series that are
#'   partial: `"keep"`; `"drop"` leaves them out; `"scale"` enlarges sums to the
#'   full length of the period, by their coverage. They stand as partial
#'   nevertheless, and rolled up further they count as what was recorded.
#' @param thin What the sum of a period of a flow is that is complete though
#'   some of its records are missing: `"keep"`, what was recorded; `"scale"`,
#'   that enlarged by its coverage, so that growth does not move with the number
#'   of missing days. It stands as imputed then; flags judge it, unlike what was
#'   filled in, and rolled up further it counts as what was recorded.
#' @param cadence How often something is recorded: `NULL` to find it from the
#'   records, a length of time such as `"hour"`, `"15 minutes"` or `"day"`, or
#'   `"irregular"` for events that come when they come.
#' @param enough The coverage from which a period that is not cut counts as
#'   complete, above 0 and up to 1. By default that of the periods table, or
#'   0.9; 0.75 for a level, whose mean hardly moves; and 1 for a counter, of
#'   which it is not known what it rose by where it fell. 1 asks for every slot.
#' @param pool With `by`, how a level's sub-series are combined: `"mean"`,
#'   `"sum"` (stocks in several places), or the name of a measure that weighs
#'   them, named by measure: `c(price = "kilos")`. A sub-series without a weight
#'   is left out of the average, which is partial then.
#' @param falls What a fall of a counter is taken as, one for all counters or
#'   named by measure: `"unknown"` (the default); `"count"`, a correction that
#'   counts, below zero, in the period in which it was made, so that the rises
#'   add up to the last reading less the first; `"spread"`, a correction that is
#'   spread back over what the counter rose by since its first reading, in
#'   proportion, so that no period falls below zero and **earlier periods
#'   change**; `"restart"`, a new start from 0, so that the reading after it
#'   counts. With two, such as `c("restart", "count")`, a fall to less than half
#'   is a new start and any other is the correction. A correction by more than
#'   was counted before it cannot be spread back and stays unknown.
#' @param rollover The reading at which a counter starts from 0 again, such as
#'   `100000` for a meter of five digits; one for all counters or named by
#'   measure. A fall that is a rise of at most half of that, counted over 0, is
#'   one; any other is what `falls` says.
#' @return A periods table: a tibble with the series columns, then `measure`,
#'   `period` (first day, a `Date`; for periods of the clock the first instant,
#'   a `POSIXct`), `value` (in the measure's unit), `standing` (a factor), `n`
#'   (records with a value in it) and `coverage` (a share from 0 to 1, `NA`
#'   where the cadence is irregular), sorted by series, measure and period. All
#'   series reach over the same periods.
#' @section What missing days do to months: In simulations of six years of daily
#'   counts about 50 with a season of 40% (40 series a row): how many months
#'   `enough` makes complete, and how far their sums, their growth over a month
#'   and the seasonal index lie from those of the whole series, on average:
#'
#'   | days missing | `enough` | complete | sums low | growth off | index off |
#'   |---|---|---|---|---|---|
#'   | 2%, at random | 1 | 54% | 0 | 0 | 1.3% |
#'   | | 0.9 | 99% | 1.9% | 2.6 points | 0.8% |
#'   | 5%, at random | 1 | 21% | 0 | 0 | none |
#'   | | 0.9 | 92% | 4.2% | 3.9 points | 1.3% |
#'   | 10%, at random | 0.9 | 61% | 6.5% | 3.7 points | 1.8% |
#'   | 2%, five in a row | 1 | 86% | 0 | 0 | 0.4% |
#'   | | 0.9 | 89% | 0.2% | 0.2 points | 0.5% |
#'   | 5%, five in a row | 0.9 | 75% | 0.4% | 0.4 points | 0.9% |
#'   | | 0.8 | 96% | 3.9% | 6.9 points | 2.5% |
#'
#'   Flags against the season at 3 standard deviations found no more by chance
#'   than without a missing day (0.1 to 0.5% of months).
#' @section Errors: `backfill_error_every` for an unknown period, one shorter
#'   than the cadence, or one that the periods of the table do not fit into;
#'   `backfill_error_input` where `x` is neither a records nor a periods table
#'   or has no rows; `backfill_error_column` where `by`, `use`, `absent`,
#'   `pool`, `falls` or `rollover` name what is not there;
#'   `backfill_error_argument`, also for a reading beyond `rollover`. A `use`
#'   that makes nonsense of a kind, such as the sum of a level, is done with a
#'   warning of class `backfill_warning_use` that says what to use instead.
#' @references Neumaier, A. (1974). Rundungsfehleranalyse einiger Verfahren zur
#'   Summation endlicher Summen. *Zeitschrift für Angewandte Mathematik und
#'   Mechanik* 54, 39-51. Hyndman, R. J. and Fan, Y. (1996). Sample quantiles in
#'   statistical packages. *The American Statistician* 50, 361-365.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' daily <- roll_up(crossings, every = "day")
#' roll_up(daily, every = "month", enough = 0.95)
#'
#' tanks <- read_records(demo_file("water-tanks.csv"),
#'   series = c("village", "tank"), layout = "dates across",
#'   measures = c(reading = "counter")
#' )
#' roll_up(tanks, every = "quarter", by = "village", falls = "restart")
#'
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' roll_up(nights, every = "quarter", by = character())
#' @concept resample
#' @concept aggregate
#' @export
roll_up <- function(
  x, every, by = NULL, use = NULL, absent = NULL, partial = "keep",
  thin = "keep", cadence = NULL, enough = NULL, pool = NULL, falls = NULL,
  rollover = NULL
) {
  check_given()
  calendar <- as_calendar(every, of = x)
  x <- check_source(x)
  role <- facts(x)
  planned <- plan_measures(role$measures, use)
  absent <- check_absent(absent, planned)
  if (is.null(cadence) && !is_periods(x) && all_counted(planned)) {
    # Events come when they come.
    cadence <- "irregular"
  }
  frame <- roll_frame(
    x, calendar, by, cadence, enough, length(planned),
    silence_is_zero(absent, planned)
  )
  absent <- c(absent, counts_are_zero(absent, planned))
  if (frame$groups$count > 0) {
    check_readings(planned)
  }
  pool <- check_pool(pool, planned)
  counting <- check_counting(falls, rollover, absent, planned, x)
  made <- roll_parts(x, planned, frame, absent, pool, counting)
  parts <- made$parts
  if (thin == "scale") {
    parts <- Map(scale_thin, parts, planned)
  }
  if (partial != "keep") {
    parts <- Map(
      function(part, measure) settle_ends(part, measure, partial, frame$reach),
      parts, planned
    )
  }
  start <- period_start(
    frame$columns$first + seq_len(frame$columns$count) - 1, frame$calendar
  )
  data <- stack_measures(
    unname(parts), names(planned), frame$groups$names, start
  )
  known <- list(
    measures = planned, absent = with_earlier(absent, role$absent),
    partial = partial, thin = thin, falls = made$falls,
    days_off = made$days_off,
    year_start = role$year_start,
    joined = if (frame$groups$count > 0) {
      list(series = nrow(frame$names), how = pool)
    } else {
      role$joined
    }
  )
  periods_of(data, frame, known, start)
}

# Whether silence says zero of all measures, so that it says so beyond the first
# and the last record as well.
silence_is_zero <- function(absent, planned) {
  from <- vapply(planned, `[[`, "", "from")
  all(from %in% names(absent)[absent == "zero"])
}

with_earlier <- function(absent, earlier) {
  c(absent, earlier[setdiff(names(earlier), names(absent))])
}
