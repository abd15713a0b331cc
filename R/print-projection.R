# What trend lines and projections say.

# A trend by its p. What is not found may be there: it is told what else the
# slope may be, and that a season hides it.
#' @export
describe.backfill_trends <- function(x, ..., most = 8) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  yes <- !is.na(x[["p"]]) & x[["p"]] < 0.05
  seasonal <- still_seasonal(x)
  unsure <- yes & x[["p"]] > 1e-4
  wandering <- if (any(unsure)) {
    describe_wandering("trend_line", "a trend", x$n[unsure])
  }
  if (nrow(x) > most) {
    return(c(
      paste0(
        "Of ", count_of(nrow(x), "series", "series"), if (any(yes)) sprintf(
          ", %s and %s; in the others no trend was found.",
          count_of(sum(yes & x[["slope"]] > 0), "rises", "rise"),
          count_of(sum(yes & x[["slope"]] < 0), "falls", "fall")
        ) else " none was found to have a trend."
      ),
      chance_of_many(x[["p"]], yes, lines_of_result(x)), wandering,
      hidden_by_season(seasonal)
    ))
  }
  c(
    sprintf(
      "%s %s.", lines_of_result(x),
      ifelse(
        is.na(x[["slope"]]), "has too few figures for a line",
        ifelse(is_constant(x), "stays the same", paste0(
          ifelse(yes, told_trends(x), untold_trends(x)), ": ",
          trend_equations(x)
        ))
      )
    ),
    wandering, hidden_by_season(seasonal)
  )
}

# All figures of a series are one, and no line accounts for how they vary.
is_constant <- function(x) {
  x[["slope"]] %in% 0 & is.na(x[["r_squared"]])
}

told_trends <- function(x) {
  of_mean <- ifelse(
    is.na(x[["percent_per_year"]]), "",
    sprintf(", %.1f%% of its mean", abs(x[["percent_per_year"]]))
  )
  sprintf(
    "%s by %s a year%s (%s)", ifelse(x[["slope"]] > 0, "rises", "falls"),
    each_figure(abs(x[["slope_per_year"]])), of_mean, p_in_words(x[["p"]])
  )
}

# Why no trend is told: by the interval of its slope a year, where it has one.
untold_trends <- function(x) {
  a_year <- x[["slope_per_year"]] / x[["slope"]]
  reach <- sprintf(
    "; between %s and %s a year at %g%%",
    with_sign(each_figure(x[["lower"]] * a_year), x[["lower"]]),
    with_sign(each_figure(x[["upper"]] * a_year), x[["upper"]]),
    100 * facts(x)$confidence
  )
  sprintf(
    "shows no trend beyond chance (%s)",
    ifelse(
      is.na(x[["p"]]), "too few figures",
      paste0(p_in_words(x[["p"]]), ifelse(is.finite(a_year), reach, ""))
    )
  )
}

still_seasonal <- function(x) {
  seasonal <- facts(x)$seasonal
  if (NROW(seasonal) == 0) {
    return(rep(FALSE, nrow(x)))
  }
  vctrs::vec_in(plain_tibble(x)[names(seasonal)], seasonal)
}

hidden_by_season <- function(seasonal) {
  if (!any(seasonal)) {
    return(NULL)
  }
  sprintf(
    paste(
      "%s a season as well, beside which a trend is hard to tell: take it",
      "out first with deseasonalise()."
    ),
    if (length(seasonal) == 1) {
      "It has"
    } else if (all(seasonal)) {
      "All have"
    } else {
      paste(sum(seasonal), "of them", if (sum(seasonal) == 1) "has" else "have")
    }
  )
}

# Such as 612.3 + 5.48 a month since 2028-06, with its share of the variation.
trend_equations <- function(x) {
  calendar <- facts(x)$calendar
  sprintf(
    "%s %s %s a %s since %s, R\u00b2 %s",
    each_figure(x[["start"]]), ifelse(x[["slope"]] < 0, "-", "+"),
    each_figure(abs(x[["slope"]])), period_noun(calendar),
    period_label(x[["from"]], calendar),
    ifelse(is.na(x[["r_squared"]]), "unknown", sprintf(
      "%.3f", x[["r_squared"]]
    ))
  )
}

