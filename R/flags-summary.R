#' @rdname flag_periods
#' @param object Flags, from `flag_periods()`.
#' @param type `"flags"` or `"episodes"`.
#' @param ... Not used.
#' @export
summary.backfill_flags <- function(object, type = "flags", ...) {
  check_one_of(type, c("flags", "episodes"), "type")
  about <- facts(object)
  if (type == "episodes") {
    return(new_result(episodes(object), "episodes", about))
  }
  out <- with_reasons(flagged_rows(object))
  new_result(out[setdiff(names(out), c("flag", "judgement"))], "flagged", about)
}

# The flagged rows, the largest first.
flagged_rows <- function(x) {
  about <- facts(x)
  rows <- which(x$flag)
  size <- abs(if (any(c("sd", "mad", "quantile") %in% names(about$beyond))) {
    x$score[rows]
  } else {
    x$percent[rows]
  })
  size[is.na(size)] <- 0
  plain_tibble(x)[
    rows[order(-size, -abs(x$deviation[rows]))],
  ]
}

# Runs of consecutive flagged periods beyond the limit of one side; and of 8 or
# more periods whose deviations lie on one side of what was usual before,
# whether flagged or not, which are shifts: a baseline that lags behind a trend
# is not a shift. A run within a shift is part of it.
episodes <- function(x, shift = 8) {
  about <- facts(x)
  along <- along_flags(x)
  x <- plain_tibble(x)[along$order, ]
  line <- along$series
  number <- along$number
  flagged <- x$flag %in% TRUE
  side <- sides_of_usual(x, line, number, about)
  side[flagged] <- ifelse(x$direction[flagged] == "up", 1, -1)
  runs_of <- function(here) {
    n <- length(here)
    new <- c(
      TRUE,
      here[-1] != here[-n] | line[-1] != line[-n] | number[-1] != number[-n] + 1
    )
    cumsum(new[seq_len(n)])
  }
  sides <- runs_of(side)
  long <- tabulate(sides)[sides] >= shift & side != 0
  kind <- ifelse(long, "shift", ifelse(flagged, "run", ""))
  run <- runs_of(ifelse(kind == "", 0, side * ifelse(long, 2, 1)))
  rows <- which(kind != "")
  first <- rows[!duplicated(run[rows])]
  last <- rows[!duplicated(run[rows], fromLast = TRUE)]
  furthest <- rows[order(run[rows], -abs(x$deviation[rows]))]
  furthest <- furthest[!duplicated(run[furthest])]
  new_rows(
    plain_tibble(x)[c(about$series, "measure")][
      first,
    ], start = x$period[first],
    end = x$period[last], periods = as.integer(last - first +
                                                 1), kind = kind[first],
    direction = ifelse(side[first] > 0, "up", "down"),
    flagged = as.integer(rowsum(as.integer(flagged[rows]), run[rows])),
    size = as.vector(rowsum(x$deviation[rows], run[rows])),
    largest = x$deviation[furthest],
    largest_at = x$period[furthest]
  )
}

# Against a season or the same position, deviations in amounts or in shares are
# taken, see usual.h; else those that the limits are made of.
sides_of_usual <- function(x, line, number, about) {
  judged <- !is.na(x$flag)
  usual <- by_season(x, about) | about$against == "a cycle before" |
    !is.null(about$spread_of)
  of_limits <- ifelse(judged & !is.na(x$score), sign(x$score), 0)
  if (!any(usual)) {
    return(of_limits)
  }
  regular <- usual & x$judgement %in% c("flagged", "within", "no limit yet")
  # Below zero, too, a share has the side of its amount.
  share <- x$deviation / abs(x$baseline)
  side <- sides_cpp(
    line, number, ifelse(regular, x$deviation, NA_real_), share,
    !(about$exclude_flagged & x$flag %in% TRUE)
  )
  ifelse(usual, ifelse(judged, side, 0), of_limits)
}

# The share of independent normal figures that the rule flags by its design:
# list(share, bound, tails), where `bound` is "about", "at most" or "at least"
# where several limits go together, and `tails` the share of figures with long
# tails; NA where only limits are asked for whose share depends on how much the
# figures vary.
designed_share <- function(about) {
  share_of <- function(name) {
    switch(
      name, sd = share_beyond_sd(about),
      mad = 2 * stats::pnorm(-about$beyond[[name]]),
      quantile = 1 - about$beyond[[name]], NA
    )
  }
  share <- vapply(names(about$beyond), share_of, 0)
  one_side <- about$direction != "both"
  # A quantile of one side leaves all of its rest there.
  share <- ifelse(one_side & names(share) != "quantile", share / 2, share)
  known <- share[!is.na(share)]
  if (length(known) == 0) {
    return(list(share = NA_real_, bound = "about"))
  }
  if (length(share) == 1) {
    return(list(
      share = unname(share), bound = "about",
      tails = share_of_tails(about) / if (one_side) 2 else 1
    ))
  }
  if (about$beyond_all) {
    return(list(share = min(known), bound = "at most"))
  }
  if (length(known) < length(share)) list(
    share = max(known), bound = "at least"
  ) else
    list(share = min(1, sum(known)), bound = "at most")
}

