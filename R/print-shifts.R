# What level shifts say.

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
      c(
        counted_verdicts(whole$verdict, c(
          shifts = "have a shift of level",
          "within chance" = "show no shift of level beyond chance",
          "a slope instead" = "have a slope instead of a shift",
          "too short to tell" = "are too short to tell",
          constant = "are constant"
        )),
        chance_of_many(
          whole$p, whole$verdict == "shifts", lines_of_result(whole),
          1 - about$confidence
        )
      )
    },
    describe_allowed(about),
    if (any(whole$verdict == "shifts")) {
      describe_wandering(
        "level_shifts", "a shift", whole$n[whole$verdict == "shifts"]
      )
    }
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
        "no shift of the level was found (%s)", p_in_words(whole$p)
      ),
      "a slope instead" = paste(
        "a straight line describes it as well as shifts do, so that it has a",
        "slope, not a step"
      ),
      constant = "one value throughout",
      glue(
        "too short to tell, with {count_of_periods(whole$n, about$calendar)}"
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
            "; the residuals are autocorrelated (r = %.2f), which p",
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
  sure <- period_label(c(one$from, one$to), about$calendar)
  sprintf(
    paste(
      "%s: the level %s by %s (%g%% interval %s to %s), from %s to %s, %s",
      "(%s), %s; %s."
    ),
    name, if (one$size > 0) "rose" else "fell",
    sub("^-", "", level[[3]]), 100 * about$confidence, interval[[1]],
    interval[[2]], level[[1]], level[[2]],
    in_period(one$period, about$calendar),
    if (sure[[1]] == sure[[2]]) "sure of the period" else
      sprintf("%s to %s", sure[[1]], sure[[2]]),
    if (is.na(one$taken)) {
      "at once or, as a straight line fits nearly as well, bit by bit"
    } else if (one$taken <= 1) {
      "at once"
    } else {
      sprintf("over about %s", count_of_periods(one$taken, about$calendar))
    },
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
