# What the records of a source are rolled up over: list of
#   calendar  laid over its zone and times
#   columns   the periods, see roll_up_cpp(); scale: seconds of one in its times
#   names     the series, a row each; with `cadences`, `surveys`, `irregular`
#   groups    what `by` makes of the series, see group_series()
#   expected  how many slots each cell should have; reached, whether the records
#             reach over all of it; reach, over what share of each period
#   enough, known_cadences, span, sources  as new_periods() keeps them
# and what stands beside in the outline of the source.
new_frame <- function(x, outline, calendar, cadence, enough, measures, call) {
  if (by_clock(calendar) && outline$dates) {
    abort_backfill(
      "every",
      sprintf(
        "The records have dates only, which cannot be rolled up by the %s.",
        period_noun(calendar)
      ),
      call = call
    )
  }
  if (outline$dates) {
    calendar$zone <- "UTC" # a date is the same in every zone
  }
  outline$scale <- if (outline$dates) 86400 else 1
  seconds <- outline$ends * outline$scale
  check_span(outline, calendar, measures, call)
  outline$sources <- c(outline$sources, calendar$source)
  calendar <- lay_calendar(
    calendar, facts(x)$zone, seconds[[1]], seconds[[2]]
  )
  survey <- source_survey(x, outline, calendar$table, is.null(cadence))
  cadences <- if (is.null(cadence)) {
    find_cadences(survey, calendar$table)
  } else {
    parse_cadence(cadence, survey, call)
  }
  check_finer(cadences, calendar, outline$names, call)
  columns <- table_columns(survey$all$lowest, survey$all$highest, calendar)
  check_size(columns, nrow(outline$names), measures, call)
  number <- columns$first + seq_len(columns$count) - 1
  reach <- reached_share(number, calendar, survey, cadences)
  # Where the coverage is known it says how much of an end is there.
  irregular <- which(is_irregular(vctrs::vec_unique(cadences)))
  c(outline, list(
    calendar = calendar, columns = columns, cadences = cadences,
    surveys = survey$each, irregular = is_irregular(cadences),
    groups = group_series(outline$names, outline$by),
    expected = as_cells(expected_slots(number, calendar, cadences), cadences),
    reach = reach$share[, c(irregular, 1)[[1]]],
    reached = as_cells(reach$share == 1, cadences), span = reach$span,
    enough = enough %||% 1,
    known_cadences = list(names = outline$names, cadences = cadences)
  ))
}
