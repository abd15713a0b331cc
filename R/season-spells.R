#' Onset and end of seasons
#'
#' Dates a season, such as a warm, wet or busy one: when it starts and ends in
#' the average year and in each year. The running sum of deviations from the
#' mean is lowest just before a season and highest at its end.
#'
#' The average year is the mean at each day of the year (week, month). Its
#' running sum of deviations from their mean falls outside the season and rises
#' in it. Where two seasons or more are asked for, the smallest rises and falls
#' are left out until as many are left (Liebmann and Marengo 2001; Dunning and
#' others 2016). In each year the season is the stretch, up to `reach` before
#' the average onset and after the average end, whose deviations from the same
#' mean have the largest sum. Missing values are taken to be as usual at their
#' place; where more than a tenth are missing, or the table does not hold all of
#' it, that year is not dated.
#'
#' @section Chance: Every series has a lowest and a highest running sum, and so
#'   an onset and an end, whether it has a season or not. `p` is the share of
#'   499 draws, the data among them, in which the average year rises as much. In
#'   each draw every year is shifted in a circle by a random number of periods,
#'   which keeps the autocorrelation of the series but makes the years disagree;
#'   a straight line is taken out first. Simulated without a season p lies below
#'   0.05, of days over 8 years with an autocorrelation of 0, 0.7 and 0.9, in 4,
#'   2 and 5 of 100 series, and over 5 years in 8, 9 and 3. The onset of one
#'   year also depends on that year's weather: its spread over the years is
#'   given, not an interval.
#'
#' @eval rates_section("season_spells")
#'
#' @inheritParams add_growth
#' @param seasons How many seasons a year has.
#' @param reach How far the onset and the end of a year may lie from those of
#'   the average year: a number of periods or a length of time. By default a
#'   sixth of the year.
#' @param seed The seed of the draws. The session's own random numbers are left
#'   alone.
#' @return A tibble with a row for each series, season and year: the series
#'   columns, `measure`, `season` (a number), `year` (that of the average
#'   onset), `onset` and `end` (the first and the last period of it), `periods`
#'   (from one to the other), `late` (periods from the average onset to this
#'   one; below 0 it was early), `total` and `mean` (of the values in it),
#'   `rise` (of the running sum) and `share` (of the window that has values);
#'   `NA` where the year is not dated. `summary()` of it has a row for each
#'   series and season: `years` (dated), `average_onset` and `average_end`
#'   (positions of the average year), `onset_sd` and `end_sd` (periods),
#'   `earliest_onset`, `latest_onset`, `earliest_end`, `latest_end`,
#'   `mean_periods` and `p` (of the series).
#' @section Errors: `backfill_error_input` where `x` is not a periods table, or
#'   its periods are not days, weeks or months; `backfill_error_column`,
#'   `backfill_error_argument`; `backfill_error_over` for `reach`;
#'   `backfill_error_season` where every series has fewer seasons than asked
#'   for; the sentence names those that have, where others have enough.
#' @references Liebmann, B. and Marengo, J. A. (2001). Interannual variability
#'   of the rainy season and rainfall in the Brazilian Amazon basin. *Journal of
#'   Climate* 14, 4308-4318. Dunning, C. M., Black, E. C. L. and Allan, R. P.
#'   (2016). The onset and cessation of seasonal rainfall over Africa. *Journal
#'   of Geophysical Research: Atmospheres* 121, 11405-11424.
#' @seealso [turning_points()] for the lows and highs of any column,
#'   [seasonal_index()] for how high a season is.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' spells <- season_spells(roll_up(nights, every = "month"))
#' spells
#' summary(spells)
#' @concept onset
#' @concept rainy season
#' @export
season_spells <- function(
  x, seasons = 1, reach = NULL, seed = 1, of = "value"
) {
  check_given()
  x <- check_periods(x)
  check_not_empty(x)
  along <- along_series(x, of)
  calendar <- along$calendar
  places <- places_in_year(along, facts(x)$calendar)
  made <- season_spells_cpp(
    along$series, along$number, along$value, places$position, places$year,
    min(along$number), length(places$levels), as.integer(seasons),
    check_spell_reach(reach, length(places$levels), calendar), 0.9, 499L,
    as.integer(seed)
  )
  first <- first_rows(along)$first
  # A series without so many is told of; it does not keep others from theirs.
  lacking <- keys_at(x, along, first[setdiff(seq_along(first), made$of)])
  if (length(made$of) == 0) {
    stop_fewer_seasons(lacking, seasons)
  }
  at <- function(number) period_start(number, calendar)
  sums <- sums_of_spells(along, first_rows(along)$line, made)
  out <- new_rows(
    keys_at(x, along, first[made$line]), season = made$season,
    year = places$year[made$at - min(along$number) + 1],
    onset = at(made$dated_onset), end = at(made$dated_end),
    periods = as.integer(made$dated_end - made$dated_onset + 1),
    late = as.integer(made$dated_onset - made$at),
    total = sums$total, mean = sums$total / sums$n, rise = made$dated_rise,
    share = made$share
  )
  # Totals of levels mean nothing.
  out$total[!adds_up(x)[match(out$measure, names(facts(x)$measures))]] <- NA
  average <- new_rows(
    keys_at(x, along, first[made$of]),
    season = sequence(tabulate(made$of, length(first))),
    average_onset = places$levels[made$onset],
    average_end = places$levels[made$end], p = made$p[made$of]
  )
  new_result(out, "season_spells", list(
    of = of, seasons = seasons, average = average,
    lacking = names_of_lines(lacking, several_measures(x)),
    several = several_measures(x),
    points = spell_points(x, along, made), unit = facts(x)$added[[of]]$unit,
    calendar = facts(x)$calendar, series = facts(x)$series,
    measures = facts(x)$measures, sources = facts(x)$sources
  ), needed = c(
    "measure", "season", "year", "onset", "end", "late",
    "periods"
  ))
}

