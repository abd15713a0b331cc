# How correlations were made: of a series with itself, and of two.

#' @export
working_of.backfill_autocorrelation <- function(x, one, column, table) {
  about <- facts(x)
  along <- along_open(table, about$of)
  own <- known_of(places_of_line(one, along, table), along)
  lag <- one$lag
  number <- along$number[own]
  value <- along$value[own]
  later <- match(number + lag, number)
  has <- !is.na(later)
  pairs <- list(a = value[has], b = value[later[has]])
  about_mean <- "(a - mean(x)) * (b - mean(x))"
  body <- switch(
    column, coefficient = sprintf(
      "sum(%s) / (length(a) + %d) / mean((x - mean(x))^2)", about_mean, lag
    ), products = sprintf("sum(%s)", about_mean), pairs = "length(a)"
  )
  text <- if (!is.null(body)) {
    worked_text(body, x = value, a = pairs$a, b = pairs$b)
  } else if (column %in% c("lower", "upper")) {
    band_text(x, one, column, sum(has), length(value))
  } else {
    lag_text(one, column, about$cycle$length)
  }
  new_working(along$order[own], text %||% NA, about$of, switch(
    column, coefficient = , products = , pairs = sprintf(
      "%s of the %s that lie %s apart, among %s", column,
      count_of(sum(has), "pair"), count_of_periods(lag, along$calendar),
      count_of(length(value), "figure")
    ), partial_coefficient = paste(
      "what the lag adds to shorter ones, from the coefficients up to it"
    ), sprintf("%s of lag %d", column, lag)
  ))
}

# What follows from a lag alone.
lag_text <- function(one, column, cycle) {
  switch(
    column, cycles = sprintf("%d / %d", one$lag, cycle),
    outside = sprintf("abs(%s) > %s", put_in(one$coefficient),
                      put_in(one$upper))
  )
}

# The end of the band, further out behind lags that matter where that was asked
# for.
band_text <- function(x, one, column, pairs, n) {
  about <- facts(x)
  z <- stats::qnorm((1 + about$confidence) / 2)
  text <- sprintf(
    "%s%s * sqrt(%d * %d / %d) / %d", if (column == "lower") "-" else "",
    put_in(z), pairs, n, n + 2L, pairs + as.integer(one$lag)
  )
  if (about$limits != "large lag" || one$lag == 1) {
    return(text)
  }
  keys <- c(about$series, "measure")
  data <- plain_tibble(x)
  before <- data$coefficient[
    vctrs::vec_in(data[keys], one[keys]) & data$lag < one$lag
  ]
  paste(text, "*", worked_text("sqrt(1 + 2 * sum(r^2))", r = before[
    !is.na(before)
  ]))
}

#' @export
working_of.backfill_cross_correlation <- function(
  x, one, column, table
) {
  about <- facts(x)
  along <- along_open(table, about$of)
  line <- column_along(line_names(table), along)
  two <- on_one_grid(along, line, c(about$first, about$second), about$on)
  n <- length(two[[1]])
  first <- seq_len(n)
  second <- first + one$lag
  fits <- second >= 1 & second <= n
  a <- two[[1]][first[fits]]
  b <- two[[2]][second[fits]]
  both <- !is.na(a) & !is.na(b)
  rows <- which(line %in% c(about$first, about$second) & !is.na(along$value))
  text <- lag_text(one, column, about$cycle$length) %||%
    pair_text(column, a[both], b[both])
  new_working(
    along$order[rows], text, about$of, glue(
      "{column} of {count_of(sum(both), 'pair')} of {about$first} with",
      "{about$second} {count_of_periods(one$lag, along$calendar)} later"
    )
  )
}

# Pearson's correlation, or what else two sets of figures come to.
pair_text <- function(column, a, b, method = "pearson") {
  off <- "(a - mean(a)) * (b - mean(b))"
  body <- if (column %in% c("n", "pairs")) "length(a)" else if (
    column == "coefficient"
  ) switch(
    method, covariance = sprintf("sum(%s) / (length(a) - 1)", off),
    pearson = correlation_body("a", "b"),
    spearman = correlation_body("rank(a)", "rank(b)"),
    kendall = paste(
      "sum(sign(outer(a, a, \"-\")) * sign(outer(b, b, \"-\"))) /",
      "sqrt(sum(outer(a, a, \"!=\")) * sum(outer(b, b, \"!=\")))"
    )
  )
  if (is.null(body) || length(a) == 0) NA else worked_text(body, a = a, b = b)
}

