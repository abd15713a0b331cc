# What differences between groups say.

#' @export
describe.backfill_group_differences <- function(x, ..., most = 6) {
  about <- facts(x)
  whole <- summary(x)
  said <- if (nrow(whole) <= most) {
    vapply(seq_len(nrow(whole)), function(i) {
      describe_groups_of(whole[i, ], x, about)
    }, "")
  } else {
    counted_verdicts(whole$verdict, c(
      differ = "differ by more than chance",
      "within chance" = "differ no more than chance might have it",
      "too short to tell" = "are too short to tell",
      "one group only" = "have one group only", constant = "are constant",
      "not told from the season" = paste(
        "have groups that each hold whole positions of the season, from which",
        "they cannot be told"
      )
    ))
  }
  chance <- if (nrow(whole) > most) chance_of_many(
    whole$p, whole$verdict == "differ", lines_of_result(whole),
    1 - about$confidence
  )
  blocks <- range(whole$block)
  c(
    said,
    chance,
    sprintf(
      "Chance by %s random orders of whole blocks of %s.",
      thousands(about$draws),
      if (blocks[[1]] == blocks[[2]]) {
        count_of_periods(blocks[[1]], about$calendar)
      } else {
        glue("{blocks[[1]]} to {count_of_periods(blocks[[2]], about$calendar)}")
      }
    ),
    if (length(about$season$words) > 0) sprintf(
      "A season of %s is taken out first where a series has one.",
      about$season$words
    ),
    describe_ungrouped(about)
  )
}

describe_groups_of <- function(whole, x, about) {
  name <- lines_of_result(whole)
  if (whole$verdict == "not told from the season") {
    return(glue(
      "{name}: each position of its season lies in one group alone, so that",
      "the groups cannot be told from it."
    ))
  }
  if (is.na(whole$p)) {
    return(sprintf("%s: nothing to compare (%s).", name, whole$verdict))
  }
  keys <- c(about$series, "measure")
  groups <- plain_tibble(x)[
    vctrs::vec_in(plain_tibble(x)[keys], plain_tibble(whole)[keys]),
  ]
  middle <- groups[[about$stat]]
  figure <- function(value) in_unit(value, about, middle)
  # What cannot be told from the season has none.
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
  sprintf(
    "%s: %s, %s %s%s. %s.", name, head,
    sub("^[+]", "", figure(abs(one$difference))),
    if (one$difference < 0) "lower" else "higher",
    interval_in_words(one, about, figure), paste0(
      judged_groups(whole), untold_groups(label[is.na(groups$difference)])
    )
  )
}

untold_groups <- function(labels) {
  if (length(labels) > 0) {
    sprintf("; %s cannot be told from the season", in_words(quoted(labels)))
  }
}

# The ends of the interval by their size.
interval_in_words <- function(one, about, figure) {
  if (is.na(one$lower)) {
    return("")
  }
  ends <- sort(c(one$lower, one$upper) * sign(one$difference))
  sprintf(
    " (%g%% interval %s to %s)", 100 * about$confidence, figure(ends[[1]]),
    figure(ends[[2]])
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
      "%s; with %s it cannot be told whether by chance (%s)", share,
      count_of(whole$blocks, "block"), chance
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