describe_projected <- function(x) {
  made <- facts(x)$projected
  if (is.null(made) || !any(x$standing == "projected")) {
    return(NULL)
  }
  without <- sum(x$standing == "projected" & is.na(x[["lower"]]))
  c(
    sprintf(
      "Projected: %s of each series, %s.",
      count_of_periods(made$steps, facts(x)$calendar),
      if (made$base == "auto") {
        "each by what would have missed least so far"
      } else {
        sprintf(
          "the %s without its season, carried on and %s its seasonal index",
          sub(
            "cycle$", sprintf("cycle (%s)", made$cycle$words),
            bases[[made$base]]
          ), if (made$form == "additive") "added to" else "multiplied by"
        )
      }
    ),
    if (made$base == "auto") describe_chosen(made), made$form_said,
    if (without > 0) sprintf(
      "%s no interval, for too few past errors so far ahead.",
      if (without == 1) {
        "1 projection has"
      } else {
        paste(without, "projections have")
      }
    ),
    if (length(made$moves) > 0) sprintf(
      paste(
        "The season of %s moves over the cycles%s: of simulated figures with",
        "such a season, up to %.0f%% lay outside an interval meant to hold",
        "95%%. With `combine` as \"moving mean\" its index moves, too."
      ),
      in_words(made$moves, 4), if (made$base %in% c("recent", "auto")) "" else
        ", and the projection does not carry that on",
      100 * rate_outside("level, season that moves", made$base)
    ),
    describe(summary(x))
  )
}

# By which base each line is carried on, and what all of them missed, as shares
# or in its unit.
describe_chosen <- function(made, most = 8) {
  check <- made$check
  called <- ifelse(check$base == "recent", "recent figures", check$base)
  if (nrow(check) > most) {
    count <- sort(table(called), decreasing = TRUE)
    return(sprintf("Of %d series %s.", nrow(check), in_words(sprintf(
      "%d %s %s", count, ifelse(
        count == 1, "is carried on by its", "are carried on by their"
      ), names(count)
    ))))
  }
  missed <- as.matrix(check[grep("^missed_", names(check))])
  figures <- if (made$form == "multiplicative") {
    sprintf("%.1f%%", 100 * missed)
  } else {
    each_figure(missed)
  }
  dim(figures) <- dim(missed)
  names <- sub("missed_", "", colnames(missed))
  told <- vapply(seq_len(nrow(check)), function(i) {
    own <- match(check$base[[i]], names)
    if (is.na(missed[i, own])) {
      return("; no past projection tells what that misses")
    }
    others <- setdiff(order(missed[i, ], na.last = NA), own)
    sprintf(
      ", which missed by %s in the past (%s)", figures[i, own],
      in_words(paste(names, figures[i, ])[others])
    )
  }, "")
  sprintf("%s is carried on by its %s%s.", names_of_lines(
    made$bases[setdiff(names(made$bases), "base")]
  ), called, told)
}

rate_outside <- function(world, base) {
  rates <- plain_tibble(verdict_rates("project"))
  of_base <- rates$verdict == paste("outside the interval,", base)
  max(rates$rate[rates$world == world & of_base])
}

#' @export
column_units.backfill_held_back <- function(x) {
  missed <- if (facts(x)$form == "multiplicative") {
    grep("^missed_", names(x), value = TRUE)
  }
  c(NextMethod(), stats::setNames(rep("share", length(missed)), missed))
}

#' @export
describe.backfill_held_back <- function(x, ..., most = 8) {
  season <- facts(x)
  tested <- x[!is.na(x[["mape"]]), ]
  other <- other_base(tested[["base"]] %||% season$base, season$form)
  if (nrow(tested) == 0) {
    return(
      paste(
        "How good that is cannot be checked: a check needs a third full",
        "cycle to hold back."
      )
    )
  }
  if (nrow(tested) > most) {
    middle <- function(column) {
      sprintf(
        "%.1f%%", quantiles_of(column[!is.na(column)], 0.5)
      )
    }
    return(sprintf(
      paste(
        "Held back, the last cycle is missed by %s in the middle of %s (%s",
        "with the cycle before, %s with a %s)."
      ),
      middle(tested[["mape"]]), count_of(nrow(tested), "series", "series"),
      middle(tested[["mape_last_cycle"]]), middle(tested[["mape_other"]]),
      paste(sort(unique(other), decreasing = TRUE), collapse = " or a ")
    ))
  }
  name <- lines_of_result(tested)
  worse <- ifelse(
    tested[["mape"]] > tested[["mape_last_cycle"]],
    ", more than by doing nothing", ""
  )
  sprintf(
    paste(
      "%s: held back, the last cycle is missed by %.1f%% on average%s (%.1f%%",
      "with the cycle before, %.1f%% with a %s)."
    ),
    name, tested[["mape"]], worse, tested[["mape_last_cycle"]],
    tested[["mape_other"]], other
  )
}

#' @export
columns_left.backfill_trends <- function(x) {
  c("start", "end", "slope_se", "n_effective", "slope_per_year")
}

# The interval of a slope has the decimals of the slope.
#' @export
table_cells.backfill_trends <- function(x, n = Inf) {
  cells <- NextMethod()
  shown <- first_rows_of(x, n)
  for (end in intersect(c("lower", "upper"), names(cells$text))) {
    cells$text[[end]] <- format_figures(
      shown[[end]], shown$measure, shown$slope
    )
  }
  cells
}
