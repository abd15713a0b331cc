# What the records of a source are rolled up over: list of
#   calendar  laid over its zone and times
#   columns   the periods, see roll_up_cpp(); scale: seconds of one in its times
#   names     the series, a row each; with `cadences`, `surveys`, `irregular`
#   groups    what `by` makes of the series, see group_series()
#   expected  how many slots each cell should have; reached, whether the records
#             reach over all of it; reach, over what share of each period
#   cut, the cells that are, see cut_cells()
#   enough, known_cadences, span, sources  as new_periods() keeps them
#   own       what is otherwise for measures that come by a cadence of their own
# and what stands beside in the outline of the source.
# Where it is `silent`, no record is a zero, over all of what was asked for.
roll_frame <- function(x, calendar, by, cadence, enough, measures, silent) {
  UseMethod("roll_frame")
}

#' @export
roll_frame.default <- function(
  x, calendar, by, cadence, enough, measures, silent
) {
  outline <- source_outline(x, by)
  if (by_clock(calendar) && outline$dates) {
    abort_backfill(
      "every",
      "The records have dates only, which cannot be rolled up by the",
      "{period_noun(calendar)}."
    )
  }
  if (outline$dates) {
    calendar$zone <- "UTC" # a date is the same in every zone
  }
  outline$scale <- if (outline$dates) 86400 else 1
  asked <- if (silent) asked_span(x, outline$dates)
  outline$ends <- range(outline$ends, asked / outline$scale)
  seconds <- outline$ends * outline$scale
  check_span(outline, calendar, measures)
  outline$sources <- c(outline$sources, calendar$source)
  calendar <- lay_calendar(
    calendar, facts(x)$zone, seconds[[1]], seconds[[2]]
  )
  survey <- source_survey(x, outline, calendar$table, is.null(cadence))
  if (!is.null(asked)) {
    survey$all <- survey_over(survey$all, asked, calendar$table)
  }
  cadences <- if (is.null(cadence)) {
    found_cadences(x, outline, survey, calendar$table)
  } else {
    parse_cadence(cadence, survey, facts(x)$kept)
  }
  columns <- table_columns(survey$all$lowest, survey$all$highest, calendar)
  check_finer(cadences, calendar, outline$names)
  check_not_cut_through(cadences, calendar)
  check_size(columns, nrow(outline$names), measures)
  timed <- function(cadences, surveys) {
    frame_in_time(
      columns, calendar, cadences, surveys, survey$all, outline$names
    )
  }
  own <- if (is.null(cadence)) {
    found <- cadences_apart(x, outline, survey, cadences, calendar$table)
    lapply(found, function(one) timed(one$cadences, one$surveys))
  }
  frame <- c(outline, timed(cadences, survey$each), list(
    calendar = calendar, columns = columns,
    groups = group_series(outline$names, outline$by), enough = enough, own = own
  ))
  if (length(own) > 0) {
    frame$known_cadences <- cadences_by_measure(lapply(
      stats::setNames(nm = plain_names(x)),
      function(name) frame_of_measure(frame, name)$known_cadences
    ))
  }
  frame
}

# What a frame has by the `cadences` of its series and the `surveys` of their
# records, `all` that of all together.
frame_in_time <- function(columns, calendar, cadences, surveys, all, names) {
  number <- columns$first + seq_len(columns$count) - 1
  bounds <- boundaries_cpp(c(number, max(number) + 1), calendar)
  expected <- expected_slots(number, bounds, calendar, cadences)
  reach <- reached_share(bounds, calendar, all, cadences)
  # Where the coverage is known it says how much of an end is there.
  irregular <- which(is.na(expected[1, ]))
  expected <- as_cells(expected, cadences)
  ends <- ends_of_series(surveys, cadences, calendar$table)
  list(
    cadences = cadences, surveys = surveys, irregular = cadences$steps == 0L,
    expected = expected,
    cut = cut_cells(bounds, calendar, cadences, ends, expected),
    reach = reach$share[, c(irregular, 1)[[1]]],
    reached = as_cells(reach$share == 1, cadences), span = reach$span,
    known_cadences = c(list(names = names, cadences = cadences), ends)
  )
}

# The frame of a measure that comes by a cadence of its own.
frame_of_measure <- function(frame, name) {
  own <- frame$own[[name]]
  replace(frame, names(own), own)
}

# What is known of the cadences, for planned measures by the names of those that
# they are made of.
cadences_of_plan <- function(known, planned) {
  if (is.null(known$names[["measure"]])) {
    return(known)
  }
  cadences_by_measure(lapply(planned, function(one) {
    cadences_of_measure(known, if (one$use == "parts") one$of else one$from)
  }))
}

# What is one for each period and distinct cadence as cells, series by series;
# where all series have one cadence, once for all of them.
as_cells <- function(slots, cadences) {
  if (ncol(slots) == 1) {
    return(slots[, 1])
  }
  as.vector(slots[, vctrs::vec_match(cadences, vctrs::vec_unique(cadences))])
}
