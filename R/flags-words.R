# What flags compare with, and beyond which limits, in words.

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
