#' Findings as a table
#'
#' What results say, a row for each finding, the weightiest first: for a program
#' that sends them on, or a text of your own.
#'
#' @param x A result, or the run of a study, from [run_study()] or
#'   [first_look()].
#' @return A tibble: `result` (its name in the run, or what it is), `subject`
#'   (the series), `period` (its label, `NA` where it is of no one period),
#'   `statement` (a sentence), `size` (the deviation of a flagged period, the
#'   growth, the rise of a trend a year, the shift, or how far the highest index
#'   lies above the lowest), `certainty` (in words) and `weight`:
#'   \eqn{-\log_{10} p}{-log10(p)}, at most 10, and 1 more where p is below 0.05
#'   in the latest period. Of a flagged period p is that of its score as a
#'   normal deviate, of growth that of the latest figure's distance from the
#'   mean of those before it, in their standard deviations, which ranks it and
#'   is no verdict; flags without a score weigh 3, what has no p less than 1.
#'   Other results have one row, what they say in short.
#' @section Errors: `backfill_error_input` where `x` is neither.
#' @examples
#' nights <- read_records(demo_file("inns.csv"),
#'   when = "month", series = "inn", measures = c(guest_nights = "flow")
#' )
#' monthly <- roll_up(nights, every = "month")
#' findings(flag_periods(monthly, "a cycle before"))
#' findings(seasonal_index(monthly))
#' @export
findings <- function(x) {
  check_given()
  if (!inherits(x, "backfill_table") || is_read(x)) {
    abort_backfill(
      "input", "`x` is {value_in_words(x)}, not a result.",
      ">" = "Give a result, such as flags, or the run of a study."
    )
  }
  results <- if (inherits(x, "backfill_study_run")) {
    Filter(function(one) {
      inherits(one, "backfill_table") && !is_read(one)
    }, facts(x)$results)
  } else {
    stats::setNames(list(x), facts(x)$what)
  }
  rows <- Map(function(one, name) {
    found <- findings_of(one)
    found$statement <- vapply(
      found$statement, plain_words, "", one, USE.NAMES = FALSE
    )
    found$period <- as.character(found$period)
    found$rank <- report_weight(one)
    new_rows(result = rep(name, nrow(found)), found)
  }, results, names(results))
  out <- vctrs::vec_rbind(!!!unname(rows))
  out <- out[order(-out$weight, -out$rank), ]
  new_result(out[names(out) != "rank"], "findings", list())
}

findings_of <- function(x) UseMethod("findings_of")

#' @export
findings_of.default <- function(x) {
  new_finding(
    NA_character_, NA, finding_of(x), NA_real_, weight = report_weight(x) / 10
  )
}

# Shapes a finding of each line: its p, or a weight where it has none.
new_finding <- function(
  subject, period, statement, size, p = NA_real_,
  certainty = ifelse(is.na(p), "", p_in_words(p)), latest = FALSE,
  weight = NULL
) {
  new_rows(
    subject = subject, period = period, statement = statement,
    size = as.double(size), certainty = certainty, weight = weight %||% (
      ifelse(
        is.na(p), 0.5, pmin(10, -log10(pmax(p, 1e-12))) + (latest & p < 0.05)
      )
    )
  )
}

times_the_spread <- function(off) {
  ifelse(is.na(off), "", sprintf("%.1f times the spread of the past", off))
}

labels_of <- function(x, period) period_label(period, facts(x)$calendar)

#' @export
findings_of.backfill_flags <- function(x) {
  about <- facts(x)
  top <- flagged_rows(x)
  if (nrow(top) == 0) {
    return(NextMethod())
  }
  by_score <- any(c("sd", "mad") %in% names(about$beyond))
  score <- abs(top$score)
  new_finding(
    lines_of_result(restore_facts(plain_tibble(top), x)),
    labels_of(x, top$period), flags_in_words(top, about), top$deviation,
    p = if (by_score) 2 * stats::pnorm(-score) else rep(NA_real_, nrow(top)),
    certainty = times_the_spread(if (by_score) score else NA),
    latest = top$period == max(x$period),
    weight = if (!by_score) rep(3, nrow(top))
  )
}

