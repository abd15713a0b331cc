# What correlations say.

#' @export
describe.backfill_correlations <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  about <- facts(x)
  known <- which(!is.na(x$coefficient))
  c(
    correlations_head(x, about),
    if (length(known) > 0) correlations_ends(x, known, about),
    if (any(!is.na(x$p))) correlations_by_chance(x, about),
    correlations_withheld(x, about)
  )
}

correlations_head <- function(x, about) {
  what <- c(
    pearson = "Correlations", spearman = "Rank correlations (Spearman)",
    kendall = "Rank correlations (Kendall's tau)", covariance = "Covariances"
  )[[about$method]]
  of <- if (about$of == "value") "values" else gsub("_", " ", about$of)
  sprintf(
    "%s of %s%s, of %s%s.", what,
    count_of(length(about$lines), "series", "series"),
    paste0(c(
      "", if (!is.null(about$by)) sprintf(" within each %s", about$by),
      if (!is.null(about$words)) paste0(" ", about$words)
    ), collapse = ""),
    if (about$on == "changes") "changes from period to period of their " else
      "their ",
    of
  )
}

# The strongest, the weakest and the most negative pair.
correlations_ends <- function(x, known, about) {
  r <- x$coefficient[known]
  named <- function(at) {
    row <- known[at]
    glue(
      "{x$first[row]} and {x$second[row]}{pair_place(x, row, about)}",
      "({trimws(format_coefficient(x$coefficient[row], about))})"
    )
  }
  c(
    if (max(r) > 0) sprintf("Most alike: %s.", named(which.max(r))),
    if (min(r) < 0) sprintf("Most opposed: %s.", named(which.min(r))),
    if (length(r) > 2) {
      sprintf("Least related: %s.", named(which.min(abs(r))))
    }
  )
}

# " of Bryn in 2031": the group and the period of a pair.
pair_place <- function(x, row, about) {
  paste0(c(
    "", if (!is.null(x[["group"]])) paste(" of", x$group[row]),
    if (!is.null(x[["period"]])) {
      paste(" in", period_label(x$period[row], about$calendar))
    }
  ), collapse = "")
}

format_coefficient <- function(r, about) {
  if (about$method == "covariance") format_figures(r) else sprintf("%.2f", r)
}

correlations_by_chance <- function(x, about) {
  tested <- sum(!is.na(x$p))
  found <- sum(x$p < 1 - about$confidence, na.rm = TRUE)
  sprintf(
    paste(
      "Of %s, %s %s a %g%% interval that excludes zero; chance alone would",
      "give about %s."
    ),
    count_of(tested, "pair"), thousands(found),
    if (found == 1) "has" else "have", 100 * about$confidence,
    plain_format(signif(tested * (1 - about$confidence), 2))
  )
}

correlations_withheld <- function(x, about) {
  none <- lines_without_figures(about)
  of_none <- if (length(none) > 0) {
    x$first %in% none | x$second %in% none
  } else {
    FALSE
  }
  few <- sum(is.na(x$coefficient) & x$n < about$pairs & !of_none)
  still <- sum(is.na(x$coefficient) & !of_none) - few
  alike <- about$alike %||% 0
  c(
    if (alike > 0) glue(
      "{count_of(alike, 'pair gets', 'pairs get')} no interval and no p: both",
      "have a season, which alone makes them alike. Take it out first with",
      "deseasonalise()."
    ),
    if (length(none) > 0) sprintf(
      "%s no %s, and so no coefficient with any other.", if (length(none) > 1) {
        paste(in_words(none, 4), "have")
      } else {
        paste(none, "has")
      },
      if (about$on == "changes") {
        "change from one period to the next"
      } else {
        gsub("_", " ", about$of)
      }
    ),
    if (few > 0) sprintf(
      "%s no coefficient: fewer than %d periods in common.",
      count_of(few, "pair has", "pairs have"), about$pairs
    ),
    if (still > 0) sprintf(
      "%s no coefficient: one of the two does not move.",
      count_of(still, "pair has", "pairs have")
    ),
    if (isTRUE(about$left > 0)) sprintf(
      "%s left out, as the period before has no whole value.",
      count_of(
        about$left, "return over a longer span is",
        "returns over longer spans are"
      )
    )
  )
}

