# Cadences in words.

cadence_words <- function(cadences) {
  distinct <- vctrs::vec_unique(
    cadences[c("steps", "length", "weekdays", "kept")]
  )
  words <- vapply(seq_len(nrow(distinct)), function(i) {
    one <- distinct[i, ]
    switch(
      one$steps + 1, "irregular", step_in_words(one$length),
      step_in_words(one$length), months_in_words(one$length)
    )
  }, "")
  part <- distinct$steps > 0L & distinct$weekdays != every_weekday
  words[part] <- sprintf(
    "day (%s)", vapply(distinct$weekdays[part], weekdays_in_words, "")
  )
  kept <- which(lengths(distinct$kept) > 0 & distinct$steps %in% 1:2 & !part)
  words[kept] <- sprintf(
    "%s (%s)", words[kept],
    vapply(distinct$kept[kept], kept_in_words, "")
  )
  cadences$words <- words[vctrs::vec_match(cadences[names(distinct)], distinct)]
  cadences
}

# The cadences of several series in words: "day", or "week for ice sold and
# month for berths let"; with the names of the series, be it only one cadence,
# where `named`.
describe_cadences <- function(cadences, names, named = FALSE) {
  words <- unique(cadences$words)
  if (length(words) == 1 && !named) {
    return(words)
  }
  whose <- vapply(
    words, function(one) few_series(names, cadences$words == one), ""
  )
  regular <- words != "irregular"
  paste(c(
    in_words(sprintf("%s for %s", words, whose)[regular]),
    if (!all(regular)) sprintf("irregularly for %s", whose[!regular])
  ), collapse = "; ")
}

# By their names, or how many they are.
few_series <- function(names, which) {
  if (sum(which) > 3) {
    return(sprintf("%d series", sum(which)))
  }
  in_words(do.call(
    paste,
    c(unname(lapply(vctrs::vec_slice(names, which), as.character)), sep = " / ")
  ))
}

# "Monday to Saturday" where they follow each other, else each by its name.
weekdays_in_words <- function(weekdays) {
  kept <- bitwAnd(weekdays, 2^(0:6)) > 0
  names <- weekday_names[kept]
  if (length(names) > 2 && all(diff(which(kept)) == 1)) {
    return(paste(names[[1]], "to", names[[length(names)]]))
  }
  in_words(names)
}

months_in_words <- function(months) {
  length_in_words(whole_years(list(
    count = months, unit = "month"
  )))
}

step_in_words <- function(step) {
  unit <- if (step %% 604800 == 0) "week" else
    if (step %% 86400 == 0) "day" else if (step %% 3600 == 0) "hour" else
      if (step %% 60 == 0) "minute" else "second"
  length_in_words(list(count = step / unit_seconds[[unit]], unit = unit))
}
