# Whether a season moves, and its index with it.

# What an index follows, of each series or of how many where they are many.
describe_followed <- function(tests, most = 8) {
  name <- lines_of_result(tests)
  stays <- tests$kept == 1
  moves <- which(!stays)
  c(
    if (length(moves) > most) {
      sprintf(
        "The season of %s of %s moves, and its index with it.",
        thousands(length(moves)), count_of(nrow(tests), "series", "series")
      )
    } else if (length(moves) > 0) {
      glue(
        "The season moves in {in_words(name[moves], most)}, and its index with",
        "it: a cycle away a ratio counts {weight_in_words(tests$kept[moves])}",
        "as much."
      )
    },
    if (length(moves) > 0 && length(stays) > most) sprintf(
      "By chance alone about %s of %s would.",
      plain_format(signif(0.05 * length(stays), 2)), thousands(length(stays))
    ),
    if (any(stays)) sprintf(
      "No movement of the season was found%s: one index serves all cycles.",
      if (any(!stays)) paste(" in", in_words(name[stays], 4)) else ""
    )
  )
}

weight_in_words <- function(kept) {
  percent <- sprintf("%.0f%%", 100 * range(kept))
  paste(unique(percent), collapse = " to ")
}

describe_moves <- function(x, most = 8) {
  season <- facts(x)
  tests <- summary(x)
  if (season$combine == "moving mean") {
    return(c(
      describe_followed(tests[!is.na(tests$kept), ]), said_of_bridged(tests)
    ))
  }
  fits <- other_form_fits(tests)
  moves <- moving_seasons(tests)
  c(
    if (length(fits) > 0) {
      forms <- c("ratios", "differences")
      if (season$form == "additive") forms <- rev(forms)
      sprintf(
        "As %s the season changes over the cycles in %s, but not as %s%s.",
        forms[[1]], in_words(
          sprintf(
            "%s (%s)", lines_of_result(tests)[fits],
            p_in_words(tests$drift_p[fits])
          ), 4
        ),
        forms[[2]], if (is.null(season$form_said)) sprintf(
          "; `form` as \"%s\" fits better", setdiff(season_forms, season$form)
        ) else ""
      )
    },
    if (length(moves) > 0) {
      name <- lines_of_result(tests)[moves]
      advice <-
        if (
          season$method == "centred average"
        ) "with `combine` as \"moving mean\" its index moves, too" else
          paste(
            "a trend does that to the overall average: `method` as \"centred",
            "average\" takes it out"
          )
      sprintf("It moves over the cycles in %s; %s.",
              in_words(
                sprintf("%s (%s)", name, p_in_words(tests$drift_p[moves])), 4
              ), advice)
    },
    if (nrow(tests) > most) chance_of_many(
      tests$drift_p, tests$drift_p < 0.05, lines_of_result(tests)
    ),
    if (any(!is.na(tests$drift_p)) && length(c(moves, fits)) == 0) {
      "No change of the season over these cycles was found."
    },
    said_of_bridged(tests)
  )
}

said_of_bridged <- function(tests) {
  if (sum(tests$bridged, na.rm = TRUE) > 0) sprintf(
    "In the centred averages %s bridged.",
    count_are(sum(tests$bridged, na.rm = TRUE), "missing period")
  )
}
