#' Put periods tables together
#'
#' Several tables of the same calendar as one, so that their series can be set
#' against each other.
#'
#' @param ... Periods tables, from [roll_up()], of one calendar.
#' @return A periods table in which each series is a measure of its own, with
#'   its kind and unit.
#' @section Errors: `backfill_error_input` where one is not a periods table,
#'   where the calendars differ, or where two have a series of the same name.
#' @seealso [align_as_of()] for series of unlike frequency.
#' @concept bind rows
#' @examples
#' nights <- read_records(demo_file("inns.csv"), when = "month",
#'   series = "inn", measures = c(guest_nights = "flow")
#' )
#' kilos <- read_records(demo_file("landings.csv"), when = "date",
#'   duplicates = "keep", measures = c(kilos = "flow")
#' )
#' put_together(
#'   roll_up(nights, every = "month"), roll_up(kilos, every = "month")
#' )
#' @export
put_together <- function(...) {
  tables <- list(...)
  if (length(tables) == 0 || !all(vapply(tables, is_periods, NA))) {
    abort_backfill(
      "input", "Each of the tables must be a periods table.",
      ">" = "roll_up() makes one."
    )
  }
  tables <- lapply(tables, check_periods)
  check_one_calendar(tables)
  lines <- lapply(tables, line_names)
  check_lines_apart(unlist(lapply(lines, unique)), NULL)
  columns <- c("measure", "period", "value", "standing", "n", "coverage")
  data <- vctrs::vec_rbind(!!!Map(function(table, line) {
    plain <- plain_tibble(table)
    plain$measure <- line
    plain[columns]
  }, tables, lines))
  measures <- unlist(Map(function(table, line) {
    first <- !duplicated(line)
    stats::setNames(facts(table)$measures[table$measure[first]], line[first])
  }, tables, lines), recursive = FALSE)
  role <- facts(tables[[1]])
  new_periods(data, list(
    calendar = role$calendar, series = character(), measures = measures,
    cadences = list(
      names = vctrs::data_frame(.size = 1),
      cadences = shared_cadence(lapply(tables, function(table) {
        facts(table)$cadences$cadences
      }))
    ),
    enough = least_enough(lapply(tables, function(table) facts(table)$enough)),
    sources = unique(unlist(lapply(tables, sources_of)))
  ))
}

check_one_calendar <- function(tables) {
  calendars <- lapply(tables, function(table) {
    cut_of_calendar(facts(table)$calendar)
  })
  if (length(unique(calendars)) > 1) {
    nouns <- vapply(
      tables, function(table) period_noun(facts(table)$calendar, 2), ""
    )
    abort_backfill(
      "input", "The tables have unlike calendars: {in_words(unique(nouns))}.",
      ">" = "Roll them up to one, or use align_as_of() for series of unlike",
      "frequency."
    )
  }
}
