# What flags, episodes and turning points say.

#' @export
describe.backfill_flags <- function(x, ..., most = 3, hint = TRUE) {
  about <- facts(x)
  counts <- table(x$judgement)
  others <- counts[setdiff(names(counts), c("flagged", "within"))]
  others <- others[others > 0]
  top <- flagged_rows(x)
  shown <- with_reasons(top[seq_len(min(most, nrow(top))), ])
  named <- names_of_lines(
    shown[c(about$series, "measure")], about$several
  )
  c(
    glue(
      "{sentence_case(subject_in_words(about, x))}, compared with",
      "{baseline_in_words(about)}; limits: {limits_in_words(about)}."
    ),
    describe_false_alarms(x, about, counts),
    describe_seasons_known(x, about),
    if (length(others) > 0) {
      sprintf(
        "Not judged: %s.",
        in_words(sprintf("%s (%s)", names(others), thousands(others)))
      )
    },
    less_in_words(about$less),
    if (nrow(top) > 0) {
      sprintf(
        "%s %s: %s.", named, period_label(shown$period, about$calendar),
        shown$reason
      )
    },
    if (nrow(top) > most && hint) {
      glue(
        "summary() lists all {nrow(top)}, or the episodes that they make; in a",
        "shell `--flagged` and `--episodes` do."
      )
    }
  )
}

# In how many series a season was known, and from when.
describe_seasons_known <- function(x, about) {
  if (about$against != baseline_if_known) {
    return(NULL)
  }
  line <- lines_of_flags(x)
  seasonal <- by_season(x, about)
  count <- length(unique(line))
  known <- length(unique(line[seasonal]))
  if (known == 0) {
    return(if (count > 0) sprintf(
      "No season was known in %s.",
      if (count == 1) "the series" else paste("any of the", count, "series")
    ))
  }
  sprintf(
    "A season was known in %s, from %s%s.", share_of_series(known, count),
    period_label(min(x$period[seasonal]), about$calendar),
    if (known > 1) " at the earliest" else ""
  )
}

share_of_series <- function(some, all) {
  if (some < all) {
    sprintf("%d of %d series", some, all)
  } else if (all < 3) {
    c("the series", "both series")[[all]]
  } else {
    sprintf("all %d series", all)
  }
}

# How many are flagged, and how many would be by chance.
describe_false_alarms <- function(x, about, counts) {
  judged <- counts[["flagged"]] + counts[["within"]]
  if (judged == 0) {
    return("No period can be judged.")
  }
  said <- glue(
    "Of {count_of(judged, 'period')} judged, {thousands(counts[['flagged']])}",
    "{if (counts[['flagged']] == 1) 'is' else 'are'} flagged"
  )
  design <- designed_share(about)
  if (is.na(design$share)) {
    return(glue(
      "{said}. How many chance alone would flag depends on how much the",
      "figures vary, which such limits do not know."
    ))
  }
  said <- sprintf(
    paste(
      "%s; of independent normal figures the rule would flag %s %s, that is",
      "%s periods here%s."
    ),
    said, design$bound, share_in_words(design$share),
    plain_format(signif(judged * design$share, 2), scientific = FALSE),
    if (isTRUE(design$tails > design$share)) {
      sprintf(", and of figures with long tails about %s", share_in_words(
        design$tails
      ))
    } else {
      ""
    }
  )
  warned <- describe_hanging(x, about)
  many <- counts[["flagged"]] > stats::qbinom(0.99, judged, design$share)
  c(said, warned, if (many && is.null(warned)) {
    paste(
      "Chance alone does not give that many: something happened, or the",
      "figures have long tails or spread unevenly, where chance gives up to",
      "ten times as many."
    )
  })
}

share_in_words <- function(share) {
  paste0(
    plain_format(signif(100 * share, 2), scientific = FALSE), "%"
  )
}

