# What descriptions, latest figures, differences of groups and shifts say, and
# their tables.

#' @export
describe.backfill_series_summary <- function(x, ..., most = 4) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  about <- facts(x)
  c(
    if (nrow(x) <= most) {
      unlist(lapply(seq_len(nrow(x)), function(i) {
        describe_one(x[i, ], about)
      }))
    } else {
      describe_many(x, about)
    },
    describe_ungrouped(about),
    if (sum(x$partial) > 0) {
      sprintf(
        "Left out: %s, counted apart.",
        count_of_partial(sum(x$partial), about$calendar)
      )
    }
  )
}

count_of_partial <- function(count, calendar) {
  count_of(
    count, paste("partial", period_noun(calendar)),
    paste("partial", period_noun(calendar, 2))
  )
}

# A figure of the column that is described, as text.
in_unit <- function(x, about, alike = x) {
  if (is.null(about$unit)) {
    return(trimws(format_figures(c(x, alike))[seq_along(x)]))
  }
  trimws(format_cells(x, about$unit))
}

described_lines <- function(x) {
  names_of_lines(plain_tibble(x)[
    c(facts(x)$series, facts(x)$by, "measure")
  ])
}

describe_one <- function(x, about) {
  name <- described_lines(x)
  if (x$n == 0) {
    return(sprintf("%s: no figures.", name))
  }
  figures <- in_unit(c(x$mean, x$sd, x$lowest, x$highest), about)
  at <- period_label(c(x$first, x$last, x$lowest_at, x$highest_at),
                     about$calendar)
  c(
    sprintf(
      paste(
        "%s: %s from %s to %s, %s on average (standard deviation %s), from %s",
        "(%s) to %s (%s)."
      ),
      name, count_of_periods(x$n, about$calendar), at[[1]], at[[2]],
      figures[[1]], figures[[2]], figures[[3]], at[[3]], figures[[4]], at[[4]]
    ),
    describe_apart(x, about), describe_normality(x)
  )
}

# The figures that the box rule sets apart, and how many it would by chance.
describe_apart <- function(x, about, most = 4) {
  if (x$outliers == 0) {
    return("The box rule sets no figure apart.")
  }
  found <- plain_tibble(summary(x))
  keys <- c(about$series, "measure", about$by)
  found <- found[vctrs::vec_in(found[keys], plain_tibble(x)[keys]), ]
  said <- sprintf(
    "%s (%s)", period_label(found$period, about$calendar),
    in_unit(found$value, about)
  )
  sprintf(
    paste(
      "The box rule sets %s apart: %s. Of %d independent normal figures it",
      "sets about %s apart by chance."
    ),
    count_of(nrow(found), "figure"), in_words(said, most), x$n,
    plain_format(signif(x$n * box_rule_share(x$n), 1))
  )
}

# The share of independent normal figures that the box rule sets apart:
# 0.7% of many, more of few (fitted to a simulation of 5 to 1,000 of them).
box_rule_share <- function(n) 0.00698 + 0.26 / n

describe_normality <- function(x) {
  dependent <- !is.na(x$autocorrelation) &&
    x$autocorrelation > stats::qnorm(0.975) / sqrt(x$n)
  memory <- sprintf(
    "neighbours go together (autocorrelation %.2f)", x$autocorrelation
  )
  if (is.na(x$normality_p) || x$normality_p >= 0.05) {
    return(if (dependent) paste0(sentence_case(memory), "."))
  }
  sprintf(
    "Its shape is not that of a normal distribution (%s, %s)%s.",
    p_in_words(x$normality_p), count_of(x$n, "figure"),
    if (dependent) {
      sprintf("; but %s, which the test does not allow for", memory)
    } else {
      ""
    }
  )
}

describe_many <- function(x, about) {
  average <- in_unit(range(x$mean, na.rm = TRUE), about)
  c(
    sprintf(
      "%s described; their averages lie between %s and %s.",
      count_of(
        nrow(x), if (is.null(about$by)) "series" else "group",
        if (is.null(about$by)) "series" else "groups"
      ),
      average[[1]], average[[2]]
    ),
    if (sum(x$outliers) > 0) {
      sprintf(
        "The box rule sets %s apart; the summary lists them.",
        count_of(sum(x$outliers), "figure")
      )
    }
  )
}

describe_ungrouped <- function(about) {
  if (isTRUE(about$ungrouped > 0)) {
    sprintf(
      "%s of no group, as \"%s\" is missing there.",
      count_of(about$ungrouped, "figure is", "figures are"), about$by
    )
  }
}

