#' Make periods of a plain table again
#'
#' Steps of other packages in between, such as grouping, merging or
#' transforming, make a plain table of periods, which has lost what is known of
#' them: kinds, units, the calendar, what the columns are. Where its columns are
#' still there, this gives it back.
#'
#' @param x A data frame with the columns of `like`, in any order, with or
#'   without others; rows may have been left out.
#' @param like The periods table, from [roll_up()], that it was made of.
#' @return A periods table. Columns that `like` does not have stand there as
#'   they are; of those that it has, standings and what was added are what they
#'   are in `x`.
#' @section Errors: `backfill_error_input` where `like` is not a periods table,
#'   where `x` is not a data frame or has a period of another calendar or two
#'   rows of one series and period; `backfill_error_column` for a column that is
#'   not there.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' plain <- transform(monthly, value = value / 1000)
#' add_growth(as_periods(plain, like = monthly), over = "1 year")
#' @export
as_periods <- function(x, like) {
  like <- check_periods(like)
  if (!is.data.frame(x)) {
    abort_backfill("input", "`x` is {value_in_words(x)}, not a data frame.")
  }
  about <- facts(like)
  columns <- as.list(x)
  lacking <- setdiff(about$needed, names(columns))
  if (length(lacking) > 0) {
    abort_backfill(
      "column",
      "`x` lacks the {if (length(lacking) == 1) 'column' else 'columns'}",
      "{in_words(quoted(lacking))} of the periods table.",
      ">" = "Keep these columns in the steps in between."
    )
  }
  about$layout <- NULL
  about$added <- about$added[intersect(names(about$added), names(columns))]
  out <- new_table(
    new_rows(!!!columns), "periods", about$needed, about
  )
  out <- check_periods(out)
  check_of_calendar(out)
  check_rows_apart(out)
  out
}

check_of_calendar <- function(x) {
  calendar <- lay_calendar_over(facts(x)$calendar, x$period)
  start <- period_start(period_number(x$period, calendar), calendar)
  other <- which(as.numeric(start) != as.numeric(x$period))
  if (length(other) > 0) {
    abort_backfill(
      "input",
      "Row {thousands(other[[1]])} has a period that does not start a",
      "{period_noun(calendar)}.",
      ">" = "Give as `like` the table that it was made of."
    )
  }
}

# A merge by a key that is not unique doubles rows.
check_rows_apart <- function(x) {
  keys <- plain_tibble(x)[c(facts(x)$series, "measure", "period")]
  twice <- which(vctrs::vec_duplicate_detect(keys))
  if (length(twice) > 0) {
    abort_backfill(
      "input",
      "Row {thousands(twice[[2]])} has the series, measure and period of",
      "another.",
      ">" = "Merge by a key that is unique."
    )
  }
}
