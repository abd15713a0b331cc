#' Suggest a cycle
#'
#' Finds the cycles of each series in two ways: lengths at which the
#' autocorrelation of its changes has a clear peak, and waves that explain more
#' of its values than autocorrelation alone would.
#'
#' Changes from period to period keep little of a trend or a wandering level,
#' and show cycles of any shape. A peak must lie beyond what 49 of 50 series of
#' noise have anywhere, and the analysis of variance over the positions must
#' give a p below 0.005. A multiple of a shorter cycle is listed only where it
#' explains clearly more, and of lengths within a third of each other the one
#' that explains most.
#'
#' Smooth cycles hardly show in changes. Waves of 3 periods up to a third of the
#' series are fitted to the values about a straight line; the highest counts
#' where it exceeds what the other waves, and the autocorrelation that is left
#' without it, would give, at a p below 0.02 for the highest of all (Torrence
#' and Compo 1998). It is taken out with its overtones, and the next looked for,
#' up to three; one that divides a longer one counts as its overtone. A length
#' that the series cannot tell from that of a year, a week or a day is given as
#' that.
#'
#' What comes back after a length that is no whole number of periods, as a tide
#' of 14.77 days does, shows in whole periods near the multiples of that length:
#' several cycles are listed then, none of which is its own.
#'
#' @eval rates_section("suggest_cycle")
#'
#' @inheritParams add_growth
#' @return A tibble with a row for each cycle of a series, the strongest first:
#'   the series columns, `measure`, `cycle` (in periods), `seen_in` (`"changes"`
#'   or `"values"`), `coefficient` (the autocorrelation), `explained` (the share
#'   of the changes' variance between positions, adjusted for their number, or
#'   of the values' variance in the wave), `frequency` (share of the variance at
#'   the frequency of one cycle) and `p`; no row where no series has any.
#' @section Errors: `backfill_error_input`, `backfill_error_column`.
#' @references Box, G. E. P. and Jenkins, G. M. (1976). *Time Series Analysis*,
#'   rev. ed. Holden-Day. Torrence, C. and Compo, G. P. (1998). A practical
#'   guide to wavelet analysis. *Bulletin of the American Meteorological
#'   Society* 79, 61-78.
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
    along$series, along$number, along$value, stats::qnorm(1 - 0.02 / lags)
  )
  p <- stats::pf(found[6, ], found[7, ], found[8, ], lower.tail = FALSE)
  sure <- which(p < 0.005)
  changes <- new_rows(
    line = found[1, sure], cycle = found[2, sure], seen_in = "changes",
    coefficient = found[3, sure], explained = found[4, sure],
    frequency = found[5, sure], p = p[sure]
  )
  cycles <- with_waves(
    changes, smooth_cycles(along), calendar_cycles(along$calendar)
  )
  keys <- keys_at(x, along, rows$first)
  cycles$cycle <- as.integer(cycles$cycle)
  new_result(new_rows(
    vctrs::vec_slice(keys, cycles$line), cycles[-1]
  ), "cycles", list(
    several = several_measures(x),
    calendar = facts(x)$calendar, series = facts(x)$series,
    measures = facts(x)$measures, of = of, sources = facts(x)$sources
  ))
}

# Waves, of which those that cannot be told from a cycle of the calendar are it.
smooth_cycles <- function(along) {
  found <- waves_cpp(along$series, along$number, along$value, 0.02)
  cycle <- found[2, ]
  span <- vapply(split(along$number, along$series), function(number) {
    diff(range(number)) + 1
  }, 0)[found[1, ]]
  for (known in calendar_cycles(along$calendar)) {
    cycle[abs(1 / cycle - 1 / known) < 0.5 / span] <- known
  }
  new_rows(
    line = found[1, ], cycle = cycle, seen_in = "values",
    coefficient = found[3, ], explained = found[4, ], frequency = found[4, ],
    p = found[5, ]
  )
}

# How many periods a day, a week and a year have, the longest last.
calendar_cycles <- function(calendar) {
  periods <- c(1, 7, 365.25) * 86400 / period_seconds(calendar)
  if (calendar$unit %in% c("month", "quarter")) {
    periods <- known_cycle(calendar)$length
  }
  round(periods[periods >= 3])
}

# Waves that the changes show as well stand as they show them. Longer cycles in
# changes that are multiples of a wave are it, seen again, but for those of the
# calendar; a wave that divides another is an overtone of that.
with_waves <- function(changes, waves, known) {
  of_line <- function(one, other, test) {
    beside <- split(other$cycle, factor(other$line, unique(one$line)))
    as.logical(mapply(
      function(own, line) any(test(own, beside[[line]])), one$cycle,
      match(one$line, unique(one$line))
    ))
  }
  is_multiple <- function(long, short) {
    times <- round(long / short)
    times >= 2 & abs(long - times * short) <= times / 2
  }
  again <- of_line(changes, waves, is_multiple) & !changes$cycle %in% known
  changes <- changes[!again, ]
  overtone <- of_line(waves, waves, function(own, beside) {
    is_multiple(beside, own) & round(beside / own) <= 4
  })
  shown <- of_line(waves, changes, function(own, beside) {
    3 * own <= 4 * beside & 4 * own >= 3 * beside
  })
  out <- vctrs::vec_rbind(changes, waves[!shown & !overtone, ])
  out[order(out$line, -out$explained), ]
}