# Few are shown side by side, a row for each statistic.
#' @export
table_cells.backfill_series_summary <- function(x, n = Inf, most = 5) {
  if (nrow(x) > most) {
    return(NextMethod())
  }
  about <- facts(x)
  shown <- with_labels(plain_tibble(x), x)
  shown <- shown[setdiff(names(shown), c(about$series, "measure", about$by))]
  text <- lapply(seq_len(nrow(x)), function(i) {
    described_cells(shown[i, ], about)
  })
  new_cells(
    stats::setNames(
      c(list(gsub("_", " ", names(shown))), text), c("", described_lines(x))
    ),
    c(FALSE, rep(TRUE, nrow(x)))
  )
}

described_cells <- function(one, about) {
  whole <- c("n", "partial", "missing", "outliers")
  shape <- c("skewness", "kurtosis", "autocorrelation")
  others <- c(whole, shape, "normality_p", "first", "last", "lowest_at",
              "highest_at", "variance")
  figures <- setdiff(names(one), others)
  text <- vapply(one, as.character, "")
  text[whole] <- vapply(one[whole], thousands, "")
  text[shape] <- plain_formatC(
    unlist(one[shape]), digits = 2, format = "f"
  )
  text["normality_p"] <- format_cells(one$normality_p, "p")
  values <- unlist(one[figures])
  text[figures] <- if (is.null(about$unit)) {
    format_figures(values)
  } else {
    format_cells(values, about$unit)
  }
  text["variance"] <- format_figures(one$variance)
  text[is.na(unlist(lapply(one, `[[`, 1)))] <- NA
  trimws(unname(text))
}

# Many are shown in rows, with what most are asked for.
#' @export
columns_left.backfill_series_summary <- function(x) {
  c(
    "first", "last", "variance", "lowest_at", "highest_at", "iqr", "kurtosis",
    "normality_p"
  )
}

#' @export
column_units.backfill_series_summary <- function(x) {
  unit <- facts(x)$unit
  if (is.null(unit)) {
    return(NextMethod())
  }
  figures <- c(
    "mean", "sd", "lowest", "lower_quartile", "median", "upper_quartile",
    "highest", quantile_names(facts(x)$probs)
  )
  c(NextMethod(), stats::setNames(rep(unit, length(figures)), figures))
}

#' @export
describe.backfill_outliers <- function(x, ...) {
  if (nrow(x) == 0) "The box rule sets no figure apart."
}

#' @export
describe.backfill_latest <- function(x, ..., most = 6) {
  about <- facts(x)
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  over <- period_label(
    period_start(
      about$over, lay_calendar_over(about$calendar, x$period)
    ), about$calendar
  )
  old <- x[x$age > 0, ]
  c(
    if (nrow(x) <= most) {
      vapply(seq_len(nrow(x)), function(i) {
        describe_latest_of(plain_tibble(x)[i, ], x, about)
      }, "")
    } else {
      sprintf(
        "The latest whole values of %s, as of %s.",
        count_of(nrow(x), "series", "series"), over
      )
    },
    if (nrow(old) > 0) {
      sprintf(
        "%s no whole value in %s: %s.",
        count_of(nrow(old), "series has", "series have"), over,
        in_words(lines_of_result(old))
      )
    },
    if (about$lacking > 0) {
      sprintf(
        "%s no whole value at all by then.",
        count_of(about$lacking, "series has", "series have")
      )
    }
  )
}

describe_latest_of <- function(one, x, about) {
  one <- restore_facts(one, x)
  calendar <- lay_calendar_over(about$calendar, one$period)
  number <- period_number(one$period, calendar)
  moved <- function(change, percent, before) {
    if (is.na(change)) {
      return(NULL)
    }
    by <- if (is.na(percent)) {
      sprintf("%s%s", if (change > 0) "+" else "",
              trimws(format_change(change, about$unit)))
    } else {
      format_cells(percent, "%")
    }
    sprintf("%s on %s", by, before)
  }
  label <- function(number) {
    period_label(period_start(number, calendar), calendar)
  }
  changes <- c(
    moved(one$change, one$percent, label(number - 1)),
    if (about$yearly) moved(
      one$year_change, one$year_percent, "a year before"
    )
  )
  sprintf(
    "%s: %s in %s%s%s.", lines_of_result(one), in_unit(one$value, about),
    period_label(one$period, calendar),
    if (one$standing == "complete") "" else sprintf(" (%s)", one$standing),
    if (length(changes) > 0) paste(",", in_words(changes)) else ""
  )
}

