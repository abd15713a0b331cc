# What each kind of result says to a colleague, as sentences, see finding_of().
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
headline.backfill_explained <- function(x) {
  if (nrow(x) == 0) describe(x)[1] else explained_judgement(facts(x))[1:2]
}

#' @export
headline.backfill_grid <- second_sentence

#' @export
headline.backfill_cross_correlation <- second_sentence

#' @export
headline.backfill_autocorrelation <- function(x) {
  memory <- summary(x)
  if (nrow(memory) > 1) headline(memory) else second_sentence(x)
}

#' @export
headline.backfill_memory <- function(x) {
  if (nrow(x) == 0) {
    return(describe(x)[1])
  }
  counted_verdicts(x$verdict, structures_of_many)
}

# Of several series what is so of all of them, not of the first.
in_common <- function(x, series) {
  describe(x, most = if (series > 1) 0 else 1)[1]
}

#' @export
headline.backfill_season_tests <- function(x) {
  removed <- x[["removed"]][!is.na(x[["removed"]])]
  if (length(removed) < 2) {
    return(second_sentence(x))
  }
  glue(
    "Taking the season out removes",
    "{format_share(max(0, quantiles_of(removed, 0.5)))} of the variance in the",
    "middle of {count_of(nrow(x), 'series', 'series')}."
  )
}

#' @export
headline.backfill_shifts <- function(x) in_common(x, nrow(summary(x)))

#' @export
headline.backfill_group_differences <- headline.backfill_shifts

#' @export
headline.backfill_links <- function(x) {
  stats::na.omit(describe(x)[2:3])
}

# The lengths of each series, the strongest first.
#' @export
headline.backfill_cycles <- function(x) {
  line <- lines_of_result(x)
  if (nrow(x) == 0 || length(unique(line)) > 8) {
    return(describe(x)[1])
  }
  each <- split(x$cycle, factor(line, unique(line)))
  lengths <- vapply(each, function(cycle) {
    paste(
      in_words(first_few(cycle), last = " or "),
      period_noun(facts(x)$calendar, max(cycle)),
      if (length(cycle) > 3) glue("(the strongest of {length(cycle)})") else ""
    )
  }, "")
  sprintf("%s repeats after %s.", unique(line), trimws(lengths))
}

# Whose movement it is has its measure, by which a page calls it in words.
#' @export
headline.backfill_ranking <- function(x) {
  if (facts(x)$ranked != "series") attr(x, "backfill")$several <- TRUE
  describe(x)[1]
}

# The latest figures of what was added last, which is drawn, else what the table
# is.
#' @export
headline.backfill_periods <- function(x) {
  added <- facts(x)$added
  added <- added[intersect(names(added), names(x))]
  for (name in rev(names(added))) {
    rows <- latest_rows(x, name)
    if (length(rows) > 0 && added[[name]]$verb != "bands") {
      return(latest_by_measure(x, rows, name, added[[name]]))
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
  of_judged <- glue("of {count_of(judged, period_noun(about$calendar))} judged")
  top <- flagged_rows(x)
  if (nrow(top) == 0) {
    noun <- period_noun(about$calendar)
    return(switch(
      min(judged, 2) + 1, sprintf("No %s can be judged yet.", noun),
      sprintf("The one %s judged does not depart from its past.", noun),
      sprintf("None %s departs from its past.", of_judged)
    ))
  }
  c(flags_in_words(top[1, ], about), sprintf(
    "%s %s %s flagged%s.", thousands(nrow(top)), of_judged,
    if (nrow(top) > 1) "are" else "is", flagged_by_chance(x, judged)
  ))
}

# "In April 2031 Wherry stood at 917, which is 251 (21.5%) below ..." of each.
flags_in_words <- function(top, about) {
  of_baseline <- ifelse(
    is.na(top$percent), "", sprintf(" (%.1f%%)", abs(top$percent))
  )
  sprintf(
    "%s %s %s stood at %s, which is %s%s %s the %s to be expected from its past.",
    preposition_of(about$calendar), period_label(top$period, about$calendar),
    names_of_lines(top[c(about$series, "measure")], TRUE),
    each_figure(top$value), each_figure(abs(top$deviation)), of_baseline,
    ifelse(top$deviation > 0, "above", "below"), each_figure(top$baseline)
  )
}

# Where the rule tells, and the figures are such that it holds.
flagged_by_chance <- function(x, judged) {
  share <- designed_share(facts(x))$share
  if (is.na(share) || !is.null(describe_hanging(x, facts(x)))) {
    return("")
  }
  sprintf("; chance alone would flag about %s", plain_format(
    signif(judged * share, 2)
  ))
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
    return(glue(
      "{count_of_periods(about$projected$steps, about$calendar)} of",
      "{count_of(length(next_one), 'series', 'series')} are projected."
    ))
  }
  at <- x[next_one, ]
  ends <- ifelse(
    is.na(at[["lower"]]), "", sprintf(
      " (%s to %s)", each_figure(at[["lower"]]), each_figure(at[["upper"]])
    )
  )
  sprintf(
    "Projected for %s, with %g%% intervals: %s.",
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
  c(
    if (any(found)) sprintf("%s.", in_words(trends_in_words(x)[found])),
    if (!all(found)) sprintf("No trend was found in %s.", in_words(
      name[!found], last = " or "
    ))
  )
}

trends_in_words <- function(x) {
  percent <- x[["percent_per_year"]]
  amount <- ifelse(
    is.na(percent), each_figure(abs(x[["slope_per_year"]])),
    sprintf("%.1f%% of its mean", abs(percent))
  )
  sprintf(
    "%s %s by %s a year (%s)", lines_of_result(x),
    ifelse(x[["slope"]] > 0, "rose", "fell"), amount, p_in_words(x[["p"]])
  )
}

# In how many series there is a season, and where it is largest.
#' @export
headline.backfill_seasonal_index <- function(x) {
  season <- facts(x)
  tests <- if (nrow(x) > 0 && !is.null(season$tests)) summary(x)
  tests <- tests[!is.na(tests$highest), ]
  found <- tests[which(tests$season_p < 0.05), ]
  if (NROW(found) == 0) {
    return(second_sentence(x))
  }
  # Ratios compare from series to series; differences do not.
  top <- found[which.max(
    if (season$form == "multiplicative") {
      found$highest - found$lowest
    } else {
      found$explained
    }
  ), ]
  c(
    sprintf("%s.", seasons_in_words(top, season)),
    if (nrow(tests) > 1) sprintf(
      "A season was found in %s%s.",
      share_of_series(nrow(found), nrow(tests)),
      if (nrow(tests) > 8) sprintf(
        ", where chance alone would give it to about %s",
        plain_format(signif(0.05 * sum(!is.na(tests$season_p)), 2))
      ) else ""
    )
  )
}

# "Lantern: August runs 105% above an average month, January 70% below".
seasons_in_words <- function(tests, season) {
  noun <- if (season$cycle$noun == "position") "position " else ""
  sprintf(
    "%s: %s%s runs %s an average %s, %s%s %s", lines_of_result(tests), noun,
    tests$highest_at, index_in_words(tests$highest, season$form),
    period_noun(season$calendar), noun, tests$lowest_at,
    index_in_words(tests$lowest, season$form)
  )
}
