#' Weights of well-known moving averages
#'
#' Averages that follow a smooth curve where a plain mean would cut its tops:
#' Spencer's of 15 terms, which lets any cubic through unchanged and takes out
#' cycles of 4 and 5; Henderson's, which let cubics through and are as smooth as
#' can be.
#'
#' Henderson's weights of \eqn{2m + 1} terms are, with \eqn{p = m + 2}, for
#' \eqn{j} from \eqn{-m} to \eqn{m}
#' \deqn{\frac{315 [(p-1)^2 - j^2][p^2 - j^2][(p+1)^2 - j^2][3p^2 - 16 -
#' 11j^2]} {8p(p^2-1)(4p^2-1)(4p^2-9)(4p^2-25)}}{315 [(p-1)^2 - j^2] [p^2 - j^2]
#' [(p+1)^2 - j^2] [3 p^2 - 16 - 11 j^2] / (8 p (p^2 - 1) (4 p^2 - 1) (4 p^2 -
#' 9) (4 p^2 - 25))}
#'
#' @param name `"spencer 15"`, or `"henderson 5"`, `"henderson 7"`,
#'   `"henderson 9"`, `"henderson 13"` or `"henderson 23"`.
#' @return The weights from the first to the last period of the window. They add
#'   up to 1.
#' @section Errors: `backfill_error_argument` for another name.
#' @references Spencer, J. (1904). On the graduation of the rates of sickness
#'   and mortality. *Journal of the Institute of Actuaries* 38, 334-343.
#'   Henderson, R. (1916). Note on graduation by adjusted average. *Transactions
#'   of the Actuarial Society of America* 17, 43-48. Kendall, M. and Ord, J. K.
#'   (1990). *Time Series*, 3rd ed., chapter 3. Edward Arnold.
#' @examples
#' moving_weights("henderson 5")
#' @export
moving_weights <- function(name) {
  check_given()
  check_one_of(name, weight_names, "name")
  if (name == "spencer 15") {
    return(c(-3, -6, -5, 3, 21, 46, 67, 74, 67, 46, 21, 3, -5, -6, -3) / 320)
  }
  terms <- as.numeric(sub("henderson ", "", name))
  p <- (terms - 1) / 2 + 2
  j2 <- seq(2 - p, p - 2)^2
  315 * ((p - 1)^2 - j2) * (p^2 - j2) * ((p + 1)^2 - j2) *
    (3 * p^2 - 16 - 11 * j2) /
    (8 * p * (p^2 - 1) * (4 * p^2 - 1) * (4 * p^2 - 9) * (4 * p^2 - 25))
}

weight_names <- c("spencer 15", paste("henderson", c(5, 7, 9, 13, 23)))

# The weights of add_moving().
check_weights <- function(weights, window, stat, present) {
  odd <- c(stat = if (stat != "mean") stat, present = if (present < 1) present)
  if (length(odd) > 0) {
    abort_backfill(
      "argument",
      "`weights` are for a mean of windows that are whole, but",
      "`{names(odd)[[1]]}` is {value_in_words(odd[[1]])}."
    )
  }
  if (is.character(weights)) {
    weights <- moving_weights(check_one_of(weights, weight_names, "weights"))
  }
  if (!are_numbers(weights) || length(weights) < 2 || sum(weights) <= 0) {
    abort_backfill(
      "argument", "`weights` is {value_in_words(weights)}.",
      i = "It must be two numbers or more whose sum is above zero, or one of",
      "{in_words(quoted(weight_names))}."
    )
  }
  if (!is.null(window) && !isTRUE(window == length(weights))) {
    abort_backfill(
      "argument",
      "`window` is {value_in_words(window)}, but there are {length(weights)}",
      "weights.",
      ">" = "Leave `window` out."
    )
  }
  as.numeric(weights)
}