# Such as a flow, of which there is no return.
lines_without_figures <- function(about) {
  # Within groups a name is that of several lines, and links keep no figures.
  if (is.null(about$by) && !is.null(about$across)) {
    about$lines[colSums(!is.na(about$across$values)) == 0]
  }
}

#' @export
describe.backfill_aligned <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  about <- facts(x)
  days <- unique(x$on)
  counts <- table(factor(x$missing, c("", "not known yet", "too old")))
  c(
    sprintf(
      "%s%s as known on %s.",
      count_of(length(unique(x$series)), "series", "series"),
      if (is.null(about$growth)) "" else
        sprintf(", their growth over %s in percent,", about$growth),
      days_in_words(days)
    ),
    glue(
      "Of the {count_of(nrow(x), 'value')}, {thousands(counts[[1]])}",
      "{if (counts[[1]] == 1) 'is' else 'are'} given{aligned_missing(counts)}."
    ),
    if (length(about$assumed) > 0) sprintf(
      "Taken to be known as soon as their periods end: %s.",
      in_words(about$assumed, 4)
    )
  )
}

days_in_words <- function(days) {
  ends <- day_label(range(days))
  if (length(days) == 1) {
    return(ends[[1]])
  }
  glue("{count_of(length(days), 'day')} from {ends[[1]]} to {ends[[2]]}")
}

aligned_missing <- function(counts) {
  lacking <- counts[-1][counts[-1] > 0]
  if (length(lacking) == 0) {
    return("")
  }
  paste0("; ", in_words(sprintf(
    "%s %s %s", thousands(lacking), ifelse(lacking == 1, "is", "are"),
    names(lacking)
  )))
}

#' @export
describe.backfill_links <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  about <- facts(x)
  tested <- sum(!is.na(x$p))
  set <- sprintf(
    "%s set against %s, now and ahead",
    count_of(about$candidates, "candidate is", "candidates are"), about$target
  )
  c(
    if (tested == 0) paste0(set, ", but no pair can be judged.") else sprintf(
      "%s, in %s; of pure noise about %s would have p below 0.05.", set,
      count_of(tested, "pair"), plain_format(signif(0.05 * tested, 2))
    ),
    if (tested > 0) links_found(x, about),
    correlations_withheld(x, about)
  )
}

links_found <- function(x, about, most = 5) {
  named <- which(x$q < 0.1)
  if (length(named) == 0) {
    return(paste(
      "None stands out from what chance shows among so many: no pair has a",
      "share of false finds (q) below 10%."
    ))
  }
  shown <- first_few(named, most)
  c(
    sprintf(
      "%s out, of which up to 10%% may be false (q below 0.1)%s:",
      count_of(length(named), "pair stands", "pairs stand"),
      if (length(named) > most) sprintf("; the first %d", most) else ""
    ),
    sprintf(
      "%s, %s: %.2f (%s%s).", x$candidate[shown],
      lead_in_words(x$ahead[shown], about), x$coefficient[shown],
      p_in_words(x$p[shown]),
      unsteady_in_words(x[shown, ], about)
    )
  )
}

# Where a link does not hold.
unsteady_in_words <- function(x, about) {
  apart <- function(signs, words) ifelse(signs %in% TRUE, words, "")
  horizons <- x[["same_over_horizons"]]
  second <- x[["with_second"]]
  paste0(
    apart(!x$same_sign, "; of another sign in one half"),
    if (!is.null(horizons)) {
      apart(!horizons, "; of another sign over other horizons")
    },
    if (!is.null(second)) ifelse(
      is.na(second), "", sprintf("; %.2f with %s", second, about$second)
    )
  )
}

lead_in_words <- function(ahead, about) {
  vapply(ahead, function(one) {
    if (one == 0) {
      return(sprintf("together with %s", about$target))
    }
    sprintf("%s before %s", count_of_steps(one, about$calendar), about$target)
  }, "")
}

#' @export
columns_left.backfill_links <- function(x) {
  c(if (length(unique(x$horizon)) == 1) "horizon", "rank_first", "rank_later")
}
