#' Describe series
#'
#' Describes the figures of each series, or of each group of its periods: how
#' many there are and from when to when, their middle, spread, quantiles, ends
#' and shape, outliers, and the autocorrelation of neighbours.
#'
#' Only whole periods count in the column `value`; partial ones are counted
#' apart. Formulas, with \eqn{m_k}{m[k]} the mean of the \eqn{k}th powers of the
#' distances from the mean:
#'
#' * variance: \eqn{\sum (x - \bar x)^2 / (n - 1)}{sum((x - mean)^2) / (n - 1)};
#'   `sd` is its square root;
#' * quantiles: between the two values nearest to the rank
#'   \eqn{1 + (n - 1) p}{1 + (n - 1) p}, in proportion (definition 7 of Hyndman
#'   and Fan);
#' * skewness: \eqn{\sqrt{n (n - 1)} / (n - 2) \cdot m_3 / m_2^{3/2}}{sqrt(n (n
#'   - 1)) / (n - 2) m3 / m2^1.5};
#' * excess kurtosis, 0 of a normal distribution:
#'   \eqn{(n - 1) / ((n - 2) (n - 3)) \cdot ((n + 1) (m_4 / m_2^2 - 3) + 6)}{(n
#'   - 1) / ((n - 2) (n - 3)) ((n + 1) (m4 / m2^2 - 3) +
#'   6)} (both as in Joanes and Gill);
#' * outliers, by the box-plot rule: more than 1.5 times the distance of the
#'   quartiles below the lower or above the upper one (Tukey);
#' * autocorrelation: of figures in periods that follow on each other, about the
#'   mean of all.
#'
#' @section Chance: The box-plot rule finds outliers where nothing is odd: of
#'   independent normal figures 3.3% where there are 12, 1.6% of 36, 1.0% of 100
#'   and 0.7% of many (simulated). With skewed figures it is far more.
#'   `normality_p` is the chance of a skewness and kurtosis as far from those of
#'   a normal distribution (D'Agostino and others; 20 figures or more). It does
#'   not allow for autocorrelation; the sentence says where there is some.
#'
#' @eval rates_section("series_summary")
#'
#' @inheritParams add_growth
#' @param by What groups the periods: a position (`"weekday"`, `"weekend"`,
#'   `"month"` and so on, see [cycle_profile()]); the name of a column of `x`;
#'   or a vector with a value for each row of `x`.
#' @param probs Further quantiles to give: shares from 0 to 1. The quartiles are
#'   always there.
#' @return A tibble with a row for each series and group: the series columns,
#'   `measure`, the group (a column of the name of `by`, or `group`), `n`
#'   (figures), `partial` and `missing` (periods without a figure, the partial
#'   ones and the others), `first` and `last` (periods with a figure), `mean`,
#'   `sd`, `variance`, `lowest`, `lowest_at` (the first of so many
#'   `lowest_times`), `lower_quartile`, `median`, `upper_quartile`, `highest`,
#'   `highest_at`, `highest_times`, `iqr` (the distance of the quartiles), a
#'   column such as `q90` for each of `probs`, `skewness`, `kurtosis`,
#'   `outliers` (how many), `autocorrelation` and `normality_p`.
#'   `summary()` of it lists the outliers: the keys, `period`, `value`, `side`
#'   and the `fence` that it lies beyond, the furthest first.
#' @section Errors: `backfill_error_input` where `x` is not a periods table;
#'   `backfill_error_column`, `backfill_error_argument`.
#' @references Hyndman, R. J. and Fan, Y. (1996). Sample quantiles in
#'   statistical packages. *The American Statistician* 50, 361-365. Joanes, D.
#'   N. and Gill, C. A. (1998). Comparing measures of sample skewness and
#'   kurtosis. *The Statistician* 47, 183-189. Tukey, J. W. (1977). *Exploratory
#'   Data Analysis*. Addison-Wesley. D'Agostino, R. B., Belanger, A. and
#'   D'Agostino, R. B. Jr. (1990). A suggestion for using powerful and
#'   informative tests of normality. *The American Statistician* 44, 316-321.
#' @seealso [group_differences()] for whether groups differ by more than chance.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' described <- series_summary(monthly)
#' described
#' summary(described)
#' series_summary(monthly, by = "quarter", probs = c(0.05, 0.95))
#' @concept standard deviation
#' @concept skewness
#' @concept kurtosis
#' @concept outlier
#' @concept descriptive statistics
#' @export
series_summary <- function(x, by = NULL, probs = NULL, of = "value") {
  x <- check_periods(x)
  check_probs(probs)
  check_series_apart(x, quantile_names(probs))
  rows <- rows_by_group(x, by, of)
  made <- describe_cpp(
    rows$cell, rows$open, rows$value, c(0.25, 0.75, 0.5, probs)
  )
  starts <- which(!duplicated(rows$cell))
  counted <- function(what) as.vector(rowsum(as.integer(what), rows$cell))
  known <- !is.na(rows$value)
  partial <- counted(!known & rows$partial)
  at <- function(row) rows$period[row]
  of_quantile <- function(k) made$quantiles[k, ]
  variance <- ifelse(made$count > 1, made$squares / (made$count - 1), NA_real_)
  first <- match(unique(rows$cell), ifelse(known, rows$cell, NA))
  last <- length(known) + 1L -
    match(unique(rows$cell), rev(ifelse(known, rows$cell, NA)))
  own <- match(rows$cell, rows$cell[starts])
  times <- function(row) {
    tabulate(own[which(rows$value == rows$value[row][own])], length(starts))
  }
  further <- lapply(seq_along(probs) + 3, of_quantile)
  names(further) <- quantile_names(probs)
  out <- new_rows(
    vctrs::vec_slice(rows$keys, starts),
    n = as.integer(made$count), partial = partial,
    missing = counted(!known) - partial, first = at(first), last = at(last),
    mean = made$mean, sd = sqrt(variance), variance = variance,
    lowest = rows$value[made$lowest], lowest_at = at(made$lowest),
    lowest_times = times(made$lowest),
    lower_quartile = of_quantile(1), median = of_quantile(3),
    upper_quartile = of_quantile(2), highest = rows$value[made$highest],
    highest_at = at(made$highest), highest_times = times(made$highest),
    iqr = of_quantile(2) - of_quantile(1),
    !!!further, shape_of(made),
    outliers = tabulate(own[made$apart], length(starts)),
    autocorrelation = made$autocorrelation
  )
  out$normality_p <- normality(made)
  points <- new_rows(
    rows$keys, period = rows$period, value = rows$value, apart = FALSE
  )
  points$apart[made$apart] <- TRUE
  new_result(out, "series_summary", list(
    of = of, by = rows$by, ungrouped = rows$left, points = points[known, ],
    probs = probs, calendar = facts(x)$calendar, series = facts(x)$series,
    measures = facts(x)$measures, sources = facts(x)$sources,
    unit = facts(x)$added[[of]]$unit,
    volatility = if (is.null(rows$by)) volatility_of(x, of)
  ), needed = c("measure", "n"))
}