correlation_body <- function(a, b) {
  off <- sprintf("(%s - mean(%s))", c(a, b), c(a, b))
  sprintf(
    "sum(%s * %s) / sqrt(sum(%s^2) * sum(%s^2))", off[[1]], off[[2]], off[[1]],
    off[[2]]
  )
}

#' @export
working_of.backfill_correlations <- function(x, one, column, table) {
  about <- facts(x)
  figures <- figures_across(table, about$of)
  if (about$on == "changes") figures <- changes_across(figures)
  columns <- columns_of_pair(x, one, figures, table)
  rows <- rows_of_slice(x, one, figures)
  a <- figures$values[rows, columns[[1]]]
  b <- figures$values[rows, columns[[2]]]
  both <- !is.na(a) & !is.na(b)
  new_working(
    rows_of_lines(figures$lines[columns], figures$start[rows], table),
    interval_text(one, column, about$method) %||%
      pair_text(column, a[both], b[both], about$method),
    about$of, sprintf(
      "%s (%s) of %s of %s", column, about$method,
      count_of(sum(both), "pair"), about$on
    )
  )
}

# The interval and the chance of a coefficient, of as many independent pairs as
# they are worth.
interval_text <- function(one, column, method, confidence = 0.95) {
  spread <- c(pearson = 1, spearman = 1.06, kendall = 0.437)[method]
  less <- if (method == "kendall") 4 else 3
  if (!column %in% c("lower", "upper", "p") || is.na(spread)) {
    return(NULL)
  }
  error <- sprintf(
    "sqrt(%s / (%s - %d))", put_in(spread), put_in(one$n_effective), less
  )
  own <- sprintf("atanh(%s)", put_in(one$coefficient))
  z <- put_in(stats::qnorm((1 + confidence) / 2))
  switch(
    column, lower = sprintf("tanh(%s - %s * %s)", own, z, error),
    upper = sprintf("tanh(%s + %s * %s)", own, z, error),
    p = sprintf("2 * pnorm(-abs(%s) / %s)", own, error)
  )
}

# The rows of a table that hold figures of some lines at some times.
rows_of_lines <- function(lines, start, table) {
  which(line_names(table) %in% lines & vctrs::vec_in(table$period, start))
}

# Which lines a pair is of: by their names, within a value of `by` where the
# correlations are those of each.
columns_of_pair <- function(x, one, figures, table) {
  groups <- groups_of_lines(table, figures$lines, facts(x)$by)
  within <- seq_along(figures$lines)
  if (!is.null(groups$name)) {
    within <- groups$columns[[match(one$group, groups$name)]]
  }
  within[match(c(one$first, one$second), groups$lines[within])]
}

# The rows that a correlation is taken over: all, or those of its period.
rows_of_slice <- function(x, one, figures) {
  slices <- slices_of(figures, facts(x)$each, facts(x)$window)
  slices$rows[[if (is.null(slices$start)) 1 else
    match(one$period, slices$start)]]
}

#' @export
working_of.backfill_links <- function(x, one, column, table) {
  about <- facts(x)
  figures <- figures_across(table, about$of)
  count <- nrow(figures$values)
  changes <- lapply(c(one$candidate, about$target), function(line) {
    value <- figures$values[, match(line, figures$lines)]
    if (one$horizon == 0) return(value)
    value - c(rep(NA, one$horizon), value)[seq_len(count)]
  })
  later <- seq_len(count) + one$ahead
  a <- changes[[1]]
  b <- changes[[2]][later]
  both <- !is.na(a) & !is.na(b)
  text <- if (column == "distinct") {
    worked_text("length(unique(a))", a = a[both])
  } else {
    interval_text(one, column, "pearson") %||%
      pair_text(column, a[both], b[both])
  }
  new_working(
    rows_of_lines(
      c(one$candidate, about$target), figures$start, table
    ), text, about$of, glue(
      "{column} of {count_of(sum(both), 'pair')}: changes of {one$candidate}",
      "over {count_of_steps(one$horizon, figures$calendar)} with those of",
      "{about$target} {count_of_steps(one$ahead, figures$calendar)} later"
    )
  )
}
