#' Rank changes and series
#'
#' `rank_changes()` lists the consecutive periods between which a series moved
#' most, or least, or the stretches over which it hardly moved at all.
#' `rank_series()` lists the leaders in one period, with their share of the
#' total and their change from the period before.
#'
#' Only whole periods count, and only those that follow on each other. The
#' flattest stretches are those whose highest and lowest value lie closest
#' together, in percent of their mean or in the measure's unit; of overlapping
#' ones of a series the flattest is listed.
#'
#' @inheritParams add_growth
#' @param n How many to list.
#' @param order `"largest"` and `"smallest"` movements, up or down; `"rises"`;
#'   `"falls"`; or `"flattest"` stretches.
#' @param as `"percent"` or `"difference"`. By default percent, and differences
#'   of a column of changes (growth, returns), of which a percentage means
#'   nothing.
#' @param stretch How many periods a flattest stretch has, 2 or more; by default
#'   3.
#' @param per_series `TRUE` lists `n` of each series, `FALSE` of all series of a
#'   measure together.
#' @param within A longer length of period, such as `"year"`, to list `n` of
#'   each of these. A movement belongs to the one that its later period
#'   starts in.
#' @param at `"latest"`, for the latest period in which a series has a whole
#'   value, or a date or time in a period.
#' @return A tibble with a row for each, from the first rank on.
#'   `rank_changes()`: with `within` the label of each (`within`), `rank`, the
#'   series columns, `measure`, `from` and `to` (the starts of the first and
#'   last period), `first` and `last` (their values), `change` (in the measure's
#'   unit; of a stretch the distance of its highest and lowest value) and
#'   `percent`. `rank_series()`: `rank`, the series columns, `measure`,
#'   `period`, `value`, `share` (of all series of the measure, from 0 to 1; `NA`
#'   of levels), `before` (the value of the period before), `change` and
#'   `percent`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_column`, `backfill_error_argument`, `backfill_error_every`.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' rank_changes(monthly, n = 3, order = "falls")
#' rank_changes(monthly, n = 1, within = "year")
#' rank_series(monthly, at = "2031-07-01", n = 3)
#' @export
rank_changes <- function(
  x, n = 5, order = "largest", as = NULL, stretch = NULL, per_series = FALSE,
  within = NULL, of = "value"
) {
  check_given()
  x <- check_periods(x)
  as <- ranked_as(as, x, of)
  check_meant(
    !is.null(stretch) && order != "flattest", "stretch",
    sprintf("`order` is \"%s\", of one period to the next", order)
  )
  stretch <- stretch %||% 3
  along <- along_counted(x, of)
  moves <- if (order == "flattest") stretches(along, stretch) else
    movements(along)
  measure <- match(x$measure[along$order], unique(x$measure))
  inside <- stretch_of_each(x, along, within)
  group <- vctrs::vec_rank(
    new_rows(
      within = inside$number, of = if (per_series) along$series else measure
    ),
    ties = "dense"
  )
  ranked <- ranked_moves(moves, order, as, group, measure)
  if (order == "flattest") {
    ranked <- without_overlap(ranked, along, moves$first)
  }
  place <- place_within(group[ranked])
  ranked <- ranked[place <= n]
  in_percent <- as == "percent" || of == "value"
  first <- moves$first[ranked]
  out <- new_rows(
    within = inside$label[ranked], rank = place[place <= n],
    keys_at(x, along, ranked), from = period_start(
      along$number[first], along$calendar
    ),
    to = period_start(along$number[ranked], along$calendar),
    first = along$value[first], last = along$value[ranked],
    change = moves$change[ranked],
    percent = if (in_percent) moves$percent[ranked] else NA_real_
  )
  new_ranking(out, x, list(
    ranked = "changes", order = order, as = as, stretch = stretch, of = of,
    within = inside$noun, unit = facts(x)$added[[of]]$unit,
    left = if (of == "value") partial_rows(x)
  ))
}

# The moves that are asked for, in their order within each group.
ranked_moves <- function(moves, order, as, group, measure) {
  by <- if (as == "percent") moves$percent else moves$change
  size <- switch(
    order, largest = -abs(by), smallest = abs(by), rises = -by, falls = by,
    flattest = by
  )
  wrong_way <- (order == "rises" & by <= 0) | (order == "falls" & by >= 0)
  kept <- which(!is.na(size) & !wrong_way)
  kept[order(group[kept], size[kept], measure[kept], method = "radix")]
}

# A change is ranked by what it moved by, as a percentage of a percentage means
# nothing.
ranked_as <- function(as, x, of) {
  note <- facts(x)$added[[of]]
  change <- isTRUE(note$unit %in% c("%", "return", "points")) ||
    isFALSE(note$drifts)
  if (is.null(as)) {
    return(if (change) "difference" else "percent")
  }
  check_one_of(as, c("percent", "difference"), "as")
  if (change && as == "percent") {
    abort_backfill(
      "argument", "`as` is \"percent\", but \"{of}\" is a change already.",
      i = "A percentage of a percentage means nothing.",
      ">" = "Leave `as` out, or set it to \"difference\"."
    )
  }
  as
}