# Of returns that of a year, a row for each line, by its keys.
volatility_of <- function(x, of) {
  along <- along_series(x, of)
  year <- year_of_returns(x, along, facts(x)$added[[of]])
  if (!is.null(year)) new_rows(
    keys_at(x, along, which(!duplicated(along$series))),
    a_year = year$volatility_per_year
  )
}

check_probs <- function(probs) {
  if (!is.null(probs) && (!are_numbers(probs) || any(probs < 0 | probs > 1))) {
    abort_backfill(
      "argument", "`probs` is {value_in_words(probs)}.",
      i = "It must be shares from 0 to 1, such as c(0.05, 0.95)."
    )
  }
}

# "q5", "q97_5"
quantile_names <- function(probs) {
  gsub(".", "_", sprintf("q%s", vapply(
    100 * probs, plain_format, "", digits = 6
  )), fixed = TRUE)
}

# The rows of a table in order of series, group and period: list(keys, cell,
# number, period, value, partial, by, left), where `cell` tells series and
# groups apart, `partial` says which values are those of partial periods, `by`
# is the name of the group's column, and `left` how many rows with a figure are
# of no group.
rows_by_group <- function(x, by, of) {
  along <- along_series(x, of)
  line <- first_rows(along)$line
  keys <- vctrs::vec_slice(keys_of(x), along$order)
  group <- list(code = rep(1L, length(line)), levels = "")
  if (!is.null(by)) {
    group <- groups_apart(by, x, figures_in_time(x, of), "by")
    check_new_name(group$name, keys, "by")
    keys[[group$name]] <- factor(group$levels, group$levels)[group$code]
  }
  cell <- (line - 1L) * length(group$levels) + group$code
  order <- order(cell, along$number, method = "radix", na.last = NA)
  standing <- column_along(x$standing, along)
  list(
    keys = vctrs::vec_slice(keys, order), cell = as.integer(cell[order]),
    number = along$number[order],
    open = as.double(open_numbers(x, along))[order],
    period = column_along(x$period, along)[order],
    value = along$value[order],
    partial = (of == "value" & standing == "partial")[order],
    by = group$name,
    left = sum(!is.na(along$value) & is.na(cell)), calendar = along$calendar,
    line = line[order], code = group$code[order]
  )
}

