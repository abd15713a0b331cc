# What flags, episodes and turning points say.

#' @export
describe.backfill_flags <- function(x, ..., most = 3, hint = TRUE) {
  about <- facts(x)
  counts <- table(x$judgement)
  others <- counts[setdiff(names(counts), c("flagged", "within"))]
  others <- others[others > 0]
  top <- flagged_rows(x)
  shown <- with_reasons(top[seq_len(min(most, nrow(top))), ])
  named <- names_of_lines(shown[c(about$series, "measure")])
  c(
    sprintf(
      "%s, against %s; limits: %s.", sentence_case(subject_in_words(about, x)),
      baseline_in_words(about), limits_in_words(about)
    ),
    describe_false_alarms(x, about, counts),
    if (length(others) > 0) {
      sprintf(
        "Not judged: %s.",
        in_words(sprintf("%s %s", thousands(others), names(others)))
      )
    },
    if (nrow(top) > 0) {
      sprintf(
        "%s %s: %s.", named, period_label(shown$period, about$calendar),
        shown$reason
      )
    },
    if (nrow(top) > most && hint) {
      sprintf(
        "summary() has all %d, or the episodes that they make.", nrow(top)
      )
    }
  )
}

# How many are flagged, and how many would be by chance.
describe_false_alarms <- function(x, about, counts) {
  judged <- counts[["flagged"]] + counts[["within"]]
  said <- sprintf(
    "Of %s judged, %s %s flagged", count_of(judged, "period"),
    thousands(counts[["flagged"]]),
    if (counts[["flagged"]] == 1) "is" else "are"
  )
  design <- designed_share(about)
  if (is.na(design$share)) {
    return(paste0(
      said,
      paste(
        ". How many would be by chance depends on how much the figures",
        "vary: such limits do not tell."
      )
    ))
  }
  said <- sprintf(
    paste(
      "%s; by its design the rule flags %s %s of independent normal",
      "figures, here %s."
    ),
    said, design$bound, share_in_words(design$share),
    plain_format(signif(judged * design$share, 2), scientific = FALSE)
  )
  c(said, if (judged > 0) describe_hanging(x, about))
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
        "That does not hold here: totals of a year so far hang together",
        "from period to period."
      )
    )
  }
  found <- hanging_together(x)
  if (nrow(found) == 0) {
    return(NULL)
  }
  name <- names_of_lines(found[c(about$series, "measure")])
  each <- sprintf("%s (%.2f)", name, found$coefficient)
  sprintf(
    paste(
      "That does not hold for %s, whose deviations hang together (lag-1",
      "autocorrelation): what chance would",
      "flag there is not known."
    ),
    if (length(each) > most) {
      count_of(length(each), "series", "series")
    } else {
      in_words(each)
    }
  )
}

baseline_in_words <- function(about) {
  middle <- c(
    mean = "mean", median = "median", smoothed = "smoothed level"
  )[[about$stat]]
  switch(
    about$against,
    "previous period" = "the period before",
    "a cycle before" = if (about$last == 1) sprintf(
      "the period one cycle (%s) before", about$cycle$words
    ) else
      sprintf(
        "the %s of the same position in the last %d cycles of %s", middle,
        about$last, about$cycle$words
      ),
    "last periods" = if (about$stat == "smoothed") sprintf(
      "a level smoothed with a half-life of %s",
      count_of_periods(about$last, about$calendar)
    ) else
      sprintf(
        "the %s of the last %s", middle,
        count_of_periods(about$last, about$calendar)
      ),
    "season" = sprintf(
      "what season (%s) and level were by then", about$cycle$words
    ),
    "year to date" = "the year before up to the same date", about$against
  )
}

limits_in_words <- function(about) {
  said <- c(
    percent = "%g%% of the baseline", amount = "%g",
    sd = paste("%g standard deviations of", if (is.null(about$spread_of)) {
      "past deviations"
    } else {
      sprintf(
        "the last %s", count_of_periods(about$spread_of, about$calendar)
      )
    }),
    mad = "%g robust standard deviations of past deviations",
    quantile = "what holds %g of past deviations"
  )
  each <- vapply(
    names(about$beyond),
    function(name) sprintf(said[[name]], about$beyond[[name]]), ""
  )
  paste0(in_words(each, last = if (about$beyond_all) " and " else " or "),
         if (about$floor > 0) {
           sprintf(", where the deviation is %g or more", about$floor)
         },
         switch(about$direction, up = ", upwards", down = ", downwards", ""),
         if (about$exclude_flagged) {
           "; what is flagged is kept out of later baselines"
         } else {
           ""
         })
}

#' @export
describe.backfill_flagged <- function(x, ...) {
  if (nrow(x) == 0) "Nothing is flagged." else
    sprintf("%s flagged, the largest first.", count_are(nrow(x), "period"))
}

#' @export
describe.backfill_episodes <- function(x, ...) {
  if (nrow(x) == 0) {
    return("There are no episodes.")
  }
  runs <- sum(x$kind == "run")
  c(
    sprintf(
      paste(
        "%s: %s of flagged periods, and %s of 8 or more periods on one side",
        "of what was usual before."
      ),
      count_of(nrow(x), "episode"), count_of(runs, "run"),
      count_of(nrow(x) - runs, "shift")
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
    count_of(sum(x$turn == "high"), "high"), gsub("_", " ", about$of),
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
columns_left.backfill_flags <- function(x) c("n_prior", "direction")

#' @export
columns_left.backfill_flagged <- function(x) {
  c("n_prior", "direction", "lower", "upper")
}

#' @export
table_cells.backfill_flags <- function(x, n = Inf) {
  shown <- with_reasons(x[seq_len(min(n, nrow(x))), ])
  kept <- setdiff(names(shown), columns_left(x))
  text_cells(with_labels(shown, x)[kept], column_units(x), shown$measure)
}