# list(number, label, noun): the longer period that each row starts in, if one
# is asked for.
stretch_of_each <- function(x, along, within) {
  if (is.null(within)) {
    return(list(number = rep(0, length(along$number)), label = NULL))
  }
  start <- period_start(along$number, along$calendar)
  longer <- lay_calendar_over(as_calendar(within, "within", of = x), start)
  check_not_shorter(longer, along$calendar, "within")
  number <- period_number(start, longer)
  label <- period_label(period_start(number, longer), longer)
  list(number = number, label = label, noun = period_noun(longer))
}

check_not_shorter <- function(longer, calendar, argument) {
  # Months and years are of unlike length.
  if (period_seconds(longer) < 0.9 * period_seconds(calendar)) {
    abort_backfill(
      "every",
      "`{argument}` is a {period_noun(longer)}, which is shorter than a",
      "{period_noun(calendar)}.",
      ">" = "Give a longer length of period, such as \"year\"."
    )
  }
}

# The partial periods, which have no movement.
partial_rows <- function(x) {
  plain_tibble(x)[
    x$standing == "partial", c(facts(x)$series, "measure", "period")
  ]
}

rank_orders <- c("largest", "smallest", "rises", "falls", "flattest")

#' @rdname rank_changes
#' @export
rank_series <- function(x, at = "latest", n = 10, of = "value") {
  check_given()
  x <- check_periods(x)
  along <- along_counted(x, of)
  here <- rows_at(at, along)
  sorted <- plain_tibble(x)[along$order, c(facts(x)$series, "measure")]
  value <- along$value[here]
  measure <- sorted$measure[here]
  order <- order(match(measure, unique(x$measure)), -value, method = "radix")
  place <- place_within(measure[order])
  keep <- order[place <= n]
  rows <- here[keep]
  before <- along$value[rows_before(along)][rows]
  moved_by <- along$value[rows] - before
  # Of the total of all series, listed or not.
  share <- shares_of_measure(value, measure, facts(x)$measures)
  out <- new_rows(
    rank = place[place <= n], vctrs::vec_slice(sorted, rows),
    period = period_start(along$number[rows], along$calendar),
    value = along$value[rows],
    share = share[keep],
    before = before, change = moved_by,
    percent = percent_above_zero(moved_by, before)
  )
  lacking <- length(unique(along$series)) - length(here)
  new_ranking(out, x, list(ranked = "series", lacking = lacking))
}

# The rows of the period asked for that have a whole value.
rows_at <- function(at, along) {
  known <- which(!is.na(along$value))
  if (length(known) == 0) {
    abort_backfill("input", "No period has a whole value.")
  }
  number <- if (identical(at, "latest")) {
    max(along$number[known])
  } else {
    number_at(at, along)
  }
  here <- known[along$number[known] == number]
  if (length(here) == 0) {
    abort_backfill(
      "argument",
      "`at` is {value_in_words(at)}, in which no series has a whole value."
    )
  }
  here
}

# Each value as a share of its measure's total, where values add up.
shares_of_measure <- function(value, measure, measures) {
  uses <- vapply(measures, `[[`, "", "use")[measure]
  total <- tapply(value, measure, sum)[measure]
  lowest <- tapply(value, measure, min)[measure]
  adds <- uses %in% c("sum", "count", "slots") & lowest >= 0 & total > 0
  as.vector(ifelse(adds, value / total, NA_real_))
}

# What a ranking knows: whether of "changes" or of "series" (`ranked`), and how
# many `lines` the table has.
new_ranking <- function(data, x, about) {
  kept <- facts(x)[c("calendar", "sources", "series", "measures")]
  lines <- vctrs::vec_unique_count(keys_of(x))
  new_result(data, "ranking", c(about, kept, list(
    lines = lines, several = several_measures(x)
  )))
}

# list(first, change, percent): what each row changed by from the period before
# it, which is row `first`.
movements <- function(along) {
  first <- rows_before(along)
  base <- along$value[first]
  change <- along$value - base
  list(
    first = first, change = change,
    percent = percent_above_zero(change, base)
  )
}

# The same of the stretches that end with each row.
stretches <- function(along, count) {
  counted <- only_counted(along)
  of <- function(code) {
    of_each_row(moving_cpp(
      counted$series, counted$number, counted$value, as.integer(count) - 1L, 0L,
      numeric(), FALSE, code, 0, 1
    )$value, along)
  }
  mean <- of(0L)
  change <- of(4L) - of(3L)
  list(
    first = rows_before(along, count - 1), change = change,
    percent = percent_above_zero(change, mean)
  )
}

# Of what is not above zero no share is told.
percent_above_zero <- function(change, base) {
  100 * change / ifelse(base > 0, base, NA)
}

# Of stretches of a series that overlap, those that come first in the ranking.
without_overlap <- function(ranked, along, first) {
  taken <- rep(FALSE, length(along$series))
  kept <- vapply(ranked, function(row) {
    rows <- seq(first[[row]], row)
    free <- !any(taken[rows])
    if (free) taken[rows] <<- TRUE
    free
  }, NA)
  ranked[kept]
}

# 1, 2, 3, ... within each group; groups lie together.
place_within <- function(group) {
  seq_along(group) - match(group, group) + 1L
}
