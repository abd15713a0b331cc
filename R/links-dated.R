# Figures with the period that they are for and the day they were known.

# list(lines, told, figures): the names of a table's lines; whether the records
# tell when their figures were known; and a row per figure with its `line`,
# `start`, `end` and `known` (days since 1970, the end where it is not told) and
# `value`.
dated_figures <- function(table, of) {
  if (is_records(table)) {
    return(dated_records(table))
  }
  table <- check_periods(table)
  check_no_target(table, of)
  along <- along_series(table, of)
  lines <- lines_along(table, along)
  whole <- which(!is.na(along$value))
  at <- along$number[whole]
  start <- period_start(at, along$calendar)
  end <- if (by_clock(along$calendar)) start else last_day(at, along$calendar)
  list(
    lines = lines, told = rep(FALSE, length(lines)),
    figures = vctrs::data_frame(
      line = along$series[whole], start = days_since(start),
      end = days_since(end), known = days_since(end),
      value = along$value[whole]
    )
  )
}

days_since <- function(x) as.numeric(as.Date(x, tz = zone_of(x)))

# Of records the figures of each measure, a line for each series and measure.
dated_records <- function(x) {
  check_records(x)
  role <- facts(x)
  measures <- names(role$measures)
  index <- series_index(plain_tibble(x), role$series)
  count <- nrow(index$names)
  keys <- vctrs::vec_rep(tibble::as_tibble(index$names), length(measures))
  keys$measure <- rep(measures, each = count)
  lines <- names_of_lines(keys)
  if (length(measures) == 1 && length(role$series) == 0) lines <- measures
  end <- ends_of_records(x, index)
  told <- !is.null(role$known)
  figures <- vctrs::data_frame(
    line = rep((seq_along(measures) - 1L) * count, each = nrow(x)) +
      rep(index$index, length(measures)),
    start = rep(days_since(x[[role$when]]), length(measures)),
    end = rep(end, length(measures)),
    known = rep(if (told) known_days(x) else end, length(measures)),
    value = as.double(unlist(as.list(x)[measures], use.names = FALSE))
  )
  list(
    lines = lines, told = rep(told, length(lines)),
    figures = figures[!is.na(figures$value), ]
  )
}

# Those of several tables in one, their lines counted through.
put_dated <- function(dated) {
  before <- cumsum(c(0L, lengths(lapply(dated, `[[`, "lines"))))
  list(
    lines = unlist(lapply(dated, `[[`, "lines")),
    told = unlist(lapply(dated, `[[`, "told")),
    figures = vctrs::vec_rbind(!!!Map(function(part, before) {
      part$figures$line <- part$figures$line + before
      part$figures
    }, dated, before[seq_along(dated)]))
  )
}

# The last day of the period that each record is for, by how often its series
# comes: the day itself where it comes irregularly or within the day. A record
# names the first day of its period, or one of the last four days of a month for
# a period that ends with it; so no period ends too early.
ends_of_records <- function(x, index) {
  when <- x[[facts(x)$when]]
  table <- zone_table_of(when, facts(x)$zone)
  survey <- survey_times(
    one_part(when, index$index), unit_of_times(when), nrow(index$names), table
  )
  cadence <- vctrs::vec_slice(find_cadences(
    survey, facts(x)$kept, table
  ), index$index)
  steps <- cadence_steps[cadence$steps + 1]
  end <- days_since(when)
  by_days <- which(steps %in% c("instant", "local"))
  end[by_days] <- end[by_days] +
    pmax(ceiling(cadence$length[by_days] / 86400) - 1, 0)
  by_months <- which(steps == "calendar")
  if (length(by_months) > 0) {
    month <- ask_calendar(when[by_months], "month")
    own_end <- days_since(last_day(month$number, month$calendar))
    end[by_months] <- ifelse(
      own_end - end[by_months] <= 3, own_end, days_since(last_day(
        month$number + cadence$length[by_months] - 1, month$calendar
      ))
    )
  }
  end
}
