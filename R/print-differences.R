# What differences between series say.

#' @export
describe.backfill_series_differences <- function(x, ..., most = 6) {
  about <- facts(x)
  noun <- period_noun(about$calendar, 2)
  c(
    if (nrow(x) <= most) {
      vapply(seq_len(nrow(x)), function(i) gap_in_words(x[i, ], about), "")
    } else {
      c(
        counted_verdicts(x[["verdict"]], c(
          differ = "differ by more than chance",
          "within chance" = "differ no more than chance might have it",
          "may wander" = paste(
            "cannot be told apart in the long run (their gap may",
            "wander)"
          ),
          "too short to tell" = sprintf("share fewer than three %s", noun),
          constant = "differ by the same amount throughout"
        ), c("pair", "pairs")),
        widest_gaps(x, about)
      )
    },
    if (nrow(x) > 1 && any(!is.na(x[["p"]]))) sprintf(
      "p is adjusted for %s (Holm).", count_of(nrow(x), "pair")
    ),
    if (about$seasonal > 0) sprintf(
      "In %s the gap has a season of %s, which is left out of its spread.",
      count_of(about$seasonal, "pair"), about$season
    )
  )
}

# The furthest apart of those that are told apart.
widest_gaps <- function(x, about) {
  found <- which(x[["verdict"]] == "differ")
  if (length(found) == 0) {
    return(NULL)
  }
  apart <- abs(x[["difference"]] / (x[["upper"]] - x[["lower"]]))[found]
  gap_in_words(x[found[which.max(apart)], ], about)
}

gap_in_words <- function(one, about) {
  first <- one$first
  second <- one$second
  noun <- period_noun(about$calendar, 2)
  if (one$verdict == "too short to tell") {
    return(sprintf(
      "%s and %s share %s, too few to tell.", first, second,
      count_of_periods(one$n, about$calendar)
    ))
  }
  size <- size_of_gap(one, about)
  if (one$verdict == "constant" && one$difference == 0) {
    return(glue(
      "{first} and {second} were the same in each of {one$n} shared {noun}."
    ))
  }
  if (one$verdict == "constant") {
    return(sprintf(
      "%s lay %s %s in each of %d shared %s.", first, size, second, one$n, noun
    ))
  }
  size <- sprintf("%s %s on average", size, second)
  below <- one$difference < 0
  often <- sprintf(
    "and %s it in %d of %d shared %s", if (below) "below" else "above",
    if (below) one$below else one$above, one$n, noun
  )
  if (one$verdict == "may wander") {
    return(glue(
      "{first} lay {size}, {often}; whether they differ in the long run cannot",
      "be told, as the gap between them may wander."
    ))
  }
  said <- sprintf(
    "%s lay %s (%g%% interval %s; %s), %s.", first, size,
    100 * about$confidence, ends_of_gap(one, about), p_in_words(one$p), often
  )
  if (one$verdict == "differ") {
    return(said)
  }
  glue("No difference between {first} and {second} was found: {said}")
}

# "120 (4.5%) above", or below.
size_of_gap <- function(one, about) {
  sprintf(
    "%s%s %s", in_unit(abs(one$difference), about, digits_of_gap(one)),
    if (is.na(one$percent)) "" else sprintf(" (%.1f%%)", abs(one$percent)),
    if (one$difference < 0) "below" else "above"
  )
}

# By the size of the gap, as the sentence has it.
ends_of_gap <- function(one, about) {
  side <- if (one$difference < 0) -1 else 1
  ends <- sort(side * c(one$lower, one$upper))
  paste(in_unit(ends, about, digits_of_gap(one)), collapse = " to ")
}

# A gap has digits of its own, not those of the figures beside it.
digits_of_gap <- function(one) {
  as.numeric(stats::na.omit(c(one$difference, one$lower, one$upper)))
}

#' @export
column_units.backfill_series_differences <- function(x) {
  unit <- facts(x)$unit
  figures <- c("first_mean", "second_mean", "difference", "lower", "upper")
  c(
    p = "p", percent = "%",
    if (!is.null(unit)) stats::setNames(rep(unit, length(figures)), figures)
  )
}

#' @export
headline.backfill_series_differences <- function(x) {
  said <- describe(x, most = 1)
  if (nrow(x) > 1) said[seq_len(min(2, length(said)))] else said[1]
}
