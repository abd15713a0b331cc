#' Add the share of a total
#'
#' Each series' share in the sum of all series of its measure in the same
#' period, from 0 to 1.
#'
#' Nothing is given (`NA`) where a part of the total is partial or empty, since
#' a share of what is left would be too large; where one is negative, of which
#' there is no share; and where the total is zero.
#'
#' @inheritParams add_growth
#' @param within Names of series columns within which totals are taken, such as
#'   a region whose places are compared. By default one total of all series.
#' @param name Name of the new column.
#' @return The table with one column more, of shares from 0 to 1.
#' @section Errors: `backfill_error_input` where `x` is not a periods table,
#'   `backfill_error_column` where `within` names no series column, `of` is
#'   missing or `name` is taken.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' add_share(roll_up(nights, every = "month"))
#' @export
add_share <- function(x, within = character(), of = "value", name = "share") {
  x <- check_periods(x)
  check_new_name(name, x)
  if (length(setdiff(within, facts(x)$series)) > 0) {
    known <- if (length(facts(x)$series) > 0) {
      in_words(quoted(facts(x)$series))
    } else {
      "there are none, leave it out"
    }
    abort_backfill(
      "column", "`within` is {in_words(quoted(within))}.",
      i = "It must name series columns: {known}."
    )
  }
  along <- along_series(x, of)
  sorted <- vctrs::vec_slice(
    plain_tibble(x)[c(within, "measure", "period")], along$order
  )
  group <- as.integer(vctrs::vec_group_id(sorted))
  sum_of <- function(figure) {
    as.vector(rowsum(
      as.double(figure), group, reorder = TRUE
    ))[group]
  }
  # A series without a row in a period lacks there as well.
  series_of <- as.integer(vctrs::vec_group_id(sorted[c(within, "measure")]))
  expected <- tapply(
    along$series, series_of, function(series) length(unique(series))
  )[series_of]
  total <- sum_of(ifelse(is.na(along$value), 0, along$value))
  lacking <- as.vector(sum_of(!is.na(along$value)) < expected)
  negative <- sum_of(!is.na(along$value) & along$value < 0) > 0
  given <- !lacking & !negative & total > 0
  share <- ifelse(given, along$value / total, NA_real_)
  note <- new_note(
    "share", of, "share of {of} in its total", unit = "share",
    made = list(within = within),
    withheld = c(
      "a part of the total is not whole" = sum(lacking),
      "a part is negative" = sum(negative & !lacking),
      "the total is zero" = sum(!lacking & !negative & !given)
    )
  )
  add_column(x, name, share, along, note)
}
