# Decimal years, such as 2031.0833: the share of the year that has passed.

# Whether most figures are decimal years for certain: most have a third decimal,
# which no year with a month behind the point has, or they go by quarters.
are_decimal_years <- function(x) {
  known <- is.finite(x)
  if (sum(known) * 2 <= length(x) || any(x[known] < 1500 | x[known] > 2500)) {
    return(FALSE)
  }
  x <- x[known]
  share <- x - floor(x)
  third <- abs(share * 100 - round(share * 100)) > 1e-6
  quarters <- share %in% c(0, 0.25, 0.5, 0.75) & !all(share %in% c(0, 0.5))
  mean(third) > 0.5 || all(quarters)
}

# As read_written(), to the first day of months or quarters where all figures
# are the starts or the middles of such, else to days.
read_decimal_years <- function(x) {
  bad <- which(!is.finite(x) | x < 1 | x >= 10000)
  year <- floor(replace(x, bad, 1970))
  share <- replace(x, bad, 1970) - year
  slack <- 0.5 * 10^-decimals_of(x[is.finite(x)])
  grid <- if (length(bad) < length(x)) grid_of_shares(
    share[is.finite(x)], slack
  )
  if (is.null(grid)) {
    first <- month_starts(year, 1)
    days <- month_starts(year + 1, 1) - first
    day <- first + pmin(floor((share + slack) * days + 1e-6), days - 1)
  } else {
    month <- round(share * grid$parts - grid$shift) * 12 / grid$parts
    day <- month_starts(year + month %/% 12, month %% 12 + 1)
  }
  second <- 86400 * day
  second[bad] <- NA
  list(
    second = second, bad = bad, code = rep(2L, length(bad)),
    coarse = integer(), fine = length(x) - length(bad), timed = FALSE,
    with_offset = integer(), note = sprintf(
      "Dates are read as decimal years: %s.", grid$words %||% "2031.5 as 2 July"
    )
  )
}

# What all shares of a year are multiples of, but for half of their last
# decimal; NULL where they are not.
grid_of_shares <- function(share, slack) {
  grids <- list(
    list(parts = 4, shift = 0.5, words = "2031.125 as the first quarter"),
    list(parts = 12, shift = 0, words = "2031.0833 as February"),
    list(parts = 12, shift = 0.5, words = "2031.0417 as January")
  )
  fits <- vapply(grids, function(grid) {
    off <- share * grid$parts - grid$shift
    all(abs(off - round(off)) <= grid$parts * slack + 1e-9)
  }, NA)
  if (any(fits)) grids[fits][[1]]
}

decimals_of <- function(x) {
  for (digits in 1:9) {
    if (all(abs(x - round(x, digits)) < 1e-9)) {
      return(digits)
    }
  }
  9
}

# Days since 1970.
month_starts <- function(year, month) {
  as.numeric(as.Date(ISOdate(year, month, 1)))
}
