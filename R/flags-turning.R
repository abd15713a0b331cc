#' Turning points
#'
#' Finds the local lows and highs of a column: periods whose figure is the
#' lowest, or the highest, of those within `span` periods on either side; and
#' the spells from each low to the next high. In a running anomaly these are
#' spells above the average, of which a season may have several;
#' [season_spells()] dates the season of each year.
#'
#' Of equal figures in a row the middle one stands for all. Periods without a
#' figure are skipped. A period whose span reaches past an end is not a turning
#' point. Where two lows follow on each other, the lower one is kept, and of two
#' highs the higher one, so that lows and highs take turns. A profile is taken
#' to go around, from December to January.
#'
#' @param x A periods table, or a profile, from [cycle_profile()], for the
#'   average cycle.
#' @param span How many periods on either side: a number or a length of time; of
#'   a profile a number of positions.
#' @param of Name of the column.
#' @return A tibble with a row for each turning point: the series columns,
#'   `measure`, `period` (or `position`), `value`, `turn` (`"low"` or `"high"`)
#'   and `spell`, the number of the spell that it starts or ends. `summary()`
#'   gives the spells: `start`, `end`, `periods` (from one to the other) and
#'   `rise`.
#' @section Errors: `backfill_error_input`, `backfill_error_column`,
#'   `backfill_error_over` for `span`.
#' @examples
#' crossings <- read_records(
#'   demo_file("crossings.csv"), when = "time",
#'   measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' daily <- add_anomaly(
#'   roll_up(crossings, every = "day"), "weekday", running = TRUE
#' )
#' busy <- turning_points(daily, span = "60 days", of = "running_anomaly")
#' summary(busy)
#' @export
turning_points <- function(x, span, of = "value") {
  check_given()
  profile <- inherits(x, "backfill_profile")
  if (profile) {
    return(turns_of_profile(x, span))
  }
  x <- check_periods(x)
  reach <- whole_periods(span, facts(x)$calendar)
  if (is.null(reach)) {
    stop_periods(span, facts(x)$calendar, "span", "over")
  }
  along <- along_series(x, of)
  found <- turning_cpp(
    along$series, along$number, along$value, as.integer(reach), FALSE
  )
  rows <- found$row
  keys <- vctrs::vec_slice(
    plain_tibble(x)[c(facts(x)$series, "measure", "period")], along$order[rows]
  )
  line <- first_rows(along)$line[rows]
  # What is drawn with it: a running anomaly below what it runs over.
  note <- facts(x)$added[[of]]
  points <- new_rows(
    plain_tibble(x)[along$order, c(facts(x)$series, "measure", "period")],
    figure = along$value
  )
  if (identical(note$verb, "running anomaly") && note$of %in% names(x)) {
    points$below <- as.double(x[[note$of]])[along$order]
  }
  new_result(new_rows(
    keys, value = along$value[rows], turn = c("low", "high")[1 + found$high],
    spell = spell_numbers(line, found$high)
  ), "turns", list(
    several = several_measures(x),
    points = points, of = of, span = count_of_periods(reach, facts(x)$calendar),
    calendar = facts(x)$calendar,
    series = facts(x)$series, measures = facts(x)$measures,
    sources = facts(x)$sources
  ))
}

turns_of_profile <- function(x, span) {
  season <- facts(x)
  check_whole(span, "span", 1, 365, "how many positions on either side")
  keys <- plain_tibble(x)[c(season$series, "measure", season$apart)]
  known <- which(!is.na(x$value))
  line <- vctrs::vec_group_id(keys[known, ])
  place <- stats::ave(seq_along(known), line, FUN = seq_along)
  found <- turning_cpp(
    as.integer(line), as.numeric(place), x$value[known], as.integer(span), TRUE
  )
  rows <- known[found$row]
  new_result(new_rows(
    keys[rows, ], position = x$position[rows], value = x$value[rows],
    turn = c("low", "high")[1 + found$high],
    spell = spell_numbers(line[found$row], found$high)
  ), "turns", list(of = "value", span = count_of(span, "position"),
                   around = length(unique(x$position)), series = c(
                     season$series, season$apart
                   ),
                   measures = season$measures, sources = season$sources))
}

# A low starts a spell, the high behind it ends it.
spell_numbers <- function(line, high) {
  before <- c(
    FALSE, high[-length(high)] == FALSE & line[-1] == line[-length(line)]
  )
  starts <- !high | (high & !before[seq_along(high)])
  as.integer(stats::ave(as.numeric(starts), line, FUN = cumsum))
}

#' @rdname turning_points
#' @param object Turning points.
#' @param ... Not used.
#' @export
summary.backfill_turns <- function(object, ...) {
  season <- facts(object)
  data <- plain_tibble(object)
  at <- if ("period" %in% names(data)) "period" else "position"
  keys <- data[c(season$series, "measure")]
  line <- vctrs::vec_group_id(keys)
  low <- which(data$turn == "low")
  high <- match(
    paste(line[low], data$spell[low]),
    paste(line, data$spell)[data$turn == "high"]
  )
  high <- which(data$turn == "high")[high]
  if (!is.null(season$around)) {
    # The last low of a cycle ends with its first high.
    first_high <- match(line[low], ifelse(data$turn == "high", line, NA))
    high <- ifelse(is.na(high), first_high, high)
  }
  paired <- !is.na(high)
  low <- low[paired]
  high <- high[paired]
  length <- if (is.null(season$around)) {
    number <- period_number(
      data$period, lay_calendar_over(season$calendar, data$period)
    )
    number[high] - number[low]
  } else {
    (as.integer(data$position)[high] - as.integer(data$position)[low]) %%
      season$around
  }
  new_result(
    new_rows(
      keys[low, ], start = data[[at]][low], end = data[[at]][high],
      periods = as.integer(length), rise = data$value[high] - data$value[low]
    ),
    "spells", season
  )
}
