# What seasons' onsets and ends say.

#' @export
describe.backfill_season_spells <- function(x, ..., most = 6) {
  about <- facts(x)
  whole <- summary(x)
  undated <- sum(is.na(x$onset))
  c(
    if (nrow(whole) <= most) {
      vapply(seq_len(nrow(whole)), function(i) {
        describe_season_of(whole[i, ], about)
      }, "")
    } else {
      sprintf(
        "%s of %s, dated %s in all.", count_of(nrow(whole), "season"),
        count_of(nrow(keys_apart(whole)), "series", "series"),
        count_of(sum(whole$years), "time")
      )
    },
    if (length(about$lacking) > 0) {
      paste0(lacking_in_words(about$lacking, about$seasons), ".")
    },
    if (undated > 0) {
      sprintf(
        "Not dated: %s, of which the table does not hold enough.",
        count_of(undated, "season")
      )
    }
  )
}

keys_apart <- function(x) vctrs::vec_unique(keys_of(x))

describe_season_of <- function(one, about) {
  name <- lines_of_result(one)
  if (about$seasons > 1) name <- sprintf("%s, season %d", name, one$season)
  span <- function(what, from, to, sd) {
    at <- unique(c(from, to))
    if (one$years == 1) {
      sprintf("the %s was %s", what, in_period(at, about$calendar))
    } else if (length(at) == 1) {
      sprintf("the %s was the same each time", what)
    } else {
      ends <- in_period(at, about$calendar)
      sprintf(
        "the %s was earliest %s and latest %s (standard deviation %.1f %s)",
        what, ends[[1]], ends[[2]], sd, period_noun(about$calendar, 2)
      )
    }
  }
  each <- if (one$years == 0) {
    "No year is dated."
  } else {
    sprintf(
      "In %s %s, and %s.", count_of(one$years, "year"),
      span("onset", one$earliest_onset, one$latest_onset, one$onset_sd),
      span("end", one$earliest_end, one$latest_end, one$end_sd)
    )
  }
  sprintf(
    "%s: from %s to %s in the average year. %s %s.",
    name, one$average_onset, one$average_end, each,
    if (is.na(one$p)) {
      "Whether the years agree is not known"
    } else if (one$p <= 0.05) {
      sprintf("The years agree by more than chance (%s)", p_in_words(one$p))
    } else {
      sprintf(
        "The years agree no more than chance might have it (%s)",
        p_in_words(one$p)
      )
    }
  )
}

#' @export
column_units.backfill_season_spells <- function(x) {
  unit <- facts(x)$unit
  c(share = "coverage", if (!is.null(unit)) c(mean = unit))
}

# A year is no figure.
#' @export
table_cells.backfill_season_spells <- function(x, n = Inf) {
  x$year <- as.character(x$year)
  NextMethod()
}

#' @export
describe.backfill_spell_summary <- function(x, ...) character()
