# What a result says in a sentence or two to a colleague, who knows none of our
# columns, arguments and labels of periods.
headline <- function(x) UseMethod("headline")

#' @export
headline.default <- function(x) describe(x)[1]

# The first sentence of these tells what they are.
second_sentence <- function(x) {
  said <- describe(x)
  said[min(2, length(said))]
}

#' @export
headline.backfill_correlations <- second_sentence

#' @export
headline.backfill_explained <- second_sentence

#' @export
headline.backfill_grid <- second_sentence

#' @export
headline.backfill_autocorrelation <- second_sentence

#' @export
headline.backfill_links <- function(x) {
  paste(stats::na.omit(describe(x)[2:3]), collapse = " ")
}

# The latest figures of what was added, else of the values themselves.
#' @export
headline.backfill_periods <- function(x) {
  added <- facts(x)$added
  added <- added[intersect(names(added), names(x))]
  for (name in names(added)) {
    latest <- latest_of_column(x, name, added[[name]])
    if (!is.null(latest)) {
      return(sprintf("%s: %s.", if (is.null(latest$at)) "Latest" else paste(
        preposition_of(facts(x)$calendar), latest$at
      ), latest$said))
    }
  }
  describe(x)[[1]]
}

preposition_of <- function(calendar) {
  if (by_clock(calendar)) {
    "At"
  } else if (calendar$unit %in% c("day", "working day")) {
    "On"
  } else {
    "In"
  }
}

#' @export
headline.backfill_flags <- function(x) {
  about <- facts(x)
  judged <- sum(x$judgement %in% c("flagged", "within"))
  of_judged <- sprintf(
    "of %s judged", count_of(judged, period_noun(about$calendar))
  )
  top <- flagged_rows(x)
  if (nrow(top) == 0) {
    return(sprintf("None %s departs from its past.", of_judged))
  }
  sprintf(
    "%s in %s: %s. %s %s flagged.",
    names_of_lines(top[1, c(about$series, "measure")], about$several),
    period_label(top$period[[1]], about$calendar),
    sub(", beyond .*", "", with_reasons(top[1, ])$reason),
    sentence_case(paste(thousands(nrow(top)), of_judged)),
    if (nrow(top) > 1) "are" else "is"
  )
}

# What comes next, as far as a sentence has room.
#' @export
headline.backfill_projection <- function(x) {
  about <- facts(x)
  ahead <- which(x$standing %in% "projected")
  if (length(ahead) == 0) {
    return(describe(x)[[1]])
  }
  keys <- keys_of(x)
  next_one <- ahead[!duplicated(vctrs::vec_slice(keys, ahead))]
  if (length(next_one) > 8) {
    return(sprintf(
      "%s of %s are projected.",
      count_of_periods(about$projected$steps, about$calendar),
      count_of(length(next_one), "series", "series")
    ))
  }
  at <- x[next_one, ]
  ends <- ifelse(
    is.na(at[["lower"]]), "", sprintf(
      " (%s to %s)", each_figure(at[["lower"]]), each_figure(at[["upper"]])
    )
  )
  sprintf(
    "%s %s, with the interval of %g%%: %s.", preposition_of(about$calendar),
    in_words(unique(period_label(at$period, about$calendar))),
    100 * about$projected$confidence,
    in_words(sprintf(
      "%s %s%s", names_of_lines(vctrs::vec_slice(keys, next_one),
                                about$several),
      each_figure(at$value), ends
    ))
  )
}

# Those that rise or fall, then those in which no trend was found.
#' @export
headline.backfill_trends <- function(x) {
  if (nrow(x) == 0 || nrow(x) > 8) {
    return(describe(x)[[1]])
  }
  name <- lines_of_result(x)
  found <- x[["p"]] < 0.05 & !is.na(x[["p"]])
  percent <- x[["percent_per_year"]]
  amount <- ifelse(
    is.na(percent), each_figure(abs(x[["slope_per_year"]])),
    sprintf("%.1f%% of its mean", abs(percent))
  )
  paste(c(
    if (any(found)) sprintf("%s.", in_words(sprintf(
      "%s %s by %s a year (%s)", name,
      ifelse(x[["slope"]] > 0, "rises", "falls"), amount, p_in_words(x[["p"]])
    )[found])),
    if (!all(found)) sprintf("No trend was found in %s.", in_words(
      name[!found], last = " or "
    ))
  ), collapse = " ")
}

# In how many series there is a season, and where it is strongest.
#' @export
headline.backfill_seasonal_index <- function(x) {
  season <- facts(x)
  tests <- if (nrow(x) > 0 && !is.null(season$tests)) summary(x)
  tests <- tests[!is.na(tests$highest), ]
  found <- tests[which(tests$positions_p < 0.05), ]
  if (NROW(found) == 0) {
    return(second_sentence(x))
  }
  top <- found[which.max(found$explained), ]
  noun <- if (season$cycle$noun == "position") "position " else ""
  sprintf(
    "%s: %s%s runs %s an average %s, %s%s %s.%s", lines_of_result(top), noun,
    top$highest_at, index_in_words(top$highest, season$form),
    period_noun(season$calendar), noun, top$lowest_at,
    index_in_words(top$lowest, season$form),
    if (nrow(tests) > 1) sprintf(
      " A season was found in %s.", share_of_series(nrow(found), nrow(tests))
    ) else ""
  )
}

# Names of measures without underlines, and labels of periods as people write
# them, unless a series is named like one.
plain_words <- function(said, x) {
  about <- facts(x)
  measures <- names(about$measures)
  for (name in measures[grepl("_", measures, fixed = TRUE)]) {
    said <- gsub(name, gsub("_", " ", name), said, fixed = TRUE)
  }
  dated <- "[0-9]{4}-(0[1-9]|1[0-2]|W|Q)"
  if (any(grepl(dated, unlist(lapply(as.list(x)[about$series], unique))))) {
    return(said)
  }
  labels_in_words(said)
}
