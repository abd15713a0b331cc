#' Correlations of series with each other
#'
#' How much each two series move together, over the periods that both have. By
#' default the changes from period to period are correlated, since two series
#' that only drift the same way have a high correlation of their values without
#' having anything to do with each other.
#'
#' Every pair has its own periods: the means, variances and products are those
#' of the periods in which both have a whole value, so no coefficient lies
#' beyond 1. With \eqn{n} such periods and the autocorrelations \eqn{r_k} and
#' \eqn{s_k} of the two, they are worth \eqn{n_e = n / (1 + 2 \sum_k (1 - k / n)
#' r_k s_k)}{ne = n / (1 + 2 sum (1 - k / n) r[k] s[k])} independent ones, where
#' \eqn{k} runs over a fifth of \eqn{n} (Pyper and Peterman 1998). The interval
#' is Fisher's, \eqn{\tanh(\mathrm{atanh}(r) \pm z / \sqrt{n_e -
#' 3})}{tanh(atanh(r) +- z / sqrt(ne - 3))}; for ranks its width is that of
#' Fieller, Hartley and Pearson (1957).
#'
#' Where both of a pair have a season, by which alone they are alike, the
#' coefficient is given, but no interval and no `p`: take it out first with
#' [deseasonalise()].
#'
#' @section Rates: In simulations of 2,000 pairs of unrelated series, the
#'   interval of 95% leaves zero out in 4 to 5 of 100 pairs of white noise with
#'   20 to 200 periods, in 4 to 6 where both have a lag-1 autocorrelation of
#'   0.6, and in 4 to 9 where that is 0.9; an interval that took all periods for
#'   independent would in 16 and in 47 of 100 (60 periods). A true correlation
#'   of 0.5 is found in 62 of 100 pairs with 20 periods and in 98 with 60.
#'   With the ranks of Spearman and Kendall zero is left out in 3 to 5 of 100
#'   pairs of white noise, and in 4 to 6 with an autocorrelation of 0.6 or 0.9
#'   (60 periods); a true correlation of 0.5 is found in 47 to 51 of 100 pairs
#'   with 20 periods and in 96 with 60. Within each of 20 years of 12 months,
#'   and on moving windows of 24, zero is left out in 5 of 100 pairs of white
#'   noise, and in 6 and 7 with an autocorrelation of 0.6.
#'
#' @eval rates_section("correlations")
#'
#' @inheritParams add_growth
#' @param x A periods table, or series that [align_as_of()] has carried to
#'   common days.
#' @param method `"pearson"`, `"spearman"` (of ranks), `"kendall"` (tau-b, of
#'   concordant pairs) or `"covariance"`, which has no interval.
#' @param on What is correlated: `"changes"` from the period before, or
#'   `"values"`. By default changes, unless the column is one of changes
#'   already, such as a growth or a return.
#' @param pairs The least number of periods that two series must have in common.
#' @param confidence The share of cases in which the interval holds the true
#'   coefficient.
#' @param each A longer length of period, such as `"year"`, within each of which
#'   the correlations are taken; `NULL` for all periods at once.
#' @param window A number of periods or a length of time: the correlations of a
#'   moving window that ends in each period.
#' @param by A series column, such as `"island"`: the correlations within each
#'   of its values, of the series that are left when it is taken away.
#' @return A tibble with a row for each pair of series (with `by` for each
#'   `group`, with `each` or `window` for each `period`): `first`, `second`,
#'   `coefficient`, `n` (periods in common), `n_effective` (the independent ones
#'   that they are worth), `lower`, `upper` and `p`.
#' @section Errors: `backfill_error_input` where `x` is not a periods table or
#'   has fewer than two series; `backfill_error_column`,
#'   `backfill_error_argument`. Values that hardly move from period to period
#'   come with a warning of class `backfill_warning_use`.
#' @references Pyper, B. J. and Peterman, R. M. (1998). Comparison of methods to
#'   account for autocorrelation in correlation analyses of fish data. *Canadian
#'   Journal of Fisheries and Aquatic Sciences* 55, 2127-2140. Fieller, E. C.,
#'   Hartley, H. O. and Pearson, E. S. (1957). Tests for rank correlation
#'   coefficients, I. *Biometrika* 44, 470-481. Knight, W. R. (1966). A computer
#'   method for calculating Kendall's tau with ungrouped data. *Journal of the
#'   American Statistical Association* 61, 436-439.
#' @seealso [cross_correlation()] for two series at several lags.
#' @concept correlation matrix
#' @examples
#' landings <- read_records(
#'   demo_file("landings.csv"), when = "date", series = "species",
#'   duplicates = "keep", missing = "unsold", measures = c(price = "level")
#' )
#' found <- correlations(roll_up(landings, every = "month", enough = 0.5))
#' found
#' autoplot(found)
#' @export
correlations <- function(
  x, method = "pearson", on = NULL, pairs = 10, confidence = 0.95, each = NULL,
  window = NULL, by = NULL, of = "value"
) {
  check_given()
  figures <- figures_across(x, of)
  seasonal <- seasonal_lines_of(figures)
  on <- on %||% if (figures$already) "values" else "changes"
  if (on == "changes") {
    figures <- changes_across(figures)
  }
  if (length(figures$start) == 0) {
    abort_backfill(
      "input", "The table has one period, and so no change to the next one."
    )
  }
  slices <- slices_of(figures, each, window)
  groups <- groups_of_lines(x, figures$lines, by)
  found <- unlist(recursive = FALSE, lapply(groups$columns, function(columns) {
    lapply(slices$rows, function(rows) {
      correlated(figures$values[rows, , drop = FALSE], columns, method, pairs)
    })
  }))
  if (on == "values" && !figures$already) {
    warn_unsteady(figures$lines[found_unsteady(figures$values)])
  }
  out <- correlations_table(
    found, slices, groups$name, groups$lines, method, confidence
  )
  both <- function(name) seasonal[unlist(lapply(found, `[[`, name))]
  alike <- both("first") & both("second")
  out <- not_judged(out, alike)
  new_result(out, "correlations", list(
    method = method, on = on, pairs = pairs, confidence = confidence, of = of,
    measures = figures$measures, words = slices$words, left = figures$left,
    lines = unique(groups$lines), by = by, each = each, window = window,
    calendar = slices$calendar %||% figures$calendar, sources = figures$sources,
    alike = sum(alike & !is.na(out$coefficient)),
    unit = figures$unit, across = figures[c("start", "values")]
  ))
}

