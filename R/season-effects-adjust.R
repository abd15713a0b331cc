#' Take the effects of the calendar out
#'
#' Divides each value by what weekdays, leap days and festivals make of it (or
#' takes that off, in additive form), so that periods compare as if each had an
#' average calendar. What the calendar has on average at each position of the
#' year is season, and stays: [deseasonalise()] with the new column as `of`
#' takes it out.
#'
#' Taken out are the effects that were found; where none was, the values stay as
#' they are, and the table says so.
#'
#' @inheritParams add_growth
#' @param effects Effects of the calendar, from [calendar_effects()], of periods
#'   of the same length; by default those of `x` itself. Effects of one series
#'   are applied to all series of the table, of several each takes its own.
#' @param name Name of the new column.
#' @return The table with one column more, in the unit of `of`.
#' @section Errors: Those of [calendar_effects()], and `backfill_error_input`
#'   where `effects` are none or of other periods; `backfill_error_column`.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' add_calendar_adjusted(monthly, calendar_effects(monthly, days = "working"))
#' @export
add_calendar_adjusted <- function(
  x, effects = calendar_effects(x, of = of), of = "value",
  name = "calendar_adjusted"
) {
  check_given()
  x <- check_periods(x)
  check_new_name(name, x)
  about <- check_effects(effects, facts(x)$calendar)
  along <- along_series(x, of)
  made <- made_with_effects(effects)
  ratio <- about$form == "multiplicative"
  moved <- moved_by_calendar(made, x, along)
  value <- if (ratio) along$value / exp(moved) else along$value - moved
  note <- new_note(
    "calendar adjusted", of, if (length(made$names) == 0) {
      "{of}, in which no effect of the calendar was found"
    } else {
      sprintf(
        "{of} as with an average calendar (%s%s)", in_words(made$shown),
        if (nrow(made$keys) > 1) ", where found" else ""
      )
    },
    unit = facts(x)$added[[of]]$unit, made = made,
    withheld = c(
      "there are no effects of its series" = sum(is.na(moved)),
      "the period is not whole" = sum(is.na(along$value) & !is.na(moved))
    )
  )
  add_column(x, name, value, along, note)
}

check_effects <- function(effects, calendar) {
  about <- facts(effects)
  if (!inherits(effects, "backfill_calendar_effects")) {
    abort_backfill(
      "input",
      "`effects` is {value_in_words(effects)}, not effects of the calendar.",
      ">" = "Make them with calendar_effects()."
    )
  }
  check_same_positions(about$calendar, calendar, "effects")
  about
}

# What is kept of effects where something was adjusted by them: the coefficients
# of those that were found in any series, zero where they were not in that.
made_with_effects <- function(effects) {
  about <- facts(effects)
  plain <- plain_tibble(effects)
  keys <- about$coefficients$keys
  names <- about$coefficients$names
  found <- matrix(plain$verdict == "found", ncol = nrow(keys))
  rows <- match(names, plain$effect)
  values <- about$coefficients$values
  values[!found[rows, , drop = FALSE]] <- 0
  kept <- rowSums(found[rows, , drop = FALSE]) > 0
  list(
    keys = keys, names = names[kept],
    values = lapply(which(kept), function(i) values[i, ]), told = about$told,
    form = about$form, shown = c(
      if (any(names[kept] %in% weekday_names)) "weekdays",
      setdiff(names[kept], weekday_names)
    )
  )
}

# By how much the calendar moves each row of `along`; NA where its series has no
# effects.
moved_by_calendar <- function(made, x, along) {
  own <- lines_of_effects(made, x, along)
  if (length(made$names) == 0) {
    return(ifelse(is.na(own), NA_real_, 0))
  }
  counts <- counts_along(made, along)
  Reduce(`+`, lapply(seq_along(made$names), function(j) {
    counts[, j] * made$values[[j]][own]
  }))
}

# The counts of each row of `along`, a column for each effect.
counts_along <- function(made, along) {
  counts <- calendar_counts(range(along$number), along$calendar, made$told)
  counts[
    along$number - min(along$number) + 1, made$names, drop = FALSE
  ]
}

# Which of the series that effects are of each row of `along` has.
lines_of_effects <- function(made, x, along) {
  lines <- first_rows(along)
  if (nrow(made$keys) == 1) {
    return(rep(1L, length(lines$line)))
  }
  keys <- keys_at(x, along, lines$first)
  if (!setequal(names(keys), names(made$keys))) {
    abort_backfill(
      "input",
      "`effects` tell their series apart by {in_words(names(made$keys))}, the",
      "table by {in_words(names(keys))}."
    )
  }
  vctrs::vec_match(keys[names(made$keys)], made$keys)[lines$line]
}
