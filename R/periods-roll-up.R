#' Roll records, or shorter periods, up to regular periods
#'
#' One row for every series, measure and period, those without a record
#' included. The kind of a measure decides what becomes of its records: a flow
#' is added up, a level is averaged, a ratio is made of its parts when these are
#' rolled up, a return is compounded (see [measure()]). A counter is differenced
#' first: what it rose by since the reading before counts on the day of the
#' reading; where it falls (a reset, a correction) that is not known, the period
#' is partial, and printing the table tells of it.
#'
#' Each period has a standing. From the records' cadence (hourly, daily, on
#' market days, monthly, ...) follows how many slots a period should have; its
#' `coverage` is the share of them in which something was recorded, and it is
#' `"complete"` where that is at least `enough`, `"partial"` where it is less,
#' and `"empty"` where there is nothing. The first and last period are hardly
#' ever whole, and show it this way. Each series has a cadence of its own, by
#' the clock of its zone or by the time that passes, whichever its records keep
#' to; one without any, or with too few records to show it, comes irregularly,
#' whatever the others do, unless `cadence` says otherwise. With daily records,
#' a weekday on which fewer than half of the days have one, of three at least,
#' has no slots (a market closed on Sundays); a [calendar()] with working days
#' says it for certain, holidays included. Where the cadence is irregular there
#' is no coverage: a period is complete where it has a record, but the first is
#' partial unless the table's records start on its first day, and the last
#' unless they go on to its last day. Calculations on the table leave partial
#' periods out.
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
#'   sub-series, or as `together` says; ratios are made of the sums of their
#'   parts; other statistics are those of all records together. A period is
#'   complete where it is in each sub-series. A sub-series without a record
#'   makes it partial, unless its cadence is irregular or `absent` says that
#'   silence means zero.
#'
#'   Last readings that are added up (of a counter, or of a level with
#'   `together` as `"sum"`) are the last one known of each sub-series. The sum
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
#' @param partial What becomes of a first and last period of a series that are
#'   partial: `"keep"`; `"drop"` leaves them out; `"scale"` enlarges sums to the
#'   full length of the period, by their coverage. They stand as partial
#'   nevertheless, and rolled up further they count as what was recorded.
#' @param cadence How often something is recorded: `NULL` to find it from the
#'   records, a length of time such as `"hour"`, `"15 minutes"` or `"day"`, or
#'   `"irregular"` for events that come when they come.
#' @param enough The coverage from which a period counts as complete, above 0
#'   and up to 1. By default 1, or that of the periods table.
#' @param together With `by`, what becomes of a level's sub-series: `"mean"`,
#'   `"sum"` (stocks in several places), or the name of a measure that weighs
#'   them, named by measure: `c(price = "kilos")`. A sub-series without a weight
#'   is left out of the average, which is partial then.
#' @return A periods table: a tibble with the series columns, then `measure`,
#'   `period` (first day, a `Date`; for periods of the clock the first instant,
#'   a `POSIXct`), `value` (in the measure's unit), `standing` (a factor), `n`
#'   (records with a value behind it) and `coverage` (a share from 0 to 1, `NA`
#'   where the cadence is irregular), sorted by series, measure and period. All
#'   series reach over the same periods.
#' @section Errors: `backfill_error_every` for an unknown period, one shorter
#'   than the cadence, or one that the periods of the table do not fit into;
#'   `backfill_error_input` where `x` is neither a records nor a periods table
#'   or has no rows; `backfill_error_column` where `by`, `use`, `absent` or
#'   `together` name what is not there; `backfill_error_argument`. A `use` that
#'   makes nonsense of a kind, such as the sum of a level, is done with a
#'   warning of class `backfill_warning_use` that says what to use instead.
#' @references Neumaier, A. (1974). Rundungsfehleranalyse einiger Verfahren zur
#'   Summation endlicher Summen. *Zeitschrift für Angewandte Mathematik und
#'   Mechanik* 54, 39-51. Hyndman, R. J. and Fan, Y. (1996). Sample quantiles in
#'   statistical packages. *The American Statistician* 50, 361-365.
#' @examples
#' sailings <- read_records(demo_file("sailings.csv"),
#'   when = "time", measures = c(north = "flow", south = "flow"), zone = "WET"
#' )
#' daily <- roll_up(sailings, every = "day")
#' roll_up(daily, every = "month", enough = 0.95)
#'
#' nights <- read_records(demo_file("guest-nights.csv"),
#'   when = "month", series = "island", measures = c(guest_nights = "flow")
#' )
#' roll_up(nights, every = "quarter", by = character())
#' @export
roll_up <- function(
  x, every, by = NULL, use = NULL, absent = NULL, partial = "keep",
  cadence = NULL, enough = NULL, together = NULL
) {
  calendar <- as_calendar(every)
  check_one_of(partial, c("keep", "drop", "scale"), "partial")
  if (!is.null(enough)) {
    check_share(enough, "enough")
  }
  if (is_periods(x)) {
    x <- check_periods(x)
  }
  frame_of <- if (is_chunked(x)) frame_of_chunked else frame_of_records
  if (is_periods(x)) frame_of <- frame_of_periods
  planned <- plan_measures(measures_of(x), use)
  frame <- frame_of(
    x, calendar, by, cadence, enough, length(planned), current_env()
  )
  check_readings(planned, frame)
  absent <- check_absent(absent, planned)
  together <- check_together(together, planned)
  made <- (if (is_periods(x)) parts_of_periods else parts_of_records)(
    x, planned, frame, absent, together
  )

  parts <- Map(
    function(part, measure) settle_ends(part, measure, partial, frame$reach),
    made$parts, planned
  )
  start <- period_start(
    frame$columns$first + seq_len(frame$columns$count) - 1, frame$calendar
  )
  data <- stack_measures(
    unname(parts), names(planned), frame$groups$names, start
  )
  if (partial == "drop") {
    data <- vctrs::vec_slice(data[names(data) != "keep"], data$keep)
  }
  scaled <- if ("scaled" %in% names(data)) which(!is.na(data$scaled))
  out <- new_periods(data[names(data) != "scaled"], list(
    calendar = frame$calendar, series = names(frame$groups$names),
    measures = planned,
    absent = c(
      absent, facts(x)$absent[setdiff(names(facts(x)$absent), names(absent))]
    ),
    cadences = frame$known_cadences, enough = frame$enough, partial = partial,
    span = frame$span,
    sources = frame$sources, falls = made$falls, days_off = made$days_off,
    scaled = if (length(scaled) > 0) {
      data[scaled, c(names(frame$groups$names), "measure", "period", "scaled")]
    },
    joined = if (frame$groups$count > 0) {
      list(series = nrow(frame$names), how = together)
    } else {
      facts(x)$joined
    }
  ))
  if (partial == "drop") {
    return(out)
  }
  lines <- nrow(data) / length(start)
  with_layout(out, rep(length(start), lines), rep(frame$columns$first, lines),
              lay_calendar_over(frame$calendar, start))
}

