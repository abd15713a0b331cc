# How the levels before and after a shift were made.

#' @export
working_of.backfill_shifts <- function(x, one, column, table) {
  about <- facts(x)
  along <- along_series(table, about$of)
  own <- places_of_line(one, along, table)
  points <- points_of_shifts(x, one, along)
  means <- lapply(c(before = "before", after = "after"), function(side) {
    at <- points[points$side %in% side, ]
    rest <- at$season
    if (about$line) rest <- rest + at$fitted - one[[side]]
    list(
      text = worked_text("mean(x - rest)", x = at$value, rest = rest),
      places = places_in_time(own, at$period, along)
    )
  })
  size <- sprintf("%s - %s", means$after$text, means$before$text)
  text <- switch(
    column, before = , after = means[[column]]$text, size = size,
    percent = sprintf("100 * (%s) / %s", size, means$before$text), NA
  )
  places <- if (column %in% names(means)) means[[column]]$places else
    c(means$before$places, means$after$places)
  fitted <- c(if (any(points$season != 0)) "season", if (about$line) "line")
  new_working(along$order[places], text, about$of, paste0(switch(
    column, before = , after = sprintf("level %s the shift", column),
    size = "level after the shift less that before",
    percent = "size of the shift in percent of the level before",
    lower = , upper = "the size of the shift, moved by its likely error",
    p = "how often 499 random series without the shift have one as large",
    "how many periods a ramp in place of the step would take"
  ), if (!is.na(text) && length(fitted) > 0) {
    sprintf(" (rest: the %s, fitted along with it)", in_words(fitted))
  }))
}

# The figures of the line of a shift: list(period, value, fitted, season, side),
# where `side` says whether they lie between it and the next one before or
# after, and `season` is what the fit has for their position.
points_of_shifts <- function(x, one, along) {
  about <- facts(x)
  keys <- c(about$series, "measure")
  of_line <- function(rows) {
    rows[vctrs::vec_in(rows[keys], vctrs::vec_cast(one[keys], rows[keys])), ]
  }
  points <- of_line(about$points)
  number <- period_number(points$period, along$calendar)
  points$season <- 0
  whole <- vctrs::vec_match(one[keys], about$whole[keys])
  if (isTRUE(about$seasonal[whole] > 0)) {
    cycle <- check_cycle(about$cycle$words, along$calendar)
    points$season <- stats::ave(
      points$value - points$fitted, cycle$position(number, along$calendar)
    )
  }
  shifts <- period_number(of_line(plain_tibble(x))$period, along$calendar)
  at <- period_number(one$period, along$calendar)
  near <- findInterval(number, shifts) - findInterval(at, shifts)
  points$side <- c("before", "after")[match(near, c(-1, 0))]
  points
}
