#' Put series together in a basket
#'
#' A weighted combination of levels, such as prices, as an index that starts at
#' 100: what 100 spread over the members by their weights would have become.
#'
#' Rebalanced each period, the basket's return is the weighted mean of its
#' members' simple returns, and the index is
#' \eqn{100 \prod_s (1 + \sum_i w_i r_{i,s})}{100 prod(1 + sum(w[i] r[i,
#' s]))}. Bought and held, each member grows on its own, \eqn{100 \sum_i w_i
#' x_{i,t} / x_{i,1}}{100 sum(w[i] x[i, t] / x[i,
#' 1])}, so that those that rise weigh more.
#'
#' The index starts with the first period in which all members have a whole
#' value. A period in which one has none is empty: a member is never left out in
#' silence, since that would change the weights of the others. The next whole
#' period goes on from the last one before it.
#'
#' @inheritParams add_growth
#' @param x A periods table of levels, of one measure.
#' @param weights The members and their weights, named by series, as in
#'   `c(cod = 0.6, ling = 0.4)`; with several series columns names are joined by
#'   `" / "`. They must add up to 1. By default all series, with equal weights.
#' @param rebalance `"each period"`, or `"never"` for bought and held.
#' @return A periods table of one series, with the measure `basket`, a level.
#' @section Errors: `backfill_error_input` where `x` is not a periods table or
#'   its members have no period in common; `backfill_error_argument` for weights
#'   that do not add up to 1 or name no series; `backfill_error_column`.
#' @examples
#' landings <- read_records(
#'   demo_file("landings.csv"), when = "date", series = "species",
#'   duplicates = "keep", measures = c(price = "level")
#' )
#' weekly <- roll_up(landings, every = "week", enough = 0.5)
#' basket(weekly)
#' @export
basket <- function(x, weights = NULL, rebalance = "each period", of = "value") {
  check_given()
  x <- check_periods(x)
  check_one_level(x)
  along <- along_series(x, of)
  lines <- line_names(x)[along$order[!duplicated(along$series)]]
  weights <- check_basket(weights, lines)
  grid <- along_grid(along, along$value)
  ends <- range(along$number)
  values <- matrix(grid$value, ends[[2]] - ends[[1]] + 1)[
    , match(names(weights), lines), drop = FALSE
  ]
  values[values <= 0] <- NA
  value <- basket_values(values, weights, rebalance)
  role <- facts(x)
  index <- measure("level")
  index[c("from", "use")] <- list("basket", "last")
  data <- new_rows(
    measure = "basket",
    period = period_start(seq(ends[[1]], ends[[2]]), along$calendar),
    value = value,
    standing = factor(ifelse(is.na(value), "empty", "complete"), standings),
    n = as.integer(rowSums(!is.na(values))),
    coverage = rowMeans(!is.na(values))
  )
  new_periods(data, list(
    calendar = role$calendar, series = character(),
    measures = list(basket = index),
    cadences = list(
      names = vctrs::data_frame(.size = 1),
      cadences = shared_cadence(list(role$cadences$cadences))
    ),
    enough = role$enough, sources = role$sources,
    basket = list(weights = weights, rebalance = rebalance)
  ))
}

check_one_level <- function(x) {
  kinds <- vapply(facts(x)$measures[unique(x$measure)], `[[`, "", "kind")
  if (length(kinds) != 1 || !kinds %in% c("level", "ratio")) {
    abort_backfill(
      "input",
      "The table has {in_words(sprintf('%s (%s)', names(kinds), kinds))}.",
      i = "A basket is made of one measure that is a level, such as a price."
    )
  }
}

# The value of 100 put into the members, a row of `values` per period, over the
# periods in which all of them have one.
basket_values <- function(values, weights, rebalance) {
  whole <- which(rowSums(is.na(values)) == 0)
  if (length(whole) == 0) {
    abort_backfill(
      "input",
      "There is no period in which all members have a whole value above zero.",
      ">" = "Leave members out with `weights`."
    )
  }
  held <- values[whole, , drop = FALSE]
  value <- rep(NA_real_, nrow(values))
  value[whole] <- if (rebalance == "never") {
    100 * as.vector((held / rep(held[1, ], each = nrow(held))) %*% weights)
  } else {
    growth <- held[-1, , drop = FALSE] / held[-nrow(held), , drop = FALSE] - 1
    100 * cumprod(1 + c(0, as.vector(growth %*% weights)))
  }
  value
}

check_basket <- function(weights, lines) {
  if (is.null(weights)) {
    return(stats::setNames(rep(1 / length(lines), length(lines)), lines))
  }
  named <- is.numeric(weights) && !is.null(names(weights)) &&
    anyDuplicated(names(weights)) == 0
  if (!named || !all(is.finite(weights))) {
    abort_backfill(
      "argument", "`weights` must be numbers named by series, each once.",
      i = "The series are {in_words(lines)}."
    )
  }
  unknown <- setdiff(names(weights), lines)
  if (length(unknown) > 0) {
    abort_backfill(
      "argument", "`weights` names {in_words(unknown)}, which is not a series.",
      i = "The series are {in_words(lines)}."
    )
  }
  total <- sum(weights)
  if (abs(total - 1) > 1e-9) {
    mend <- if (total > 0) {
      scaled <- plain_format(weights / total, digits = 4, trim = TRUE)
      c(
        ">" = sprintf(
          "In these proportions they are %s, of `weights / sum(weights)`.",
          in_words(paste(names(weights), scaled))
        )
      )
    }
    abort_backfill(
      "argument", "`weights` add up to {plain_format(total)}, not to 1.",
      "{mend}"
    )
  }
  weights
}
