# Whether a series has a season, as other verbs ask.

# Which of these rows are of series whose positions differ.
lines_with_season <- function(along, rows, cycle, form) {
  if (length(rows) == 0) {
    return(logical())
  }
  past <- c(
    lapply(along[c("series", "number", "value")], `[`, rows),
    along["calendar"]
  )
  at <- positions_along(past, cycle)
  found <- season_cpp(
    past$series, past$number, past$value, at$position - 1L, at$first,
    cycle$length, form == "multiplicative", FALSE, 0L, TRUE
  )
  facts <- season_facts(found$facts)
  p <- stats::pf(facts$f, facts$f_free, facts$f_within, lower.tail = FALSE)
  first <- runs_cpp(list(past$series))$run
  ((facts$fault == 0 & p < 0.01) %in% TRUE)[first]
}

# Which columns of figures have one: a row for each period of these numbers.
columns_with_season <- function(values, number, calendar) {
  none <- rep(FALSE, ncol(values))
  if (is.null(calendar) || is.null(known_cycle(calendar))) {
    return(none)
  }
  known <- which(!is.na(values))
  along <- list(
    series = col(values)[known], number = number[row(values)[known]],
    value = values[known], calendar = calendar
  )
  seasonal <- lines_with_season(
    along, seq_along(known), check_cycle(NULL, calendar), "additive"
  )
  replace(none, along$series[seasonal], TRUE)
}
