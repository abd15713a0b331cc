#' Add returns
#'
#' What a level gained or lost from one period to the next: simple returns
#' \eqn{x_t / x_{t-1} - 1}{x[t] / x[t-1] - 1}, or log returns
#' \eqn{\ln(x_t / x_{t-1})}{ln(x[t] / x[t-1])}; or what these have come to since
#' the start of the series: the growth of 1 invested,
#' \eqn{x_t / x_1}{x[t] / x[1]}, or the drawdown from the highest value so far,
#' \eqn{x_t / \max_{s \le t} x_s - 1}{x[t] / max(x[1..t]) - 1}. All are
#' fractions, 0.05 being 5%, and are printed as percentages.
#'
#' Simple returns are compounded over time and averaged over series; log returns
#' are added up over time.
#'
#' A return is taken from the latest whole value before it, since a market has
#' none on days on which it is closed; the sentence says how many returns span
#' more than one period. Days on which the calendar, or the series' cadence,
#' expects nothing do not count, and by default as many others may be missing as
#' are closed every week (two of a market), so that a holiday beside a weekend
#' does not break the series. Where the value before lies further back there is
#' no return, because a return over a month cannot stand beside those over days;
#' `longest` sets another limit. There is no return (`NA`) for the first value
#' of a series, for partial and empty periods, and where a value is zero or
#' negative. The reasons are counted.
#'
#' [summary()][summary.backfill_periods] has what the returns of a series come
#' to in a year: the compound mean \eqn{e^{k m} - 1}{exp(k m) - 1} and the
#' volatility \eqn{s \sqrt{k}}{s sqrt(k)}, with \eqn{m} the mean of the log
#' returns, \eqn{s} the standard deviation of the returns and \eqn{k} their
#' number per year, found from the calendar: the number of returns over the
#' years that they go over. Where none is withheld the compound mean is
#' \eqn{(x_n / x_1)^{1/y} - 1}{(x[n] / x[1])^(1/y) - 1}, with \eqn{y} the years
#' from the first value to the last.
#'
#' @inheritParams add_growth
#' @param as `"simple"` or `"log"`.
#' @param total `"none"` for the returns of periods, `"growth_of_1"` or
#'   `"drawdown"` for what they come to so far.
#' @param longest The longest distance to the value before: a number of periods,
#'   or a length of time such as `"5 days"`. By default as many periods may be
#'   missing as are closed every week.
#' @param name Name of the new column: by default `"return"`, `"log_return"`,
#'   `"growth_of_1"` or `"drawdown"`.
#' @return The table with one column more.
#' @section Errors: `backfill_error_input` where `x` is not a periods table or
#'   has no level, `backfill_error_column`, `backfill_error_argument`.
#' @references Campbell, J. Y., Lo, A. W. and MacKinlay, A. C. (1997). *The
#'   Econometrics of Financial Markets*, chapter
#'   1. Princeton University Press.
#' @examples
#' landings <- read_records(
#'   demo_file("landings.csv"), when = "date", series = "species",
#'   duplicates = "keep", measures = c(price = "level")
#' )
#' weekly <- add_returns(
#'   roll_up(landings, every = "week", enough = 0.5)
#' )
#' summary(weekly)
#' @export
add_returns <- function(
  x, as = "simple", total = "none", longest = NULL, of = "value", name = NULL
) {
  check_given()
  x <- check_periods(x)
  plain <- if (as == "log") "log_return" else "return"
  column <- if (total != "none") total else plain
  name <- check_new_name(name %||% column, x)
  kinds <- vapply(facts(x)$measures, `[[`, "", "kind")
  along <- along_series(x, of)
  level <- kinds[x$measure[along$order]] %in% c("level", "ratio")
  if (!any(level)) {
    abort_backfill(
      "input", "The table has no level.",
      i = "A return is what a level, such as a price, gains; of a flow there",
      "is growth: add_growth()."
    )
  }
  value <- along$value
  value[!level] <- NA
  reach <- reach_back(x, along, longest)
  made <- returns_cpp(
    along$series, along$number, value, reach$opened, reach$max_age,
    match(column, return_types) - 1L
  )
  counts <- made$counts
  simple <- column %in% c("return", "log_return")
  note <- new_note(
    "returns", of, paste(returns_in_words[[column]], "of {of}"), type = column,
    longer = counts[["longer"]], change = simple, drifts = !simple,
    unit = if (column != "growth_of_1") "return",
    withheld = c(
      "the measure is not a level" = sum(!level),
      "it is the series' first value" = counts[["first"]],
      "the period is not whole" = counts[["not_whole"]] - sum(!level),
      "a value is zero or negative" = counts[["not_positive"]],
      "the value before lies too far back" = counts[["too_old"]]
    )
  )
  add_column(x, name, made$value, along, note)
}

# In the order of enum class Return in src/kernels/returns.h.
return_types <- c("return", "log_return", "growth_of_1", "drawdown")
returns_in_words <- c(
  return = "return", log_return = "log return",
  growth_of_1 = "growth of 1 invested", drawdown = "drawdown"
)

# By row of `along`: how many periods on which something is expected there are
# up to each (`opened`), and how many of these the value before may lie back
# (`max_age`).
reach_back <- function(x, along, longest) {
  if (!is.null(longest)) {
    age <- whole_periods(longest, along$calendar)
    if (is.null(age)) {
      stop_periods(longest, along$calendar, "longest", "argument")
    }
    return(list(
      opened = along$number, max_age = rep(age, length(along$number))
    ))
  }
  names <- series_index(x, facts(x)$series)
  closed <- closed_stretch(x, along, names$names)
  list(
    opened = open_numbers(x, along),
    max_age = 1 + closed[names$index[along$order]]
  )
}

# How many periods in a row are closed every week, by the calendar and by the
# cadence of each series.
closed_stretch <- function(x, along, names) {
  role <- facts(x)
  weekdays <- role$cadences$cadences$weekdays
  weekdays[is_irregular(role$cadences$cadences)] <- every_weekday
  if (along$calendar$workdays) {
    weekdays <- bitwAnd(weekdays, along$calendar$weekdays)
  }
  series <- if (length(role$series) == 0) rep(1L, length(weekdays)) else
    vctrs::vec_match(role$cadences$names[role$series], names)
  per_day <- if (along$calendar$unit == "working day") {
    0
  } else {
    86400 / period_seconds(along$calendar)
  }
  sets <- as.integer(vapply(
    split(weekdays, factor(series, seq_len(nrow(names)))),
    function(of_series) {
      Reduce(bitwOr, of_series, 0L)
    },
    0L
  ))
  closed <- vapply(unique(sets), longest_closed, 0)[match(sets, unique(sets))]
  if (per_day < 1) 0 * closed else closed * per_day
}

# Of a week that goes round; 0 where no day is open.
longest_closed <- function(weekdays) {
  open <- rep(bitwAnd(weekdays, 2L^(0:6)) > 0, 2)
  if (!any(open)) 0 else max(c(0, with(rle(open), lengths[!values])))
}
