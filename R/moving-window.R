#' Add a moving average, or another figure of a moving window
#'
#' A statistic of neighbouring periods of the same series: of the window that
#' ends with each period, starts with it, or lies around it.
#'
#' A trailing window of \eqn{w} periods ends with the period itself: the mean is
#' \eqn{m_t = (x_{t-w+1} + \dots + x_t) / w}{m[t] = (x[t-w+1] + ... + x[t]) /
#' w}. A leading one starts with it, and is marked as a target since it tells
#' the future. A centred one reaches equally far to both sides. A window of an
#' even number of periods has no middle one; what a centred one gives is then
#' the mean of the figures of the two windows around the period, which for a
#' moving average counts the two outermost periods by half (the classical 2 by m
#' average, such as the 2 by 12 average of monthly figures).
#'
#' A length of time that is not a whole number of periods, such as 365 days over
#' working days or a year over days, makes trailing windows of as many periods
#' as start within it.
#'
#' Where the window reaches outside the table nothing is given (`NA`): these
#' ends are lost. Nor is it where fewer than the share `present` of its periods
#' have a whole value; periods in which nothing is expected, such as the
#' weekends of a market, are neither counted nor given a figure. The mean is
#' then that of the values there are; a total is that mean times the number of
#' periods. Printing the table and [summary()][summary.backfill_periods] tell
#' how often each was the case.
#'
#' No window's sum is made from its neighbour's by adding and subtracting, so
#' rounding does not build up along the series. The standard deviation is that
#' of a sample (with \eqn{n - 1}), and quantiles lie between the two nearest
#' values in proportion (definition 7 of Hyndman and Fan 1996).
#'
#' @inheritParams add_growth
#' @param window Width of the window: a number of periods, 2 or more, or a
#'   length of time such as `"1 year"`. Not given with `weights`, which have a
#'   width of their own.
#' @param stat `"mean"`, `"sum"`, `"median"`, `"sd"` (standard deviation),
#'   `"lowest"`, `"highest"`, or a quantile such as `"90%"`.
#' @param align Where the window lies: `"trailing"`, `"centred"` or `"leading"`.
#'   By default trailing, with named weights centred.
#' @param weights Weights for the mean, one for each period of the window from
#'   the first to the last, divided by their sum; or the name of those of
#'   [moving_weights()], such as `"spencer 15"`. Every period must have a whole
#'   value.
#' @param present The share of the window's periods that must have a whole
#'   value, above 0 and up to 1.
#' @param name Name of the new column, by default `"moving_mean"`,
#'   `"moving_total"` and so on.
#' @return The table with one column more, in the unit of `of`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table,
#'   `backfill_error_window` for a width that the periods have no rule for,
#'   `backfill_error_column` where `of` is missing or `name` is taken,
#'   `backfill_error_argument`.
#' @references Kendall, M. and Ord, J. K. (1990). *Time Series*, 3rd ed.,
#'   chapter 3. Edward Arnold. Hyndman, R. J. and Fan, Y. (1996). Sample
#'   quantiles in statistical packages. *The American Statistician* 50, 361-365.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' add_moving(monthly, window = 12, align = "centred")
#' add_moving(monthly, window = "1 year", stat = "highest")
#' add_moving(monthly, weights = "henderson 13")
#' @concept rolling window
#' @export
add_moving <- function(
  x, window = NULL, stat = "mean", align = NULL, weights = NULL, present = 1,
  of = "value", name = NULL
) {
  check_given()
  x <- check_periods(x)
  check_statistic(stat, "window")
  weight <- if (!is.null(weights)) check_weights(weights, window, stat, present)
  align <- align %||% if (is.character(weights)) "centred" else "trailing"
  along <- along_counted(x, of)
  width <- check_window(
    if (is.null(weight)) window else length(weight), along$calendar, "window",
    closed = !is.null(along$opened)
  )
  if (is.null(width$count) && align != "trailing") {
    abort_backfill(
      "window",
      "`window` is {value_in_words(window)}, which differs from window to",
      "window.",
      ">" = "Give a number of periods, or leave the window trailing."
    )
  }
  name <- check_new_name(
    name %||% paste0("moving_", gsub("%", "_percent", stat, fixed = TRUE)), x
  )
  made <- moving(
    along, width, stat, align, weight, present
  )
  few <- sum(is.na(made$value)) - made$lost - made$closed
  enlarged <- if (stat == "sum" && present < 1) {
    sums_enlarged(along, width, align, present)
  }
  weighted <- if (!is.null(weight)) "weighted mean"
  named <- if (is.character(weights)) paste0(weights, " ")
  said <- paste0(align, " ", named, weighted %||% statistic_in_words(stat))
  note <- new_note(
    "moving", of, paste(said, "of {of} over", width$words),
    stat = weighted %||% stat,
    short = paste(said, "of", width$words), target = align == "leading",
    made = list(
      window = if (is.null(weight)) window else length(weight),
      stat = stat, align = align, weights = weight
    ),
    unit = facts(x)$added[[of]]$unit, enlarged = enlarged,
    withheld = with_closed(c(
      "the window runs past the ends of the table" = made$lost,
      "too few periods in the window are whole" = few
    ), made$closed)
  )
  add_column(x, name, made$value, along, note)
}

# In the order of enum class Statistic in src/moving.cpp; the last is a
# quantile.
window_code <- function(stat) {
  match(
    stat, c("mean", "sum", "sd", "lowest", "highest"), nomatch = 6L
  ) - 1L
}

# list(value, lost, closed) in the order of `along`; of rows that are not
# counted, `closed` of them, there is no figure.
moving <- function(along, width, stat, align, weight, present) {
  share <- quantile_share(stat)
  counted <- only_counted(along)
  reach <- reach_of_width(width, align)
  made <- if (is.null(weight)) {
    moving_cpp(
      counted$series, counted$number, counted$value, reach$before, reach$after,
      if (is.null(width$count)) lowest_numbers(width, along) else numeric(),
      align == "centred" && reach$before > reach$after,
      window_code(stat),
      if (is.na(share)) 0 else share, present
    )
  } else {
    moving_weighted_cpp(
      counted$series, counted$number, counted$value, weight / sum(weight),
      reach$before
    )
  }
  list(
    value = of_each_row(made$value, along), lost = as.integer(made$lost),
    closed = length(along$number) - length(counted$rows)
  )
}

# The sums of windows that lack periods, which are enlarged to all of them:
# list(n, most), their number and the greatest share that was added.
sums_enlarged <- function(along, width, align, present) {
  known <- ifelse(is.na(along$value), 0, 1)
  summed <- function(value, present) {
    along$value <- value
    moving(along, width, "sum", align, NULL, present)$value
  }
  there <- summed(known, 1)
  share <- summed(ifelse(known == 0, NA, 1), present) / there
  list(
    n = sum(share > 1, na.rm = TRUE), most = max(c(1, share), na.rm = TRUE) - 1
  )
}

# How many periods a window reaches to either side.
reach_of_width <- function(width, align) {
  count <- width$count %||% 1L
  before <- switch(
    align, trailing = count - 1L, centred = count %/% 2L, leading = 0L
  )
  list(before = before, after = count - 1L - before)
}

# The numbers, among those that are counted, with which the windows start that
# end with each.
lowest_numbers <- function(width, along) {
  lower <- width$lower(along$number, along$calendar)
  if (is.null(along$opened)) {
    return(lower)
  }
  (along$count_before(lower) + 1)[!is.na(along$opened)]
}