measures_of <- function(x, call = caller_env()) {
  if (!is_periods(x) && !is_chunked(x)) {
    check_records(x, call)
  }
  facts(x)$measures
}

# list(parts, falls, days_off): the columns of each planned measure, where
# counters fall, and what became of records on days off.
parts_of_records <- function(x, planned, frame, absent, together) {
  falls <- list()
  # The cells of a measure, with all that its uses need; a counter's of its
  # rises where they are added up.
  cells_of <- function(name, rises) {
    measure <- facts(x)$measures[[name]]
    use <- unlist(lapply(planned, function(one) if (one$from == name) one$use))
    change <- changes_of(measure, use, frame$calendar)
    parts <- if (is_chunked(x)) chunk_parts(collected(x), name, change) else
      list(change(
        one_part(frame$when, frame$series, as.double(x[[name]]))[[1]]
      ))
    if (measure$kind == "counter" && rises) {
      found <- counter_cells(
        parts, frame, identical(absent[[name]], "spread"), use,
        if (is_chunked(x)) function(i, rise) collected(x)$keep(i, name, rise)
      )
      falls[[name]] <<- counter_falls(found$falls, name, frame$names)
      return(found)
    }
    list(parts = parts, cells = roll_cells(parts, frame, use))
  }
  kept <- list()
  cells <- function(name, rises = TRUE) {
    # By its number, as not every locale takes every name.
    key <- 2 * match(name, names(facts(x)$measures)) + rises
    if (length(kept) < key || is.null(kept[[key]])) {
      kept[[key]] <<- cells_of(name, rises)
    }
    kept[[key]]
  }
  own_statistic <- function(name) {
    statistic_of(
      cells(name)$cells, use_of_kind[[facts(x)$measures[[name]]$kind]]
    )
  }
  pooled <- lapply(together, function(how) {
    if (how %in% c("sum", "mean")) {
      how
    } else {
      own_statistic(how)
    }
  })
  judged <- function(name, rises = TRUE, zero = FALSE) {
    found <- cells(name, rises)
    judge_cells(found$cells, frame, found$marks, zero)
  }
  is_zero <- function(name) identical(absent[[name]], "zero")
  parts <- lapply(planned, function(measure) {
    if (measure$use == "parts") {
      keys <- lapply(
        list(of = measure$of, per = measure$per),
        function(name) facts(x)$measures[[name]]$key
      )
      value <- ratio_values(
        own_statistic(measure$of), own_statistic(measure$per), frame, keys
      )
      return(new_part(
        value,
        join_parts(judged(measure$of, zero = is_zero(measure$of)),
                   judged(measure$per, zero = is_zero(measure$per)))
      ))
    }
    rises <- measure$kind == "counter" && measure$use %in% rise_uses
    found <- cells(measure$from, rises)
    made <- cell_values(measure, found$cells, found$parts, frame, pooled)
    # Silence adds nothing; of what was not recorded there is no highest or
    # median.
    zero <- is_zero(measure$from) && measure$use %in% c("sum", "count", "slots")
    if (zero) {
      made$value[is.na(made$value)] <- 0
    }
    new_part(
      made$value,
      mark_lacking(
        judged(measure$from, rises, zero), made$lacking, measure, found$cells,
        frame, pooled
      )
    )
  })
  list(
    parts = parts,
    falls = if (length(falls) > 0) vctrs::vec_rbind(!!!unname(falls)),
    days_off = days_off_of_records(x, frame)
  )
}