#' @export
columns_left.backfill_latest <- function(x) {
  c("before", "year_before", if (!facts(x)$yearly) {
    c("year_change", "year_percent")
  })
}

#' @export
column_units.backfill_latest <- function(x) {
  unit <- facts(x)$unit
  c(
    percent = "%", year_percent = "%",
    if (!is.null(unit)) c(value = unit, change = unit, year_change = unit)
  )
}

#' @export
describe.backfill_group_differences <- function(x, ..., most = 6) {
  about <- facts(x)
  whole <- summary(x)
  said <- if (nrow(whole) <= most) {
    vapply(seq_len(nrow(whole)), function(i) {
      describe_groups_of(whole[i, ], x, about)
    }, "")
  } else {
    counts <- table(whole$verdict)
    sprintf(
      "Of %s %s.", count_of(nrow(whole), "series", "series"),
      in_words(sprintf("%d: %s", counts, names(counts)))
    )
  }
  blocks <- range(whole$block)
  c(
    said,
    sprintf(
      "Chance by %s random orders of whole blocks of %s.",
      thousands(about$draws),
      if (blocks[[1]] == blocks[[2]]) {
        count_of_periods(blocks[[1]], about$calendar)
      } else {
        sprintf("%d to %s", blocks[[1]],
                count_of_periods(blocks[[2]], about$calendar))
      }
    ),
    describe_ungrouped(about)
  )
}

describe_groups_of <- function(whole, x, about) {
  name <- lines_of_result(whole)
  if (is.na(whole$p)) {
    return(sprintf("%s: nothing to compare (%s).", name, whole$verdict))
  }
  keys <- c(about$series, "measure")
  groups <- plain_tibble(x)[
    vctrs::vec_in(plain_tibble(x)[keys], plain_tibble(whole)[keys]),
  ]
  middle <- groups[[about$stat]]
  figure <- function(value) in_unit(value, about, middle)
  far <- if (nrow(groups) == 2) 1L else which.max(abs(groups$difference))
  one <- groups[far, ]
  label <- as.character(groups[[about$by]])
  head <- if (nrow(groups) == 2) {
    sprintf(
      "the %s is %s of \"%s\" and %s of \"%s\"", about$stat,
      figure(middle[[1]]), label[[1]], figure(middle[[2]]), label[[2]]
    )
  } else {
    sprintf(
      "of %d groups \"%s\" lies furthest from the others", nrow(groups),
      label[[far]]
    )
  }
  # The ends of the interval by their size.
  ends <- sort(c(one$lower, one$upper) * sign(one$difference))
  sprintf(
    "%s: %s, %s %s (%g%% interval %s to %s). %s.", name, head,
    figure(abs(one$difference)),
    if (one$difference < 0) "lower" else "higher", 100 * about$confidence,
    figure(ends[[1]]), figure(ends[[2]]), judged_groups(whole)
  )
}

judged_groups <- function(whole) {
  share <- sprintf(
    "The groups explain %s of the variation", format_share(whole$explained)
  )
  chance <- p_in_words(whole$p)
  switch(
    whole$verdict,
    differ = sprintf("%s, more than chance (%s)", share, chance),
    "too short to tell" = sprintf(
      "%s; %d blocks are too few to tell whether by chance (%s)", share,
      whole$blocks, chance
    ),
    sprintf("%s, no more than chance might (%s)", share, chance)
  )
}

#' @export
column_units.backfill_group_differences <- function(x) {
  unit <- facts(x)$unit
  figures <- c("mean", "median", "difference", "lower", "upper")
  c(
    p = "p",
    if (!is.null(unit)) stats::setNames(rep(unit, length(figures)), figures)
  )
}

#' @export
describe.backfill_shifts <- function(x, ..., most = 6) {
  about <- facts(x)
  whole <- summary(x)
  c(
    if (nrow(whole) <= most) {
      unlist(lapply(seq_len(nrow(whole)), function(i) {
        describe_shifts_of(whole[i, ], x, about)
      }))
    } else {
      counts <- table(whole$verdict)
      sprintf(
        "Of %s %s.", count_of(nrow(whole), "series", "series"),
        in_words(sprintf("%d: %s", counts, names(counts)))
      )
    },
    describe_allowed(about)
  )
}

