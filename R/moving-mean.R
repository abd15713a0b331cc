#' Add a moving average
#'
#' The mean of `window` neighbouring periods of the same series.
#'
#' A trailing window ends with the period itself: \eqn{m_t = (x_{t-w+1} + \dots + x_t) / w}{m[t] = (x[t-w+1] + ... +
#' x[t]) / w}. A centred one reaches equally far to both sides. A window of an even number of periods has no middle one;
#' the centred average is then the mean of the two windows around the period, which counts the two outermost periods by
#' half (the classical 2 by m average, such as the 2 by 12 average of monthly figures).
#'
#' No average is given (`NA`) where the window reaches outside the table (these ends are lost) and where one of its
#' periods is partial, empty or has no row. Printing the table tells how often each was the case.
#'
#' No window's sum is made from its neighbour's by adding and subtracting, so rounding does not build up along the
#' series.
#'
#' @inheritParams add_growth
#' @param window Width of the window: a number of periods, 2 or more, or a length of time such as `"1 year"`.
#' @param align Where the window lies: `"trailing"` or `"centred"`.
#' @param name Name of the new column.
#' @return The table with one column more, in the unit of `of`.
#' @section Errors: `backfill_error_input` where `x` is no periods table, `backfill_error_window` for a width that is
#'   not a whole number of periods, `backfill_error_column` where `of` is missing or `name` is taken,
#'   `backfill_error_argument`.
#' @references Kendall, M. and Ord, J. K. (1990). *Time Series*, 3rd ed., chapter 3. Edward Arnold.
#' @examples
#' nights <- read_records(demo_file("guest-nights.csv"),
#'   when = "month", series = "island", measures = c(guest_nights = "flow")
#' )
#' add_moving(roll_up(nights, every = "month"), window = 12, align = "centred")
#' @export
add_moving <- function(x, window, align = "trailing", of = "value", name = "moving_mean") {
  check_periods(x)
  width <- check_window(window, roles(x)$calendar, "window")
  check_one_of(align, c("trailing", "centred"), "align")
  check_new_name(name, x)
  along <- along_series(x, of)
  centred <- align == "centred"
  mean <- moving_mean_cpp(along$series, along$number, along$value, width$count, centred)

  # A series' first and last row are where its number starts and stops in the sorted rows.
  first <- match(along$series, along$series)
  last <- length(along$series) + 1L - match(along$series, rev(along$series))
  before <- if (centred) width$count %/% 2L else width$count - 1L
  after <- if (centred) width$count %/% 2L else 0L
  outside <- along$number - before < along$number[first] | along$number + after > along$number[last]
  note <- list(
    verb = "moving", of = of, over = width$words, align = align, given = sum(!is.na(mean)),
    withheld = c(
      "lost ends, where the window reaches outside the table" = sum(outside),
      "a period in the window is not whole" = sum(is.na(mean) & !outside)
    )
  )
  add_column(x, name, mean, along, note)
}