# The share of figures with long tails, those of Student's t with 3 degrees of
# freedom, that so many of their deviations leave without; NA of other limits.
share_of_tails <- function(about) {
  beyond <- about$beyond[[1]]
  if (!is.null(about$spread_of)) {
    return(NA)
  }
  switch(
    names(about$beyond), sd = 2 * stats::pt(-beyond * sqrt(3), 3),
    mad = 2 * stats::pt(-beyond * stats::qt(0.75, 3) / stats::qnorm(0.75), 3),
    NA
  )
}

# Of past deviations the limit is widened to keep this; of the last values it is
# that of the mean of `last` of them, whose spread `spread_of` of them estimate.
share_beyond_sd <- function(about) {
  k <- about$beyond[["sd"]]
  n <- about$spread_of
  if (is.null(n)) {
    return(2 * stats::pnorm(-k))
  }
  if (about$against != "last periods" || about$stat != "mean") {
    return(NA)
  }
  2 * stats::pt(-k / sqrt(1 + 1 / about$last), n - 1)
}

# Deviations, as shares of their baselines against a multiplicative season.
relative_deviation <- function(x) {
  x$deviation / ifelse(by_season(x, facts(x), "multiplicative"), x$baseline, 1)
}

# Series whose deviations hang together, so that the share by design does not
# hold: a tibble of their keys and the lag-1 autocorrelation of their
# deviations, those that were flagged left out.
hanging_together <- function(x) {
  along <- along_flags(x)
  off <- usual_deviations(x)[along$order]
  made <- autocorrelation_cpp(
    along$series, along$number, off, 1L, FALSE
  )
  z <- deviates(made$coefficient[1, ], made$pairs[1, ], 1, made$count)$centred
  found <- which(z > stats::qnorm(0.99) & made$pairs[1, ] >= 10)
  new_rows(
    keys_of_lines(x, along, found), coefficient = made$coefficient[1, found]
  )
}

# Those that are not flagged, as shares of their baselines.
usual_deviations <- function(x) {
  ifelse(x$flag %in% FALSE & as_at_the_end(x), relative_deviation(x), NA_real_)
}

keys_of_lines <- function(x, along, lines) {
  keys <- plain_tibble(x)[c(facts(x)$series, "measure")]
  vctrs::vec_slice(keys, along$order[match(lines, along$series)])
}

# Series whose deviations lie on one side, by four standard errors of their
# mean, and those of which some are far larger than the rest: by the mean
# deviation over the standard deviation, which is 0.80 of normal figures.
# Geary, R. C. (1935). The ratio of the mean deviation to the standard deviation
# as a test of normality. Biometrika 27, 310-332.
unlike_normal <- function(x) {
  along <- along_flags(x)
  off <- usual_deviations(x)[along$order]
  known <- which(!is.na(off))
  line <- along$series[known]
  sums <- function(amount) as.vector(rowsum(amount, line))
  n <- sums(rep(1, length(known)))
  lines <- sort(unique(line))
  at <- match(line, lines)
  mean <- sums(off[known]) / n
  about <- off[known] - mean[at]
  sd <- sqrt(sums(about^2) / n)
  ratio <- sums(abs(about)) / n / sd
  judged <- n >= 20 & sd > 0
  aside <- judged & abs(mean) > 4 * sd / sqrt(n)
  wide <- judged & !aside &
    (ratio - sqrt(2 / pi)) * sqrt(n) / 0.2123 < stats::qnorm(0.01)
  list(
    aside = keys_of_lines(x, along, lines[aside]),
    wide = keys_of_lines(x, along, lines[wide])
  )
}

# The rows in order of series and period; `counted` without those that are
# closed, and with the numbers of the others that leave these out.
along_flags <- function(x, counted = isTRUE(facts(x)$closed)) {
  series <- lines_of_flags(x)
  calendar <- lay_calendar_over(facts(x)$calendar, x$period)
  number <- period_number(x$period, calendar)
  order <- order(series, number)
  along <- list(
    order = order, series = series[order], number = number[order],
    value = x$value[order], calendar = calendar
  )
  if (!counted) {
    return(along)
  }
  counted <- only_counted(with_opened(x, along))
  counted$order <- order[counted$rows]
  counted
}

# The number of each row's series. The rows may be some of those that were
# judged, in any order.
lines_of_flags <- function(x) {
  columns <- as.list(x)[c(facts(x)$series, "measure")]
  as.integer(vctrs::vec_group_id(tibble::new_tibble(columns, nrow = nrow(x))))
}