#' @export
findings_of.backfill_trends <- function(x) {
  found <- which(x[["p"]] < 0.05)
  if (length(found) == 0) {
    return(NextMethod())
  }
  new_finding(
    lines_of_result(x)[found], NA,
    paste0(trends_in_words(x)[found], "."), x[["slope_per_year"]][found],
    x[["p"]][found]
  )
}

#' @export
findings_of.backfill_shifts <- function(x) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  about <- facts(x)
  amount <- in_unit(abs(x$size), about, x$size)
  new_finding(
    lines_of_result(x), labels_of(x, x$period), sprintf(
      "%s %s the level of %s %s by %s (%s).", preposition_of(about$calendar),
      labels_of(x, x$period), names_of_lines(keys_of(x), TRUE),
      ifelse(x$size > 0, "rose", "fell"), amount, p_in_words(x[["p"]])
    ), x$size, x[["p"]]
  )
}

#' @export
findings_of.backfill_seasonal_index <- function(x) {
  season <- facts(x)
  tests <- if (!is.null(season$tests)) summary(x)
  found <- tests[which(tests$season_p < 0.05 & !is.na(tests$highest)), ]
  if (NROW(found) == 0) {
    return(NextMethod())
  }
  new_finding(
    lines_of_result(found), NA, paste0(seasons_in_words(found, season), "."),
    found$highest - found$lowest, found$season_p
  )
}

#' @export
findings_of.backfill_periods <- function(x) {
  added <- Filter(function(one) one$verb == "growth", facts(x)$added)
  name <- intersect(names(added), names(x))
  rows <- if (length(name) > 0) latest_rows(x, name[[1]])
  if (length(rows) == 0) {
    return(NextMethod())
  }
  figure <- x[[name[[1]]]]
  line <- vctrs::vec_group_id(keys_of(x))
  # No verdict: how it lies among those before it, which may hang together.
  off <- vapply(rows, function(row) {
    past <- figure[line == line[[row]] & x$period < x$period[[row]]]
    past <- past[is.finite(past)]
    if (length(past) < 5 || stats::sd(past) == 0) {
      return(NA_real_)
    }
    abs(figure[[row]] - mean(past)) / stats::sd(past)
  }, 0)
  note <- added[[name[[1]]]]
  period <- labels_of(x, x$period[rows])
  who <- names_of_lines(vctrs::vec_slice(keys_of(x), rows), TRUE)
  new_finding(
    line_names(x)[rows], period, if (is_past_growth(note)) sprintf(
      "%s %s %s.", who, grew_by(figure[rows]), span_in_words(note, period)
    ) else sprintf(
      "%s %s %s: %s %s.", preposition_of(facts(x)$calendar), period, who,
      sub(" of value\\b", "", note_in_words(note)),
      trimws(format_cells(figure[rows], note$unit, x$measure[rows]))
    ), figure[rows], 2 * stats::pnorm(-off),
    certainty = times_the_spread(off),
    latest = x$period[rows] == max(x$period[rows])
  )
}

#' @export
describe.backfill_findings <- function(x, ..., most = 7) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  said <- utils::head(x$statement, most)
  c(said, if (nrow(x) > most) {
    sprintf("%s more.", count_of(nrow(x) - most, "finding"))
  })
}

#' @export
columns_left.backfill_findings <- function(x) "statement"

# Sizes of unlike things, each to its own digits.
#' @export
table_cells.backfill_findings <- function(x, n = Inf) {
  cells <- NextMethod()
  cells$text$size <- ifelse(
    is.na(x$size), NA, each_figure(x$size)
  )[seq_along(cells$text$size)]
  cells
}
