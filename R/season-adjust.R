#' Take the season out, and put it back
#'
#' `deseasonalise()` divides each value by the index at its position of the
#' cycle (or takes the index off, in additive form); `reseasonalise()` does the
#' opposite, and gives back what was there, but for the rounding of the last
#' digit. The index may come from another span of time, from earlier periods
#' only, or from a file.
#'
#' An index of one series is applied to all series of the table. Of one with
#' several, each series of the table takes the one of its own name and measure.
#'
#' @inheritParams add_growth
#' @param name Name of the new column.
#' @param index A seasonal index, from [seasonal_index()] or [read_index()], of
#'   periods of the same length. `deseasonalise()` without one takes that of `x`
#'   itself.
#' @return The table with one column more, in the unit of `of`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table,
#'   `index` no seasonal index, or their periods differ; `backfill_error_season`
#'   for a value below zero and a multiplicative index; `backfill_error_column`.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' adjusted <- deseasonalise(monthly)
#' reseasonalise(adjusted, seasonal_index(monthly))
#' @export
deseasonalise <- function(
  x, index = seasonal_index(x, of = of), of = "value", name = "adjusted"
) {
  apply_index(
    x, index, of, name, "deseasonalised", function(value, index) value / index,
    function(value, index) value - index
  )
}

#' @rdname deseasonalise
#' @export
reseasonalise <- function(x, index, of = "adjusted", name = "reseasonalised") {
  apply_index(
    x, index, of, name, "reseasonalised", function(value, index) value * index,
    function(value, index) value + index
  )
}

apply_index <- function(x, index, of, name, verb, by_ratio, by_difference) {
  x <- check_periods(x)
  check_new_name(name, x)
  along <- along_series(x, of)
  ratio <- check_index(index, x)$form == "multiplicative"
  below <- which(along$value < 0)
  if (ratio && length(below) > 0) {
    abort_backfill(
      "season",
      "\"{of}\" has a value of {plain_format(along$value[[below[[1]]]])}; a",
      "multiplicative season needs values above zero.",
      ">" = "Make the index with `form` as \"additive\"."
    )
  }
  made <- made_with_index(index)
  own <- index_along(made, x, along)
  value <- (if (ratio) by_ratio else by_difference)(along$value, own)
  lacking <- is.na(own)
  how <- if (verb == "deseasonalised") "without the season" else "in the season"
  note <- new_note(
    verb, of, paste("{of}", how, "of", facts(index)$cycle$words),
    unit = facts(x)$added[[of]]$unit, made = made,
    form_said = facts(index)$form_said,
    withheld = c("the index has none for them" = sum(lacking),
                 "the period is not whole" = sum(is.na(value) & !lacking))
  )
  add_column(x, name, value, along, note)
}

# What is kept of an index where something was made with it: of one that moves
# that of each period, told by when it starts.
made_with_index <- function(index) {
  columns <- c(facts(index)$series, "measure", "position", "index")
  kept <- plain_tibble(facts(index)$moving %||% index)
  kept <- kept[c(columns, intersect("start", names(kept)))]
  kept$position <- as.character(kept$position)
  list(
    index = kept, form = facts(index)$form, cycle = facts(index)$cycle$length
  )
}

# What an index knows of itself; it must fit the periods of `x`.
check_index <- function(index, x) {
  season <- facts(index)
  if (!inherits(index, "backfill_seasonal_index")) {
    abort_backfill(
      "input", "`index` is {value_in_words(index)}, not a seasonal index.",
      ">" = "Make one with seasonal_index()."
    )
  }
  if (
    nrow(index) == 0 || !all(
      c(season$series, "measure", "position", "index") %in% names(index)
    )
  ) {
    abort_backfill(
      "input", "`index` lacks rows or columns that it was made with.",
      ">" = "Keep its series columns, measure, position and index."
    )
  }
  check_same_positions(season$calendar, facts(x)$calendar, "index")
  season
}

# The index of each row of `along`, of what made_with_index() keeps.
index_along <- function(made, x, along) {
  index <- made$index
  cycle <- check_cycle(made$cycle, facts(x)$calendar)
  at <- positions_along(along, cycle)
  position <- at$position[along$number - at$first + 1]
  keys <- index[setdiff(names(index), c("position", "index", "start"))]
  lines <- vctrs::vec_unique(keys)
  line <- line_of_index(lines, x, along)
  place <- match(index$position, cycle$labels)
  if (anyNA(place)) {
    abort_backfill(
      "input",
      "`index` has {in_words(unique(index$position[is.na(place)]), 4)}, which",
      "the periods of the table do not have.",
      i = "Both must have the same calendar."
    )
  }
  own <- position + cycle$length * (line - 1)
  at <- place + cycle$length * (vctrs::vec_match(keys, lines) - 1)
  index$index[if ("start" %in% names(index)) {
    when <- as.numeric(column_along(x$period, along))
    latest_by_then(own, when, at, index$start)
  } else {
    match(own, at)
  }]
}

# Which of the `lines` of an index each row of `along` takes: that of its name,
# or the only one.
line_of_index <- function(lines, x, along) {
  if (nrow(lines) == 1) {
    return(1)
  }
  rows <- first_rows(along)
  own <- keys_at(x, along, rows$first)
  if (!setequal(names(own), names(lines))) {
    abort_backfill(
      "input",
      "`index` tells its series apart by {in_words(names(lines))}, the table",
      "by {in_words(names(own))}."
    )
  }
  vctrs::vec_match(own[names(lines)], lines)[rows$line]
}

# Lines through series with a multiplicative season stay above zero: where one
# does not, its series has none, with a warning, and where none does that is an
# error. `counts` says which of the figures matter.
above_zero <- function(fitted, counts, line, keys, what, remedy) {
  below <- unique(line[which(counts & fitted <= 0)])
  if (length(below) == 0) {
    return(fitted)
  }
  name <- in_words(names_of_lines(keys)[below], 4)
  if (length(below) == nrow(keys)) {
    abort_backfill(
      "season",
      "{what} to zero or below ({name}); a multiplicative season stays above",
      "it.",
      ">" = "{remedy}"
    )
  }
  warn_backfill(
    "season", "{what} to zero or below in {name}: none is given there. {remedy}"
  )
  fitted[line %in% below] <- NA
  fitted
}
