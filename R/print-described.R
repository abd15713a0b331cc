# What descriptions of series say, and their tables.

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
  ], facts(x)$several)
}

describe_one <- function(x, about) {
  name <- described_lines(x)
  if (x$n == 0) {
    return(sprintf("%s: no figures.", name))
  }
  figures <- figures_described(
    c(mean = x$mean, sd = x$sd, x$lowest, x$highest), about
  )
  at <- period_label(c(x$first, x$last, x$lowest_at, x$highest_at),
                     about$calendar)
  c(
    sprintf(
      paste(
        "%s: %s from %s to %s, %s on average%s, from %s (%s%s) to %s",
        "(%s%s)."
      ),
      name, count_of_periods(x$n, about$calendar), at[[1]], at[[2]],
      figures[[1]], if (is.na(x$sd)) "" else
        sprintf(" (standard deviation %s)", figures[[2]]),
      figures[[3]], at[[3]],
      first_of_several(x$lowest_times), figures[[4]], at[[4]],
      first_of_several(x$highest_times)
    ),
    describe_volatility(x, about), describe_apart(x, about),
    describe_normality(x)
  )
}

describe_volatility <- function(x, about) {
  if (is.null(about$volatility)) {
    return(NULL)
  }
  keys <- c(about$series, "measure")
  at <- vctrs::vec_match(plain_tibble(x)[keys], about$volatility[keys])
  a_year <- about$volatility$a_year[at]
  known <- which(!is.na(a_year))
  if (length(known) > 0) sprintf(
    "Volatility a year: %s.", in_words(sprintf(
      "%s %.1f%%", described_lines(x)[known], 100 * a_year[known]
    ), 8)
  )
}

first_of_several <- function(times) {
  if (times > 1) sprintf(", the first of %s", thousands(times)) else ""
}

# Of rates as many decimals as give their spread three digits; a spread itself
# has no sign. `x` has the names of its statistics.
figures_described <- function(x, about) {
  if (is.null(about$unit)) {
    return(trimws(format_figures(x)))
  }
  spread <- x[["sd"]] * if (about$unit == "return") 100 else 1
  decimals <- if (isTRUE(spread > 0)) {
    as.integer(min(6, max(1, 2 - floor(log10(spread)))))
  } else {
    1L
  }
  text <- trimws(format_cells(x, about$unit, decimals = decimals))
  spreads <- names(x) %in% c("sd", "iqr")
  text[spreads] <- sub("^[+]", "", text[spreads])
  text
}

# The figures that the box rule sets apart, and how many it would by chance.
describe_apart <- function(x, about, most = 4) {
  if (x$outliers == 0) {
    return("The box-plot rule finds no outlier.")
  }
  found <- plain_tibble(summary(x))
  keys <- c(about$series, "measure", about$by)
  found <- found[vctrs::vec_in(found[keys], plain_tibble(x)[keys]), ]
  said <- sprintf(
    "%s (%s)", period_label(found$period, about$calendar),
    in_unit(found$value, about)
  )
  glue(
    "The box-plot rule finds {count_of(nrow(found), 'outlier')}:",
    "{in_words(said, most)}. In {x$n} independent normal figures it would find",
    "about {plain_format(signif(x$n * box_rule_share(x$n), 1))} by chance."
  )
}

# The share of independent normal figures that the box rule sets apart:
# 0.7% of many, more of few (fitted to a simulation of 8 to 1,000 of them).
box_rule_share <- function(n) 0.00698 + 0.3 / n

describe_normality <- function(x) {
  dependent <- !is.na(x$autocorrelation) &&
    x$autocorrelation > stats::qnorm(0.975) / sqrt(x$n)
  memory <- sprintf(
    "neighbouring figures are autocorrelated (r = %.2f)", x$autocorrelation
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
  # A column may be of some measures alone.
  x <- x[x$n > 0, ]
  if (nrow(x) == 0) {
    return("No series has figures.")
  }
  average <- in_unit(range(x$mean), about)
  noun <- if (is.null(about$by)) c("series", "series") else c("group", "groups")
  c(
    glue(
      "{count_of(nrow(x), noun[[1]], noun[[2]])} described; their averages lie",
      "between {average[[1]]} and {average[[2]]}."
    ),
    describe_volatility(x, about),
    if (sum(x$outliers) > 0) {
      sprintf(
        "The box-plot rule finds %s; the summary lists them.",
        count_of(sum(x$outliers), "outlier")
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
  whole <- c(
    "n", "partial", "missing", "outliers", "lowest_times", "highest_times"
  )
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
  text[figures] <- figures_described(values, about)
  text["variance"] <- format_figures(one$variance)
  text[is.na(unlist(lapply(one, `[[`, 1)))] <- NA
  trimws(unname(text))
}

# Many are shown in rows, with what most are asked for.
#' @export
columns_left.backfill_series_summary <- function(x) {
  c(
    "first", "last", "variance", "lowest_at", "lowest_times", "highest_at",
    "highest_times", "iqr", "kurtosis", "normality_p"
  )
}

#' @export
column_units.backfill_series_summary <- function(x) {
  unit <- facts(x)$unit
  if (is.null(unit)) {
    return(NextMethod())
  }
  figures <- c(
    "mean", "lowest", "lower_quartile", "median", "upper_quartile",
    "highest", quantile_names(facts(x)$probs)
  )
  c(
    NextMethod(), stats::setNames(rep(unit, length(figures)), figures),
    sd = if (unit == "return") "share" else if (unit == "%") "% of" else unit
  )
}

#' @export
describe.backfill_outliers <- function(x, ...) {
  if (nrow(x) == 0) "The box-plot rule finds no outlier."
}
