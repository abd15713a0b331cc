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
headline.backfill_explained <- second_sentence

#' @export
headline.backfill_grid <- second_sentence

#' @export
headline.backfill_autocorrelation <- second_sentence

#' @export
headline.backfill_links <- function(x) {
  stats::na.omit(describe(x)[2:3])
}

# The latest figures of what was added, else what the table is.
#' @export
headline.backfill_periods <- function(x) {
  added <- facts(x)$added
  added <- added[intersect(names(added), names(x))]
  for (name in names(added)) {
    rows <- latest_rows(x, name)
    if (length(rows) > 0 && added[[name]]$verb != "bands") {
      return(latest_by_measure(x, rows, name, added[[name]]))
    }
  }
  describe(x)[[1]]
}

# Such as "Moving mean of kilos over 12 months in November 2031: Anchor 786,
# Hearth 3,654" of each measure.
latest_by_measure <- function(x, rows, name, note) {
  now <- x$period[rows] == max(x$period[rows])
  at <- rows[now]
  measure <- x$measure[at]
  said <- vapply(unname(split(at, factor(measure, unique(measure)))), function(
    own
  ) {
    called <- measures_in_words(x$measure[[own[[1]]]], facts(x))
    latest_in_words(own, x, name, note, called)
  }, "")
  earlier <- sum(!now)
  if (earlier > 0) {
    said[length(said)] <- sprintf(
      "%s (%s earlier)", said[length(said)],
      count_of(earlier, "series ends", "series end")
    )
  }
  paste0(said, ".")
}

latest_in_words <- function(rows, x, name, note, measure) {
  of <- if (note$of == "value") measure else note$of
  calendar <- facts(x)$calendar
  period <- period_label(max(x$period[rows]), calendar)
  if (is_past_growth(note)) {
    return(grown_in_words(rows, x, name, of, span_in_words(note, period)))
  }
  sprintf(
    "%s %s %s: %s", sentence_case(note_in_words(note, of)),
    tolower(preposition_of(calendar)), period,
    figures_in_words(rows, x, name, note)
  )
}

is_past_growth <- function(note) {
  note$verb == "growth" && note$as == "percent" && !note$target
}

# "over the year to November 2031"
span_in_words <- function(note, period) {
  sprintf("over the %s to %s", sub("^1 ", "", note$span), period)
}

# "Nights over the year to November 2031: Hearth grew by 7.3%, ...", those that
# grew most first; of many how many did, and the first and the last.
grown_in_words <- function(rows, x, name, of, span, most = 4) {
  rows <- rows[order(-x[[name]][rows])]
  did <- grew_by(x[[name]][rows])
  if (length(facts(x)$series) == 0) {
    return(sprintf("%s %s %s", sentence_case(of), did, span))
  }
  who <- names_of_lines(vctrs::vec_slice(keys_of(x), rows), FALSE)
  if (length(rows) > most) {
    return(sprintf(
      "%s %s: %s of %s series grew, %s", sentence_case(of), span,
      thousands(sum(x[[name]][rows] > 0)), thousands(length(rows)),
      figures_in_words(rows, x, name, list(unit = "%"))
    ))
  }
  said <- vapply(split(seq_along(did), sub(" .*", "", did)), function(own) {
    together_in_words(who[own], did[own])
  }, "")
  sprintf(
    "%s %s: %s", sentence_case(of), span,
    paste(stats::na.omit(said[c("grew", "did", "fell")]), collapse = "; ")
  )
}

# "Hearth grew by 7.3% and Wherry by 5.8%", "Hearth and Wherry did not change"
together_in_words <- function(who, did) {
  if (grepl("^did", did[[1]])) {
    return(paste(in_words(who), did[[1]]))
  }
  in_words(paste(who, c(did[[1]], sub("^[a-z]+ ", "", did[-1]))))
}

# "grew by 7.3%" of a growth in percent.
grew_by <- function(percent) {
  amount <- sub("^[+-]", "", trimws(format_cells(abs(percent), "%")))
  ifelse(
    grepl("[1-9]", amount),
    paste(ifelse(percent > 0, "grew", "fell"), "by", amount), "did not change"
  )
}

# Of each series where they are few, else from the lowest to the highest.
figures_in_words <- function(rows, x, name, note, most = 4) {
  figure <- trimws(format_cells(x[[name]][rows], note$unit, x$measure[rows]))
  if (length(facts(x)$series) == 0) {
    return(in_words(figure))
  }
  who <- names_of_lines(vctrs::vec_slice(keys_of(x), rows), FALSE)
  if (length(rows) > 1 && length(unique(figure)) == 1) {
    return(sprintf("%s in all %d", figure[[1]], length(rows)))
  }
  if (length(rows) > most) {
    ends <- c(which.min(x[[name]][rows]), which.max(x[[name]][rows]))
    return(paste0(
      c("from ", " to "), sprintf("%s (%s)", figure, who)[ends], collapse = ""
    ))
  }
  in_words(paste(who, figure))
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
    ifelse(x[["slope"]] > 0, "rises", "falls"), amount, p_in_words(x[["p"]])
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