correlation_methods <- c("pearson", "spearman", "kendall", "covariance")

# list(columns, name, lines): the columns that are set against each other, and
# what the lines are called: all of them, or those of each value of a series
# column, called by what they are besides.
groups_of_lines <- function(x, lines, by) {
  if (is.null(by)) {
    return(list(columns = list(seq_along(lines)), lines = lines))
  }
  if (length(facts(x)$series) == 0) {
    abort_backfill(
      "argument", "`by` is given, but the table has no series column."
    )
  }
  check_one_of(by, facts(x)$series, "by")
  keys <- keys_of(x)
  keys <- vctrs::vec_slice(keys, match(lines, names_of_lines(keys)))
  value <- as.character(keys[[by]])
  columns <- split(seq_along(lines), factor(value, unique(value)))
  columns <- columns[lengths(columns) > 1]
  if (length(columns) == 0) {
    abort_backfill(
      "argument", "No value of \"{by}\" has two series or more.",
      i = "Correlations are those of two series within each."
    )
  }
  list(
    columns = unname(columns), name = names(columns),
    lines = names_of_lines(keys[setdiff(names(keys), by)])
  )
}

# list(rows, start, words): which rows each correlation is taken over, and the
# period that it belongs to.
slices_of <- function(figures, each, window) {
  start <- figures$start
  if (!is.null(each) && !is.null(window)) {
    abort_backfill(
      "argument", "`each` and `window` are given, but only one of them can be."
    )
  }
  if (!is.null(each)) {
    longer <- lay_calendar_over(as_calendar(each, "each"), start)
    of <- period_number(start, longer)
    rows <- split(seq_along(start), of)
    first <- period_start(as.numeric(names(rows)), longer)
    return(list(
      rows = unname(rows), start = first, calendar = longer,
      words = sprintf("within each %s", period_noun(longer))
    ))
  }
  if (is.null(window)) {
    return(list(rows = list(seq_along(start))))
  }
  width <- width_of_slices(window, figures)
  last <- seq(width, length(start))
  list(
    rows = lapply(last, function(end) seq(end - width + 1, end)),
    start = start[last],
    words = glue("over {count_of_steps(width, figures$calendar)} up to each")
  )
}

