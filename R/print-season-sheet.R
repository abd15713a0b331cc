# What the tests of a season and its worksheet say.

#' @export
describe.backfill_season_tests <- function(x, ..., most = 8) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  c(
    "What taking the season out does:",
    if (nrow(x) <= most) {
      glue(
        "{lines_of_result(x)}: the standard deviation goes from",
        "{each_figure(x[['sd_before']])} to {each_figure(x[['sd_after']])},",
        "the range from {each_figure(x[['range_before']])} to",
        "{each_figure(x[['range_after']])};",
        "{format_share(pmax(0, x[['removed']]))} of the variance goes."
      )
    } else {
      sprintf(
        "In the middle of %s %s of the variance goes.",
        count_of(nrow(x), "series", "series"),
        format_share(pmax(
          0, quantiles_of(x[["removed"]][!is.na(x[["removed"]])], 0.5)
        ))
      )
    }
  )
}

#' @export
describe.backfill_worksheet <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  season <- facts(x)
  lost <- sum(x$standing == "lost")
  c(
    sprintf(
      "Every step of the seasonal index of %s over %s, %s by %s.",
      season_subject(season, x), season$cycle$words, count_of(nrow(x), "row"),
      period_noun(season$calendar)
    ),
    if (lost > 0) {
      sprintf(
        "%s lost: %s.", count_are(lost, "row"),
        if ("local_line" %in% names(x)) {
          "too few figures lie around it for a line"
        } else {
          paste(
            "the centred average there reaches outside the data, or would be",
            "bridged for the most part"
          )
        }
      )
    },
    describe_normalisers(x, season), describe_sheet_ahead(x, season)
  )
}

# What makes the indices average 1, or 0.
describe_normalisers <- function(x, season, most = 4) {
  name <- lines_of_result(x)
  first <- which(!duplicated(name))
  factor <- x$normaliser[first]
  added <- season$form == "additive"
  if (is.null(factor) || length(first) > most) {
    return(NULL)
  }
  if (any(factor[match(name, name[first])] != x$normaliser, na.rm = TRUE)) {
    return(sprintf(
      "So that the indices of a cycle %s, each has a normaliser of its own.",
      if (added) "add up to 0" else "average 1"
    ))
  }
  if (all(factor == !added)) {
    return(NULL)
  }
  sprintf(
    "So that they %s, the raw indices are %s: %s.",
    if (added) "add up to 0" else "average 1",
    if (added) "lowered or raised by a number" else "multiplied by a factor",
    in_words(sprintf("%s %s", name[first], plain_format(factor, digits = 4)))
  )
}

#' @export
columns_left.backfill_worksheet <- function(x) "normaliser"

# How the projected rows of a worksheet are made.
describe_sheet_ahead <- function(x, season) {
  ahead <- sum(x$standing == "projected")
  if (ahead > 0) sprintf(
    paste(
      "%s projected: %s without its season, carried on (carried), %s",
      "the index (index)."
    ),
    count_are(ahead, "row"), if (season$base == "auto") {
      "what missed least"
    } else {
      paste("the", bases[[season$base]])
    },
    if (season$form == "additive") "plus" else "times"
  )
}

#' @export
columns_left.backfill_season_tests <- function(x) {
  c(
    "periods", "bridged", "highest", "lowest", "positions_p", "ranks_h",
    "ranks_p", "memory", "drift_f", "drift_p_other", "range_before",
    "range_after"
  )
}
