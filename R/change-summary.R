#' Summarise periods
#'
#' For every column of figures and each series: how many periods have one, its
#' lowest, mean and highest; what returns come to in a year; and why figures
#' were withheld.
#'
#' @param object A periods table, from [roll_up()].
#' @param ... Not used.
#' @return A tibble with a row for each column of figures, series and measure:
#'   `column`, the series columns, `measure`, `given` and `lacking` (numbers of
#'   periods), `lowest`, `mean` and `highest`; where the table has returns (see
#'   [add_returns()]) also `per_year` (how many there are in a year),
#'   `mean_per_year` and `volatility_per_year`, both as fractions. Of the column
#'   `value` only whole periods count. Its attribute `"reasons"` is a tibble of
#'   `column`, `reason` and `rows`: why figures were withheld when the column
#'   was made.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' summary(add_growth(roll_up(nights, every = "month"), over = c(1, 12)))
#' @export
summary.backfill_periods <- function(object, ...) {
  added <- facts(object)$added
  added <- added[intersect(names(object), names(added))]
  figures <- c(
    "value",
    names(added)[vapply(plain_tibble(object)[names(added)], is.numeric, NA)]
  )
  parts <- lapply(figures, function(column) {
    along <- along_series(object, column)
    part <- summarise_column(along, column, object)
    vctrs::vec_cbind(part, year_of_returns(object, along, added[[column]]))
  })
  reasons <- lapply(names(added), function(column) {
    withheld <- added[[column]]$withheld
    withheld <- withheld[!is.na(withheld) & withheld > 0]
    new_rows(
      column = rep(column, length(withheld)),
      reason = names(withheld) %||% character(), rows = as.integer(withheld)
    )
  })
  out <- vctrs::vec_rbind(!!!parts)
  new_result(out, "summary", list(
    sources = facts(object)$sources,
    reasons = vctrs::vec_rbind(!!!reasons, .ptype = new_rows(
      column = character(), reason = character(), rows = integer()
    ))
  ))
}

summarise_column <- function(along, column, x) {
  first <- which(!duplicated(along$series))
  series <- factor(along$series, along$series[first])
  known <- !is.na(along$value)
  of <- function(statistic) {
    as.vector(tapply(along$value[known], series[known], statistic))
  }
  given <- as.vector(table(series[known]))
  new_rows(
    column = column, keys_at(x, along, first),
    given = given, lacking = as.vector(table(series)) - given, lowest = of(min),
    mean = of(mean), highest = of(max)
  )
}

# What returns come to in a year, a row for each line; NULL where the column has
# none.
year_of_returns <- function(x, along, note) {
  if (
    identical(note$verb, "returns") &&
      !note$type %in% c("growth_of_1", "drawdown")
  ) {
    returns_per_year(along, along_series(x, note$of)$value, note$type)
  }
}

# As fractions, of each series; `level` is what the returns are of.
returns_per_year <- function(along, level, type) {
  rows <- split(
    seq_along(along$series), factor(along$series, unique(along$series))
  )
  each <- lapply(unname(rows), function(rows) {
    known <- rows[!is.na(along$value[rows])]
    valued <- rows[!is.na(level[rows])]
    n <- length(known)
    if (n < 2) {
      return(rep(NA_real_, 3))
    }
    growth <- along$value[known]
    # Of the time between the first value and the last, that which the returns
    # go over.
    number <- along$number[valued]
    span <- c(NA, diff(number))[match(known, valued)]
    whole <- number[[length(number)]] - number[[1]]
    per_year <- n / (sum(span, na.rm = TRUE) / whole * years_between(
      number[[1]], number[[length(number)]], along$calendar
    ))
    log_growth <- if (type == "log_return") growth else log1p(growth)
    c(
      per_year, expm1(mean(log_growth) * per_year),
      spread_of(growth) * sqrt(per_year)
    )
  })
  figures <- do.call(rbind, each)
  new_rows(
    per_year = figures[, 1], mean_per_year = figures[, 2],
    volatility_per_year = figures[, 3]
  )
}