width_of_slices <- function(window, figures) {
  count <- length(figures$start)
  if (is.null(figures$calendar)) {
    return(check_whole(
      window, "window", 3, count, "how many days of the table"
    ))
  }
  width <- whole_periods(window, figures$calendar)
  if (is.null(width) || width < 3 || width > count) {
    stop_periods(window, figures$calendar, "window", "window")
  }
  width
}

# Of each pair of `columns`, as correlate_cpp() gives it.
correlated <- function(values, columns, method, pairs) {
  values <- values[, columns, drop = FALSE]
  found <- correlate_cpp(
    values, own_memories(values),
    match(method, correlation_methods) - 1L, pairs
  )
  found$first <- columns[found$first]
  found$second <- columns[found$second]
  found
}

# The autocorrelations of each column, at lags up to a fifth of its rows, or
# `least` of them.
own_memories <- function(values, least = 1) {
  n <- nrow(values)
  autocorrelation_cpp(
    rep(seq_len(ncol(values)), each = n),
    as.numeric(rep(seq_len(n), ncol(values))), as.vector(values),
    as.integer(min(max(least, n %/% 5), n - 1)), FALSE
  )$coefficient
}

found_unsteady <- function(values) {
  which(own_memories(values)[1, ] > 0.6)
}

# `found` has the slices of the first group, then those of the next.
correlations_table <- function(
  found, slices, groups, lines, method, confidence
) {
  each <- lengths(lapply(found, `[[`, "n"))
  all <- function(name) unlist(lapply(found, `[[`, name))
  out <- new_rows(
    first = lines[all("first")], second = lines[all("second")],
    coefficient = all("coefficient"), n = as.integer(all("n")),
    n_effective = all("n_effective")
  )
  out$coefficient[is.nan(out$coefficient)] <- NA
  if (!is.null(slices$start)) {
    out <- tibble::add_column(
      out, period = rep(rep(slices$start, length.out = length(each)), each),
      .before = 1
    )
  }
  if (!is.null(groups)) {
    of <- rep(groups, each = length(slices$rows))
    out <- tibble::add_column(out, group = rep(of, each), .before = 1)
  }
  new_rows(out, chance_of(out$coefficient, out$n_effective, method,
                                confidence))
}

# Which columns have a season, by which alone two are alike: in their figures,
# or in the changes of these, where a level wanders.
seasonal_lines_of <- function(figures) {
  seasonal <- function(one) {
    columns_with_season(one$values, one$number, one$calendar)
  }
  seasonal(figures) | seasonal(changes_across(figures))
}

# Without a verdict on these rows.
not_judged <- function(out, rows) {
  out[rows, c("lower", "upper", "p")] <- NA_real_
  out
}

# The interval of each coefficient, and how often chance alone gives as much.
chance_of <- function(r, n, method, confidence) {
  width <- switch(
    method, pearson = 1 / (n - 3), spearman = 1.06 / (n - 3),
    kendall = 0.437 / (n - 4), covariance = rep(NA_real_, length(n))
  )
  sure <- !is.na(r) & !is.na(width) & width > 0 & is.finite(width)
  se <- ifelse(sure, sqrt(pmax(width, 0)), NA_real_)
  # At 1 the interval is a point.
  z <- atanh(pmax(pmin(r, 1), -1))
  reach <- stats::qnorm((1 + confidence) / 2) * se
  new_rows(
    lower = ifelse(sure, tanh(z - reach), NA_real_),
    upper = ifelse(sure, tanh(z + reach), NA_real_),
    p = ifelse(sure, 2 * stats::pnorm(-abs(z) / se), NA_real_)
  )
}
