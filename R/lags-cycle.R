#' Suggest a cycle
#'
#' After how many periods each series seems to come back: the lengths at which
#' the autocorrelation of its changes has a peak that stands out, ranked by how
#' much of these changes their positions explain.
#'
#' Looked at are changes from period to period, in which trends and levels that
#' wander leave little. A peak must lie beyond what 19 of 20 series of noise
#' have anywhere, and the analysis of variance over the positions must give a p
#' below 0.01. A multiple of a shorter cycle is listed only where it explains
#' clearly more, and of lengths within a third of each other the one that
#' explains most. Long and smooth cycles hardly show in the changes of short
#' periods: roll up to longer ones to find a year in days.
#'
#' @eval rates_section("suggest_cycle")
#'
#' @inheritParams add_growth
#' @return A tibble with a row for each cycle of a series, the strongest first:
#'   the series columns, `measure`, `cycle` (in periods), `coefficient` (the
#'   autocorrelation), `explained` (the share of the changes' variance between
#'   positions, adjusted for their number), `frequency` (share of the variance
#'   at the frequency of one cycle in the periodogram) and `p`; no row where no
#'   series has any.
#' @section Errors: `backfill_error_input`, `backfill_error_column`.
#' @references Box, G. E. P. and Jenkins, G. M. (1976). *Time Series Analysis*,
#'   rev. ed. Holden-Day.
#' @examples
#' crossings <- read_records(demo_file("crossings.csv"),
#'   when = "time", measures = c(market = "flow", tide = "flow"), zone = "WET"
#' )
#' suggest_cycle(roll_up(crossings, every = "day"))
#' @export
suggest_cycle <- function(x, of = "value") {
  x <- check_periods(x)
  along <- along_series(x, of)
  rows <- first_rows(along)
  # Of as many lags as are looked at, each may stand out by chance.
  lags <- pmax(1, (tabulate(rows$line, length(rows$first)) - 1) %/% 2)
  found <- cycles_cpp(
    along$series, along$number, along$value, stats::qnorm(1 - 0.05 / lags)
  )
  p <- stats::pf(found[6, ], found[7, ], found[8, ], lower.tail = FALSE)
  sure <- which(p < 0.01)
  keys <- keys_at(x, along, rows$first)
  new_result(new_rows(
    vctrs::vec_slice(keys, found[1, sure]), cycle = as.integer(found[2, sure]),
    coefficient = found[3, sure],
    explained = found[4, sure], frequency = found[5, sure], p = p[sure]
  ), "cycles", list(
    several = several_measures(x),
    calendar = facts(x)$calendar, series = facts(x)$series,
    measures = facts(x)$measures, of = of, sources = facts(x)$sources
  ))
}
