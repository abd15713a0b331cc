#' Add a growth rate
#'
#' Growth in percent over the same series: from the period before, or from any number of periods or years before. The
#' base is found by its period and not by its row, so a missing row never shifts it, and it never comes from another
#' series.
#'
#' \deqn{growth_t = 100\,(x_t - x_{t-k}) / x_{t-k}}{growth[t] = 100 (x[t] - x[t-k]) / x[t-k]}
#'
#' No growth is given (`NA`) where the table does not reach back to the base, where the period or its base is partial or
#' empty, and where the base is zero or negative, so that a percentage of it means nothing. Printing the table tells
#' how often each was the case.
#'
#' @param x A periods table, from [roll_up()].
#' @param over How far back the base lies: a number of periods, or a length of time such as `"1 year"` or `"3 months"`.
#'   Over a year, a day is compared with the same date (29 February with 28 February), and a week with the one 52 weeks
#'   earlier.
#' @param of Name of the column to compute it of.
#' @param name Name of the new column. By default `"growth"` over one period, and the length with it otherwise, as in
#'   `"growth_1_year"`.
#' @return The table with one column more: growth in percent, so that 3.2 means 3.2 %.
#' @section Errors: `backfill_error_input` where `x` is no periods table, `backfill_error_over` for a length that is not
#'   a whole number of periods, `backfill_error_column` where `of` is missing or `name` is taken.
#' @references Growth over the same period of the year before is the usual way to compare seasonal series; see for
#'   example Makridakis, S., Wheelwright, S. C. and Hyndman, R. J. (1998). *Forecasting: Methods and Applications*, 3rd
#'   ed., chapter 2. Wiley.
#' @examples
#' nights <- read_records(demo_file("guest-nights.csv"),
#'   when = "month", series = "island", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' monthly <- add_growth(monthly, over = 1)
#' add_growth(monthly, over = "1 year")
#' @export
add_growth <- function(x, over = 1, of = "value", name = NULL) {
  check_periods(x)
  distance <- check_distance(over, roles(x)$calendar, "over")
  name <- check_new_name(name %||% distance_name("growth", distance), x)
  along <- along_series(x, of)
  value <- along$value
  base_row <- find_rows_cpp(along$series, along$number, distance$back(along$number, along$calendar))
  base <- value[base_row]
  usable <- base > 0 & !is.na(base)
  growth <- ifelse(usable, 100 * (value - base) / base, NA_real_)
  note <- list(
    verb = "growth", of = of, over = distance$words, unit = "%", given = sum(!is.na(growth)),
    withheld = c(
      "the table does not reach back so far" = sum(is.na(base_row)),
      "the period or its base is not whole" = sum(!is.na(base_row) & (is.na(value) | is.na(base))),
      "the base is zero or negative" = sum(!usable & !is.na(base) & !is.na(value))
    )
  )
  add_column(x, name, growth, along, note)
}

distance_name <- function(verb, distance) {
  if (distance$one) verb else paste0(verb, "_", gsub(" ", "_", distance$words))
}
