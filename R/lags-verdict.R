# What the autocorrelations of a series say together: whether there is
# structure, and whether it is seasonal.

#' @export
summary.backfill_autocorrelation <- function(object, ...) {
  about <- facts(object)
  rows <- plain_tibble(object)
  keys <- rows[c(about$series, "measure")]
  lines <- vctrs::vec_unique(keys)
  line <- vctrs::vec_match(keys, lines)
  count <- vctrs::vec_slice(
    about$count, vctrs::vec_match(lines, about$count[names(lines)])
  )
  n <- count$periods
  judged <- !is.na(rows$upper)
  of_lines <- function(value) as.vector(rowsum(ifelse(judged, value, 0), line))
  lags <- of_lines(rep(1, nrow(rows)))
  outside <- of_lines(as.numeric(rows$outside))
  deviate <- deviates(rows$coefficient, rows$pairs, rows$lag, n[line])
  box <- ljung_box(rows, line, deviate, lags, n, about$cycle$length)
  at <- c(names(keys), "lag")
  rows$wider <- about$wider$wider[vctrs::vec_match(rows[at], about$wider[at])]
  p <- structure_p(rows, line, deviate, count, about$cycle$length)
  peak <- seasonal_lines(rows, line, count, about$cycle$length)
  new_result(new_rows(
    lines, periods = n, lags = as.integer(lags), outside = as.integer(outside),
    expected = (1 - about$confidence) * lags,
    outside_p = stats::pbinom(
      outside - 1, lags, 1 - about$confidence, lower.tail = FALSE
    ), ljung_box = box$statistic,
    ljung_box_lags = box$lags, ljung_box_p = box$p, strongest = strongest_lags(
      rows, line, nrow(lines)
    ), p = p,
    seasonal = peak$found & p < 0.05, hidden = peak$hidden & p < 0.05,
    around_trend = count$around,
    verdict = verdicts(p, peak$found, count$constant)
  ), "memory", about)
}

verdicts <- function(p, seasonal, constant) {
  ifelse(constant, "constant", ifelse(is.na(p), "too short to tell", ifelse(
    p >= 0.05, "no structure", ifelse(
      seasonal, "structure, seasonal", "structure, not seasonal"
    )
  )))
}

# Coefficients as normal deviates, if the values are independent: about their
# mean, and about 0. The error is that of the white band, whatever band was
# asked for.
deviates <- function(coefficient, pairs, lag, n) {
  error <- sqrt(pairs * n / (n + 2)) / (pairs + lag)
  error[pairs < least_pairs] <- NA
  mean <- -pairs / ((pairs + lag) * (n - 1))
  list(centred = (coefficient - mean) / error, plain = coefficient / error)
}

# Over the lags of one cycle, or 10, at most a quarter of the periods.
ljung_box <- function(rows, line, deviate, lags, n, cycle) {
  tested <- pmax(1, pmin(cycle %||% 10L, lags, n %/% 4))
  within <- !is.na(deviate$plain) & rows$lag <= tested[line]
  statistic <- as.vector(rowsum(ifelse(within, deviate$plain^2, 0), line))
  statistic[lags == 0] <- NA
  list(
    statistic = statistic, lags = as.integer(tested),
    p = stats::pchisq(statistic, tested, lower.tail = FALSE)
  )
}

# The smallest p of the lags up to a quarter of the periods, each divided by its
# weight; NA where there is too little. That of one cycle counts wherever the
# series has three.
structure_p <- function(rows, line, deviate, count, cycle) {
  n <- count$periods
  lines <- seq_along(n)
  at_cycle <- deviates(count$own, count$own_pairs, cycle %||% NA, n)$centred
  z <- c(deviate$centred / rows$wider, at_cycle / count$own_wider)
  of <- factor(c(line, lines), lines)
  lag <- c(rows$lag, rep(-1, length(n)))
  judged <- !is.na(z) & lag <= (count$reach %/% 4)[of] & (
    lag != (cycle %||% 0) | is.na(at_cycle)[of]
  )
  weight <- ifelse(lag == 1, 0.75, ifelse(lag == -1, 0.125, 0))
  sums <- function(amount) as.vector(tapply(ifelse(judged, amount, 0), of, sum))
  others <- judged & weight == 0
  weight[others] <- ((1 - sums(weight)) / sums(others))[of[others]]
  # All weight is given, also where there are no others.
  p <- 2 * stats::pnorm(-abs(z)) / (weight / sums(weight)[of])
  p[!judged] <- Inf
  smallest <- as.vector(tapply(p, of, min))
  ifelse(n < 8 | !is.finite(smallest), NA_real_, pmin(smallest, 1))
}

# list(found, hidden): whether the coefficient at one cycle lies above the band
# and no lower than those beside it, around the trend where the series is long
# enough; and whether the trend hides that from the values themselves.
seasonal_lines <- function(rows, line, count, cycle) {
  if (is.null(cycle)) {
    return(list(
      found = rep(FALSE, nrow(count)), hidden = rep(FALSE, nrow(count))
    ))
  }
  at <- function(column, lag) {
    out <- rep(NA_real_, nrow(count))
    here <- rows$lag == lag
    out[line[here]] <- rows[[column]][here]
    out
  }
  peak <- function(own, band, beside) {
    (
      own > band & (is.na(beside) | own >= beside)
    ) %in% TRUE
  }
  # Sure to 99%, as memory alone leads there now and then; and no more below
  # those beside it than one standard error.
  error <- count$around_band / stats::qnorm(0.975)
  around <- peak(
    count$around, stats::qnorm(0.995) * error, count$around_beside - error
  ) & !(count$twice_below > 1) %in% TRUE
  hidden <- around & !peak(count$own, count$own_band, count$own_beside)
  beside <- pmax(
    at("coefficient", cycle - 1), at("coefficient", cycle + 1), na.rm = TRUE
  )
  short <- peak(at("coefficient", cycle), at("upper", cycle), beside)
  list(found = ifelse(is.na(count$around), short, around), hidden = hidden)
}

# Up to three lags outside the band, the strongest first, as text.
strongest_lags <- function(rows, line, lines) {
  outside <- which(rows$outside)
  outside <- outside[
    order(line[outside], -abs(rows$coefficient[outside]), method = "radix")
  ]
  rank <- seq_along(outside) - match(line[outside], line[outside]) + 1
  outside <- outside[rank <= 3]
  said <- vapply(
    split(rows$lag[outside], factor(line[outside], seq_len(lines))), paste, "",
    collapse = ", "
  )
  unname(said)
}