# What stands beside the shifts in the fit.
describe_allowed <- function(about) {
  season <- if (any(about$seasonal)) {
    sprintf(
      "a season of %s%s", about$cycle$words,
      if (all(about$seasonal)) "" else " (where a series has three of them)"
    )
  }
  allowed <- c(season, if (about$line) "a straight line")
  if (length(allowed) > 0) {
    sprintf("Allowed for: %s.", in_words(allowed))
  } else {
    "No season and no straight line is allowed for."
  }
}

describe_shifts_of <- function(whole, x, about) {
  name <- lines_of_result(whole)
  if (whole$verdict != "shifts") {
    return(sprintf("%s: %s.", name, switch(
      whole$verdict,
      "within chance" = sprintf(
        "no shift of the level beyond chance (%s)", p_in_words(whole$p)
      ),
      "a slope instead" = paste(
        "a straight line describes it as well as shifts do, so that it has a",
        "slope, not a step"
      ),
      constant = "one value throughout",
      sprintf(
        "too short to tell, with %s",
        count_of_periods(whole$n, about$calendar)
      )
    )))
  }
  keys <- c(about$series, "measure")
  these <- plain_tibble(x)[
    vctrs::vec_in(plain_tibble(x)[keys], plain_tibble(whole)[keys]),
  ]
  c(
    vapply(seq_len(nrow(these)), function(i) {
      describe_shift(these[i, ], name, about)
    }, ""),
    sprintf(
      "%s %s of the variation%s.",
      if (nrow(these) == 1) "It explains" else "Together they explain",
      format_share(whole$explained),
      if (whole$autocorrelation > 0.2) {
        sprintf(
          paste(
            "; what is left goes together (autocorrelation %.2f), which p",
            "allows for"
          ),
          whole$autocorrelation
        )
      } else {
        ""
      }
    )
  )
}

describe_shift <- function(one, name, about) {
  level <- in_unit(c(one$before, one$after, one$size), about)
  ends <- sort(abs(c(one$lower, one$upper)))
  if (one$lower * one$upper < 0) ends <- c(-ends[[1]], ends[[2]])
  interval <- in_unit(ends, about, one$size)
  at <- period_label(c(one$period, one$from, one$to), about$calendar)
  sprintf(
    paste(
      "%s: the level %s by %s (%g%% interval %s to %s), from %s to %s, in %s",
      "(%s), %s; %s."
    ),
    name, if (one$size > 0) "rose" else "fell",
    sub("^-", "", level[[3]]), 100 * about$confidence, interval[[1]],
    interval[[2]], level[[1]], level[[2]], at[[1]],
    if (at[[2]] == at[[3]]) "sure of the period" else
      sprintf("%s to %s", at[[2]], at[[3]]),
    if (one$taken <= 1) "at once" else
      sprintf("over about %s", count_of_periods(one$taken, about$calendar)),
    p_in_words(one$p)
  )
}

#' @export
column_units.backfill_shifts <- function(x) {
  unit <- facts(x)$unit
  figures <- c("before", "after", "size", "lower", "upper")
  c(
    p = "p", percent = "%",
    if (!is.null(unit)) stats::setNames(rep(unit, length(figures)), figures)
  )
}

#' @export
describe.backfill_identity <- function(x, ..., most = 4) {
  about <- facts(x)
  judged <- x[!is.na(x$held), ]
  broken <- summary(x)
  left <- table(x$reason[is.na(x$held)])
  c(
    sprintf(
      "%s%s holds in %s of %s.", about$identity,
      if (about$tolerance > 0) {
        sprintf(", give or take %s,", plain_format(about$tolerance))
      } else {
        ""
      },
      thousands(sum(judged$held)),
      count_of_periods(nrow(judged), about$calendar)
    ),
    if (nrow(broken) > 0) describe_broken(broken, about, most),
    if (length(left) > 0) {
      sprintf(
        "Not judged: %s.",
        in_words(sprintf("%s, as %s", thousands(left), names(left)), most)
      )
    }
  )
}

describe_broken <- function(broken, about, most) {
  whose <- names_of_lines(plain_tibble(broken)[about$series])
  label <- period_label(broken$period, about$calendar)
  by <- format_figures(broken$difference)
  said <- sprintf(
    "%s%s by %s%s", if (length(whose) > 0) paste0(whose, " ") else "", label,
    ifelse(broken$difference > 0, "+", ""), trimws(by)
  )
  sprintf("It is broken in %s.", in_words(said, most))
}

#' @export
describe.backfill_broken <- function(x, ...) {
  if (nrow(x) == 0) {
    sprintf("%s holds wherever it is judged.", facts(x)$identity)
  }
}
