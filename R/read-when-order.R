# Written dates: a text such as 3/4/2031 can be meant in several orders. Which one is found from the whole column, and
# where two fit every row and give different dates, that is an error, for no row can decide it.

# In the order of enum class DateOrder in src/kernels/written_date.h.
date_orders <- c(ymd = "year, month, day", dmy = "day, month, year", mdy = "month, day, year",
                 fiscal = "fiscal years that span two, such as 2030/31")
fiscal_order <- match("fiscal", names(date_orders))

# list(second, outcome, precision, has_offset, at, note): each distinct text is read once, and `at` says which of them
# each row has.
read_written <- function(x, rules, at, call) {
  text <- if (is.numeric(x)) ifelse(is.na(x), NA, sprintf("%.15g", x)) else as.character(x)
  distinct <- distinct_texts_cpp(text)
  parsed <- read_dates_cpp(distinct$text, rules$pivot_year, rules$year_start %||% 1L)
  weight <- tabulate(distinct$at, length(distinct$text))
  chosen <- rules$date_order
  order <- if (is.null(chosen)) find_order(parsed, weight, distinct, at, call) else match(chosen, names(date_orders))

  outcome <- parsed$outcome[, order]
  elsewhere <- outcome > 1L & rowSums(parsed$outcome == 0L) > 0
  outcome[elsewhere] <- match("written in another order than the other dates", outcome_reasons)
  read <- outcome == 0L
  if (is.null(rules$year_start) && any(read & (parsed$fiscal | order == fiscal_order))) {
    row <- match(which(read & (parsed$fiscal | order == fiscal_order))[[1]], distinct$at)
    abort_backfill("when", sprintf("Line %d: %s is a fiscal year, of which it is not said when it starts.",
                                   at(row)$line, quoted(text[[row]])),
                   ">" = "Give the month it starts in, such as `year_start` of 4 for April.", call = call)
  }
  list(second = parsed$second[, order], outcome = outcome, precision = parsed$precision[, order],
       has_offset = parsed$has_offset, at = distinct$at, note = order_note(parsed, read, weight, order, rules))
}

# The number of the order that fits most rows.
find_order <- function(parsed, weight, distinct, at, call) {
  fits <- parsed$outcome == 0L
  # A year in front fits whatever the others are, but speaks for one order only.
  speaks <- fits
  speaks[parsed$year_first, 2:3] <- FALSE
  count <- colSums(speaks * weight)
  best <- which(count == max(count))
  if (max(count) == 0 || length(best) == 1) {
    return(best[[1]])
  }
  first <- parsed$second[, best[[1]]]
  for (other in best[-1]) {
    differ <- which(speaks[, best[[1]]] & speaks[, other] & first != parsed$second[, other])
    # Of one or two years and months alone, 2010-11 is taken for the month of ISO 8601.
    if (length(differ) > 0 && !(other == fiscal_order && length(weight) < 3)) {
      stop_ambiguous(parsed$second[, c(best[[1]], other)], c(best[[1]], other), differ, distinct, at, call)
    }
  }
  best[[1]]
}

stop_ambiguous <- function(second, orders, differ, distinct, at, call) {
  texts <- utils::head(differ, 3)
  rows <- match(texts, distinct$at)
  shown <- function(k) period_label(.Date(floor(second[texts, k] / 86400)), "day")
  words <- date_orders[orders]
  abort_backfill(
    "date_order",
    sprintf("Two orders fit every row: the dates may be %s, or %s.", words[[1]], words[[2]]),
    rlang::set_names(
      sprintf("Line %d: %s is %s, or %s.", at(rows)$line, quoted(distinct$text[texts]),
              shown(1), shown(2)),
      "x"
    ),
    ">" = sprintf("Say which: `date_order` is %s.",
                  in_words(quoted(names(date_orders)[orders]), last = " or ")),
    call = call
  )
}

# Sentences on the way in which the dates were read; none for ISO 8601, which can be meant in one way only.
order_note <- function(parsed, read, weight, order, rules) {
  other <- read & !parsed$year_first
  known <- date_orders[[order]]
  alone <- rowSums(parsed$outcome[, setdiff(1:3, order), drop = FALSE] == 0L) == 0
  decided <- sum(weight[other & alone])
  same <- all(rowSums(abs(parsed$second[other, 1:3, drop = FALSE] - parsed$second[other, order]), na.rm = TRUE) == 0) &&
    !any(alone & other)
  c(
    if (any(other) && !same) {
      sprintf("Dates are read as %s%s.", known,
              if (!is.null(rules$date_order)) ", as declared" else
                sprintf(": %s no other order", count_of(decided, "row fits", "rows fit")))
    },
    if (any(read & parsed$two_digits[, order])) {
      sprintf("Years of two digits are those from %d to %d.", rules$pivot_year, rules$pivot_year + 99L)
    },
    if (any(read & parsed$fiscal) || order == fiscal_order) {
      sprintf("Fiscal years start in %s%s.", month.name[[rules$year_start]],
              if (rules$year_start > 1) " and are named by the year in which they end" else "")
    }
  )
}
