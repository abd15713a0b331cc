#' @rdname flag_periods
#' @param object Flags, from `flag_periods()`.
#' @param type `"flags"` or `"episodes"`.
#' @param ... Not used.
#' @export
summary.backfill_flags <- function(object, type = "flags", ...) {
  check_one_of(type, c("flags", "episodes"), "type")
  about <- attr(object, "season")
  if (type == "episodes") {
    return(new_result(episodes(object), "episodes", about))
  }
  rows <- which(object$flag)
  size <- abs(if (any(c("sd", "mad", "quantile") %in% names(about$beyond))) object$score[rows] else
    object$percent[rows])
  size[is.na(size)] <- 0
  rows <- rows[order(-size, -abs(object$deviation[rows]))]
  out <- tibble::new_tibble(as.list(object), nrow = nrow(object))[rows, ]
  new_result(out[setdiff(names(out), c("flag", "status"))], "flagged", about)
}

# Runs of consecutive flagged periods on one side of the baseline; and of 8 or more periods on one side, whether flagged
# or not, which are shifts. A run within a shift is part of it.
episodes <- function(x, shift = 8) {
  about <- attr(x, "season")
  line <- lines_of_flags(x)
  number <- period_number(x$period, lay_calendar_over(about$calendar, x$period))
  order <- order(line, number)
  x <- tibble::new_tibble(as.list(x), nrow = nrow(x))[order, ]
  line <- line[order]
  number <- number[order]
  side <- sign(ifelse(is.na(x$flag), 0, x$deviation))
  runs_of <- function(here) {
    n <- length(here)
    new <- c(TRUE, here[-1] != here[-n] | line[-1] != line[-n] | number[-1] != number[-n] + 1)
    cumsum(new[seq_len(n)])
  }
  sides <- runs_of(side)
  long <- tabulate(sides)[sides] >= shift & side != 0
  flagged <- x$flag %in% TRUE
  kind <- ifelse(long, "shift", ifelse(flagged, "run", ""))
  run <- runs_of(ifelse(kind == "", 0, side * ifelse(long, 2, 1)))
  rows <- which(kind != "")
  first <- rows[!duplicated(run[rows])]
  last <- rows[!duplicated(run[rows], fromLast = TRUE)]
  furthest <- rows[order(run[rows], -abs(x$deviation[rows]))]
  furthest <- furthest[!duplicated(run[furthest])]
  tibble::tibble(
    tibble::new_tibble(as.list(x)[c(about$series, "measure")], nrow = nrow(x))[first, ], start = x$period[first],
    end = x$period[last], periods = as.integer(last - first + 1), kind = kind[first],
    direction = ifelse(side[first] > 0, "up", "down"),
    flagged = as.integer(rowsum(as.integer(flagged[rows]), run[rows])),
    size = as.vector(rowsum(x$deviation[rows], run[rows])), largest = x$deviation[furthest],
    largest_at = x$period[furthest]
  )
}

# How many flags series without departures would have had, if their deviations were normal with the robust spread that
# these have.
flags_by_chance <- function(x) {
  about <- attr(x, "season")
  judged <- which(!is.na(x$flag))
  line <- lines_of_flags(x)
  relative <- about$against == "season" && about$form == "multiplicative"
  scale <- if (relative) x$baseline[judged] else 1
  lines <- max(line, 0)
  line <- line[judged]
  middle <- cells_cpp(line, x$deviation[judged] / scale, lines, 0.5)$quantiles[1, line]
  off <- x$deviation[judged] / scale - middle
  spread <- 1.4826 * cells_cpp(line, abs(off), lines, 0.5)$quantiles[1, line]
  above <- stats::pnorm(((x$upper[judged] - x$baseline[judged]) / scale - middle) / spread, lower.tail = FALSE)
  below <- stats::pnorm(((x$lower[judged] - x$baseline[judged]) / scale - middle) / spread)
  sum(above + below, na.rm = TRUE)
}

# The number of each row's series. The rows may be some of those that were judged, in any order.
lines_of_flags <- function(x) {
  columns <- as.list(x)[c(attr(x, "season")$series, "measure")]
  as.integer(vctrs::vec_group_id(tibble::new_tibble(columns, nrow = nrow(x))))
}