# list(levels, position, year): the position in the year, from 0, and the year
# of each number from the first to the last.
places_in_year <- function(along, calendar) {
  position <- c(
    day = "day of year", "working day" = "day of year", week = "week",
    month = "month"
  )[calendar$unit]
  if (is.na(position) || calendar$number != 1 || by_clock(calendar)) {
    abort_backfill(
      "input",
      "Seasons are dated by days, weeks or months, and these are",
      "{period_noun(calendar, 2)}.",
      ">" = "Roll the records up to one of these."
    )
  }
  start <- period_start(
    seq(min(along$number), max(along$number)), along$calendar
  )
  at <- position_factor(start, position[[1]], 1L)
  # A week is of the year that has most of it.
  day <- if (position == "week") start + 3 else start
  list(
    levels = levels(at), position = as.integer(at) - 1L,
    year = as.POSIXlt(day)$year + 1900L
  )
}

check_spell_reach <- function(reach, positions, calendar) {
  if (is.null(reach)) {
    return(as.integer(round(positions / 6)))
  }
  count <- whole_periods(reach, calendar)
  if (is.null(count) || count < 0 || count >= positions / 2) {
    stop_periods(reach, calendar, "reach", "over")
  }
  as.integer(count)
}

stop_fewer_seasons <- function(keys, seasons) {
  abort_backfill(
    "season", "{lacking_in_words(names_of_lines(keys), seasons)}.",
    ">" = if (seasons > 1) "Ask for fewer with `seasons`."
  )
}

lacking_in_words <- function(names, seasons) {
  sprintf(
    "%s %s %s", in_words(names, 4), if (length(names) == 1) "has" else "have",
    if (seasons == 1) {
      "no season: nothing rises and falls over the year"
    } else {
      sprintf("fewer than %d seasons a year", seasons)
    }
  )
}

# list(total, n): of the values of each dated season.
sums_of_spells <- function(along, line, made) {
  known <- !is.na(along$value)
  sum <- cumsum(ifelse(known, along$value, 0))
  count <- cumsum(known)
  key <- function(line, number) paste(line, number)
  own <- key(line, along$number)
  from <- match(key(made$line, made$dated_onset), own)
  to <- match(key(made$line, made$dated_end), own)
  between <- function(running) {
    running[to] - c(0, running)[from]
  }
  list(total = between(sum), n = between(count))
}

# Whether values of each measure add up over time.
adds_up <- function(x) {
  uses <- vapply(facts(x)$measures, `[[`, "", "use")
  uses %in% c("sum", "count", "slots")
}

# The values with their departures from the mean, and the sum of these so far.
spell_points <- function(x, along, made) {
  line <- first_rows(along)$line
  anomaly <- along$value - made$mean[line]
  running <- stats::ave(
    ifelse(is.na(anomaly), 0, anomaly), line, FUN = cumsum
  )
  new_rows(
    vctrs::vec_slice(keys_of(x), along$order),
    period = column_along(x$period, along), value = along$value,
    anomaly = anomaly, running = ifelse(is.na(anomaly), NA, running)
  )
}

#' @rdname season_spells
#' @param object Seasons, from `season_spells()`.
#' @param ... Not used.
#' @export
summary.backfill_season_spells <- function(object, ...) {
  about <- facts(object)
  data <- plain_tibble(object)
  keys <- c(about$series, "measure", "season")
  average <- about$average
  of <- vctrs::vec_match(data[keys], average[keys])
  dated <- !is.na(data$onset)
  each <- function(values, statistic) {
    as.numeric(tapply(
      values[dated], factor(of[dated], seq_len(nrow(average))), statistic
    ))
  }
  # Of a year like any other, so that dates of several years compare.
  moved <- data$late
  ended <- moved + data$periods
  row <- function(values, pick) {
    data_rows <- seq_len(nrow(data))
    at <- vapply(split(
      data_rows[dated], factor(of[dated], seq_len(nrow(average)))
    ), function(rows) {
      if (length(rows) == 0) NA_integer_ else rows[pick(values[rows])]
    }, 0L)
    unname(at)
  }
  years <- tabulate(of[dated], nrow(average))
  out <- new_rows(
    average[keys], years = years,
    average[c("average_onset", "average_end")],
    onset_sd = each(moved, stats::sd), end_sd = each(ended, stats::sd),
    earliest_onset = data$onset[row(moved, which.min)],
    latest_onset = data$onset[row(moved, which.max)],
    earliest_end = data$end[row(ended, which.min)],
    latest_end = data$end[row(ended, which.max)],
    mean_periods = each(data$periods, mean),
    # One year agrees with none.
    p = ifelse(years < 2, NA_real_, average$p)
  )
  new_result(out, "spell_summary", about)
}