# Skewness and excess kurtosis, of three and four figures or more.
shape_of <- function(made) {
  n <- made$count
  varies <- made$squares > 0
  g1 <- (made$cubes / n) / (made$squares / n)^1.5
  g2 <- (made$fourths / n) / (made$squares / n)^2 - 3
  new_rows(
    skewness = ifelse(
      n > 2 & varies, sqrt(n * (n - 1)) / (n - 2) * g1, NA_real_
    ),
    kurtosis = ifelse(
      n > 3 & varies, (n - 1) / ((n - 2) * (n - 3)) * ((n + 1) * g2 + 6),
      NA_real_
    )
  )
}

# The omnibus test of D'Agostino and others, of 20 figures or more: skewness and
# kurtosis made normal, their squares added up.
normality <- function(made) {
  n <- made$count
  enough <- n >= 20 & made$squares > 0
  n <- ifelse(enough, n, NA_real_)
  b1 <- (made$cubes / n) / (made$squares / n)^1.5
  b2 <- (made$fourths / n) / (made$squares / n)^2
  exp(-(normal_skewness(b1, n)^2 + normal_kurtosis(b2, n)^2) / 2)
}

normal_skewness <- function(b1, n) {
  y <- b1 * sqrt((n + 1) * (n + 3) / (6 * (n - 2)))
  beta <- 3 * (n^2 + 27 * n - 70) * (n + 1) * (n + 3) /
    ((n - 2) * (n + 5) * (n + 7) * (n + 9))
  w <- sqrt(2 * (beta - 1)) - 1
  asinh(y / sqrt(2 / (w - 1))) / sqrt(log(w) / 2)
}

normal_kurtosis <- function(b2, n) {
  variance <- 24 * n * (n - 2) * (n - 3) / ((n + 1)^2 * (n + 3) * (n + 5))
  x <- (b2 - 3 * (n - 1) / (n + 1)) / sqrt(variance)
  beta <- 6 * (n^2 - 5 * n + 2) / ((n + 7) * (n + 9)) *
    sqrt(6 * (n + 3) * (n + 5) / (n * (n - 2) * (n - 3)))
  a <- 6 + 8 / beta * (2 / beta + sqrt(1 + 4 / beta^2))
  inner <- (1 - 2 / a) / (1 + x * sqrt(2 / (a - 4)))
  (1 - 2 / (9 * a) - sign(inner) * abs(inner)^(1 / 3)) / sqrt(2 / (9 * a))
}

#' @rdname series_summary
#' @param object A description, from `series_summary()`.
#' @param ... Not used.
#' @export
summary.backfill_series_summary <- function(object, ...) {
  about <- facts(object)
  keys <- c(about$series, "measure", about$by)
  points <- about$points[about$points$apart, ]
  of <- match(
    names_of_keys(points[keys]), names_of_keys(plain_tibble(object)[keys])
  )
  above <- points$value > object$median[of]
  fence <- ifelse(
    above, object$upper_quartile[of] + 1.5 * object$iqr[of],
    object$lower_quartile[of] - 1.5 * object$iqr[of]
  )
  out <- new_rows(
    points[c(keys, "period", "value")],
    side = ifelse(above, "above", "below"), fence = fence
  )
  far <- abs(points$value - fence) / object$iqr[of]
  new_result(out[order(-far, of), ], "outliers", about)
}

names_of_keys <- function(keys) {
  do.call(
    paste, c(unname(as.list(keys)), sep = "\r")
  )
}
