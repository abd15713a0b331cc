# Decimal years, such as 2031.0833: the share of the year that has passed.

# Whether most figures are decimal years for certain: most of these have a third
# decimal, which no year with a month behind the point has, or they go by
# quarters.
are_decimal_years <- function(x) {
  share <- (x - floor(x))[is_likely_year(x)]
  if (length(share) * 2 <= length(x)) {
    return(FALSE)
  }
  third <- abs(share * 100 - round(share * 100)) > 1e-6
  quarters <- share %in% c(0, 0.25, 0.5, 0.75) & !all(share %in% c(0, 0.5))
  mean(third) > 0.5 || all(quarters)
}

is_likely_year <- function(x) is.finite(x) & x >= 1500 & x <= 2500

# As read_written(), to the first day of months or quarters where most
# figures are the starts or the middles of such, else to days. `blank` are those
# where nothing stands.
read_decimal_years <- function(x, blank) {
  likely <- is_likely_year(x)
  year <- floor(x)
  share <- x - year
  slack <- 0.5 * 10^-decimals_of(x[likely])
  grid <- grid_of_shares(share[likely], slack)
  fits <- likely
  if (!is.null(grid)) {
    fits <- likely & off_grid(share, grid) <= grid$parts * slack + 1e-9
  }
  day <- rep(NA_real_, length(x))
  day[fits] <- if (is.null(grid)) {
    days_of_shares(year[fits], share[fits] + slack)
  } else {
    months_of_shares(year[fits], share[fits], grid)
  }
  bad <- which(!fits)
  list(
    second = 86400 * day, bad = bad, code = ifelse(blank[bad], 1L, 2L),
    coarse = integer(), fine = sum(fits), timed = FALSE,
    with_offset = integer(), note = sprintf(
      "Dates are read as decimal years: %s.", grid$words %||% "2031.5 as 2 July"
    )
  )
}

days_of_shares <- function(year, share) {
  first <- month_starts(year, 1)
  days <- month_starts(year + 1, 1) - first
  first + pmin(floor(share * days + 1e-6), days - 1)
}

months_of_shares <- function(year, share, grid) {
  month <- round(share * grid$parts - grid$shift) * 12 / grid$parts
  month_starts(year + month %/% 12, month %% 12 + 1)
}

# What most shares of a year are multiples of, but for half of their last
# decimal; NULL where they are not. Of days no more than one in thirty starts a
# month.
grid_of_shares <- function(share, slack) {
  grids <- list(
    list(parts = 4, shift = 0.5, words = "2031.125 as the first quarter"),
    list(parts = 12, shift = 0, words = "2031.0833 as February"),
    list(parts = 12, shift = 0.5, words = "2031.0417 as January")
  )
  fits <- vapply(grids, function(grid) {
    mean(off_grid(share, grid) <= grid$parts * slack + 1e-9) > 0.5
  }, NA)
  if (any(fits)) grids[fits][[1]]
}

off_grid <- function(share, grid) {
  off <- share * grid$parts - grid$shift
  abs(off - round(off))
}

decimals_of <- function(x) {
  for (digits in 1:9) {
    if (all(abs(x - round(x, digits)) < 1e-9)) {
      return(digits)
    }
  }
  9
}
