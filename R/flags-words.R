# What flags compare with, beyond which limits, and why a row is flagged, in
# words.

baseline_in_words <- function(about) {
  if (about$against == baseline_if_known) {
    return(sprintf(
      "%s, or %s where no season was known",
      baseline_in_words(replace(about, "against", "season")),
      baseline_in_words(replace(about, "against", "last periods"))
    ))
  }
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
      count_of_periods(about$last, about$calendar, isTRUE(about$closed))
    ) else
      sprintf(
        "the %s of the last %s", middle,
        count_of_periods(about$last, about$calendar, isTRUE(about$closed))
      ),
    "season" = sprintf(
      "the season (%s) and level known at the time", about$cycle$words
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
        "the last %s", count_of_periods(
          about$spread_of, about$calendar, is_counted(about)
        )
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

# The table with a column `reason`, in words: of flagged periods what they are
# beyond, of those without a baseline or a limit that. Only made for rows that
# are shown or written, as it takes longer than to find them.
with_reasons <- function(x) {
  needed <- c(
    "value", "baseline", "deviation", "percent", "lower", "upper", "direction"
  )
  if (!all(needed %in% names(x)) || "reason" %in% names(x)) {
    return(x)
  }
  reason <- rep("", nrow(x))
  if ("judgement" %in% names(x)) {
    reason[x$judgement == "no baseline yet"] <-
      "too few prior periods for a baseline"
    reason[x$judgement == "no limit yet"] <-
      "too few past deviations for a limit"
  }
  rows <- which(x$direction != "")
  reason[rows] <- reasons_of(
    x$deviation[rows], x$percent[rows], x$baseline[rows], x$direction[rows],
    ifelse(x$direction[rows] == "up", x$upper[rows], x$lower[rows])
  )
  x$reason <- reason
  x
}

reasons_of <- function(deviation, percent, baseline, direction, limit) {
  short <- function(y) {
    decimals <- pmin(pmax(3 - floor(log10(pmax(abs(y), 1e-9))), 0), 9)
    text <- sprintf("%.*f", as.integer(decimals), y)
    large <- which(abs(y) >= 1000)
    text[large] <- plain_formatC(
      y[large], digits = 0, format = "f", big.mark = ","
    )
    sub("[.]$", "", sub("([.][0-9]*?)0+$", "\\1", text, perl = TRUE))
  }
  share <- ifelse(is.na(percent), "", sprintf(" (%+.1f%%)", percent))
  side <- ifelse(deviation > 0, "above", "below")
  # Where past deviations lie off their baseline, the limits do too.
  past <- ifelse(
    (deviation > 0) == (direction == "up"), "beyond",
    ifelse(direction == "up", "above", "below")
  )
  sprintf(
    "%s %s%s its baseline of %s, %s %s", short(abs(deviation)), side, share,
    short(baseline), past, short(limit)
  )
}