describe_hanging <- function(x, about, most = 3) {
  if (about$against == "year to date") {
    return(
      paste(
        "That does not hold here: totals of a year so far are autocorrelated",
        "from period to period."
      )
    )
  }
  found <- hanging_together(x)
  # A series is named once.
  unlike <- lapply(unlike_normal(x), function(keys) {
    keys[!vctrs::vec_in(keys, found[names(keys)]), ]
  })
  named <- function(keys, figures = NULL) {
    name <- names_of_lines(keys[c(about$series, "measure")], about$several)
    if (length(name) > most) {
      return(count_of(length(name), "series", "series"))
    }
    in_words(if (is.null(figures)) name else
      sprintf("%s (%.2f)", name, figures))
  }
  c(
    if (nrow(found) > 0) glue(
      "That does not hold for {named(found, found$coefficient)}, whose",
      "deviations are autocorrelated (at lag 1): how many chance would flag",
      "there is not known."
    ),
    if (nrow(unlike$aside) > 0) glue(
      "That does not hold for {named(unlike$aside)}, whose deviations lean to",
      "one side: the level moves away from its past, and more is flagged."
    ),
    if (nrow(unlike$wide) > 0) glue(
      "That does not hold for {named(unlike$wide)}, whose deviations spread",
      "unevenly or have long tails: there chance flags up to ten times as",
      "many."
    )
  )
}

#' @export
describe.backfill_flagged <- function(x, ...) {
  if (nrow(x) == 0) {
    return("Nothing is flagged.")
  }
  paste0(
    count_are(nrow(x), "period"), " flagged",
    if (nrow(x) > 1) ", the largest first", "."
  )
}

#' @export
describe.backfill_episodes <- function(x, ...) {
  if (nrow(x) == 0) {
    return("There are no episodes.")
  }
  runs <- sum(x$kind == "run")
  c(
    glue(
      "{count_of(nrow(x), 'episode')}: {count_of(runs, 'run')} of flagged",
      "periods, and {count_of(nrow(x) - runs, 'shift')} of 8 or more periods",
      "on one side of what was usual before."
    ),
    if (runs < nrow(x)) {
      paste(
        "By chance, such a shift begins about once in 250 independent",
        "periods, and more often where these hang",
        "together."
      )
    }
  )
}

#' @export
describe.backfill_turns <- function(x, ...) {
  about <- facts(x)
  sprintf(
    "%s and %s of %s: lowest and highest within %s on either side.",
    count_of(sum(x$turn == "low"), "low"),
    count_of(sum(x$turn == "high"), "high"), subject_in_words(about, x),
    about$span
  )
}

#' @export
describe.backfill_spells <- function(x, ...) {
  about <- facts(x)
  if (nrow(x) == 0) {
    return("There are no spells from a low to a high.")
  }
  sprintf(
    "%s from a low of %s to the next high, of %s%s.",
    count_of(nrow(x), "spell"), gsub("_", " ", about$of),
    if (min(x$periods) < max(x$periods)) {
      sprintf("%d to ", min(x$periods))
    } else {
      ""
    },
    count_of(max(x$periods), "period")
  )
}

#' @export
columns_left.backfill_flags <- function(x) c("n_prior", "direction", "flag")

# Those that are flagged first, then the others that are judged, the latest
# first.
rows_telling <- function(x, n) {
  judged <- match(x$judgement, c("flagged", "within"), nomatch = 3)
  utils::head(order(judged, -xtfrm(x$period)), n)
}

#' @export
columns_left.backfill_flagged <- function(x) {
  c("n_prior", "direction", "lower", "upper")
}

#' @export
table_cells.backfill_flags <- function(x, n = Inf) {
  rows <- if (n < nrow(x)) rows_telling(x, n) else seq_len(nrow(x))
  shown <- with_reasons(x[rows, ])
  kept <- setdiff(names(shown), columns_left(x))
  text_cells(with_labels(shown, x)[kept], column_units(x), shown$measure)
}
