#' Add the anomaly
#'
#' Takes from each value the average at its position of the year, the week or
#' the day, which shows what is warm for a January. The difference can also be
#' given in standard deviations, and added up over time.
#'
#' The averages are those of all years, or of the span `reference`, so an
#' anomaly knows of later periods: it describes the past, whereas
#' [flag_periods()] raises an alarm. 29 February has a position of its own.
#'
#' @inheritParams add_growth
#' @param name Name of the new column.
#' @param position The positions: `"month"`, `"day of year"`, `"week"`,
#'   `"quarter"`, `"weekday"`, `"hour"` and so on, see [cycle_profile()].
#' @param standardised `TRUE` divides by the standard deviation at the position.
#' @param smooth Over how many positions, an odd number, the averages and
#'   standard deviations are smoothed around the cycle; 1 leaves them as they
#'   are. For days of the year 21 is usual.
#' @param running `TRUE` adds a second column, `running_` and the name, the sum
#'   of the anomalies so far in each series.
#' @param reference Two dates or times, from which and to which the averages are
#'   taken; `NULL` for all.
#' @return The table with one column more, or two.
#' @section Errors: `backfill_error_input`, `backfill_error_column`,
#'   `backfill_error_argument`.
#' @references Standardised anomalies: Wilks, D. S. (2011). *Statistical Methods
#'   in the Atmospheric Sciences*, 3rd ed., chapter 3. Academic Press.
#' @examples
#' crossings <- read_records(
#'   demo_file("crossings.csv"), when = "time",
#'   measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' daily <- roll_up(crossings, every = "day")
#' daily <- add_anomaly(
#'   daily, "day of year", smooth = 21, running = TRUE
#' )
#' autoplot(daily, of = "running_anomaly")
#' @export
add_anomaly <- function(
  x, position, standardised = FALSE, smooth = 1, running = FALSE,
  reference = NULL,
  of = "value", name = "anomaly"
) {
  check_given()
  x <- check_periods(x)
  position <- check_position(position, "position")
  check_new_name(name, x)
  check_smooth(smooth)
  along <- along_series(x, of)
  made <- anomalies(
    along, named_by(x$period[along$order], along$calendar), position,
    in_reference(along, reference), smooth, standardised
  )
  note <- new_note(
    "anomaly", of,
    paste0(
      if (standardised) "standardised ",
      "anomaly of {of} from its average at each ", position
    ),
    drifts = FALSE,
    unit = if (!standardised) facts(x)$added[[of]]$unit,
    made = list(
      position = position, standardised = standardised, smooth = smooth,
      reference = reference
    ),
    withheld = c(
      "the period is not whole" = sum(is.na(along$value)),
      "there is no average at its position" = sum(
        is.na(made) & !is.na(along$value)
      )
    )
  )
  out <- add_column(x, name, made, along, note)
  if (running) {
    out <- add_running_anomaly(out, name, made, along, note)
  }
  out
}

check_smooth <- function(smooth) {
  if (!is_number(smooth) || !smooth %in% seq(1, 365, 2)) {
    abort_backfill(
      "argument",
      "`smooth` is {value_in_words(smooth)}; it must be an odd number of",
      "positions."
    )
  }
}

# Each value less the average of its position, in the order of `along`; only
# the `counted` rows make the averages.
anomalies <- function(
  along, when, from, counted, smooth, standardised
) {
  rows <- first_rows(along)
  position <- position_factor(when, from, along$calendar$year_start)
  places <- nlevels(position)
  cell <- (rows$line - 1L) * places + as.integer(position)
  made <- cells_cpp(
    ifelse(counted, cell, 0L), along$value, length(rows$first) * places,
    numeric()
  )
  value <- along$value - smoothed_around(made$mean, places, smooth)[cell]
  if (standardised) {
    spread <- smoothed_around(made$spread, places, smooth)[cell]
    value <- value / ifelse(spread > 0, spread, NA)
  }
  value
}

add_running_anomaly <- function(out, name, anomaly, along, note) {
  rows <- first_rows(along)
  total <- cumsum(ifelse(is.na(anomaly), 0, anomaly))
  total <- total - c(0, total)[rows$first][rows$line]
  # Anomalies add up to 0 but for rounding, which is by the size of each
  # series' own.
  largest <- as.vector(tapply(abs(total), rows$line, max))[rows$line]
  total[abs(total) < 1e-10 * largest] <- 0
  total[is.na(anomaly)] <- NA
  running_name <- check_new_name(paste0("running_", name), out)
  add_column(out, running_name, total, along, new_note(
    "running anomaly", name, "running sum of {of}", unit = note$unit,
    withheld = note$withheld
  ))
}

in_reference <- function(along, reference) {
  if (is.null(reference)) {
    return(rep(TRUE, length(along$number)))
  }
  reference <- as_moments(reference, "reference", along$calendar$zone)
  if (length(reference) != 2 || anyNA(reference)) {
    abort_backfill(
      "argument",
      "`reference` must be two dates, from which and to which averages are",
      "taken."
    )
  }
  ends <- period_number(reference, along$calendar)
  along$number >= ends[[1]] & along$number <= ends[[2]]
}

# The mean of each position and of as many beside it as make `width`, around the
# cycle; missing ones do not count.
smoothed_around <- function(value, places, width) {
  if (width == 1) {
    return(value)
  }
  grid <- matrix(value, places)
  half <- width %/% 2
  shifts <- lapply(
    seq(-half, half), function(by) (seq_len(places) - 1 + by) %% places + 1
  )
  sum <- Reduce(
    `+`, lapply(shifts, function(at) ifelse(is.na(grid[at, ]), 0, grid[at, ]))
  )
  count <- Reduce(`+`, lapply(shifts, function(at) !is.na(grid[at, ])))
  as.vector(sum / ifelse(count > 0, count, NA))
}