# What becomes of a part of the records before its values are added to their
# cells.
changes_of <- function(measure, use, calendar) {
  compounded <- measure$kind == "return" && "compound" %in% use
  left_out <- calendar$unit == "working day" && !joins_next_day(measure)
  function(part) {
    if (compounded) {
      part$value <- logged(measure)(part$value)
    }
    if (left_out) {
      part$value[!on_open_day(part$when, calendar)] <- NA
    }
    part
  }
}

# What makes growth that is compounded a sum.
logged <- function(measure) {
  unit <- if (identical(measure$unit, "%")) 100 else 1
  function(value) {
    value <- value / unit
    impossible <- sum(value < -1, na.rm = TRUE)
    if (impossible > 0) {
      rlang::warn(
        sprintf("%s below -100%%, more than there is to lose, and %s left out.",
                count_of(impossible, "return lies", "returns lie"), if (
                  impossible == 1
                ) {
                  "is"
                } else {
                  "are"
                }),
        class = c("backfill_warning_values", "backfill_warning")
      )
      value[which(value < -1)] <- NA
    }
    log1p(value)
  }
}

# Of a counter these are of what it rose by, others of its readings.
rise_uses <- c("sum", "count", "slots")

stack_measures <- function(parts, measures, series, period) {
  blocks <- length(measures) * nrow(series)
  stacked <- parts[[1]]
  if (length(measures) > 1) {
    stacked <- vctrs::vec_rbind(!!!parts)
    # From measure by series by period to series by measure by period.
    block <- as.vector(matrix(
      seq_len(blocks), nrow = length(measures), byrow = TRUE
    ))
    stacked <- vctrs::vec_slice(
      stacked,
      rep((block - 1) * length(period), each = length(period)) +
        seq_along(period)
    )
  }
  tibble::new_tibble(c(
    as.list(vctrs::vec_rep_each(series, length(measures) * length(period))),
    list(
      measure = rep(rep(measures, each = length(period)), nrow(series)),
      period = rep(period, blocks)
    ),
    as.list(stacked)
  ), nrow = blocks * length(period))
}
