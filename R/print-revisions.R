# What is said of how adjusted figures were revised.

#' @export
describe.backfill_season_revisions <- function(x, ..., most = 4) {
  about <- facts(x)
  latest <- plain_tibble(x)[x[["age"]] == 0, ]
  name <- lines_of_result(x)[x[["age"]] == 0]
  c(
    if (nrow(latest) > most) {
      revisions_of_all(latest, name, about)
    } else {
      vapply(seq_along(name), function(i) {
        revision_of_line(latest[i, ], name[[i]], about)
      }, "")
    },
    settled_in_words(x, about),
    if (length(about$lacking) > 0) sprintf(
      "%s %s too short for an end three cycles long.",
      in_words(about$lacking, 4),
      if (length(about$lacking) == 1) "is" else "are"
    ),
    about$form_said
  )
}

revision_of_line <- function(one, name, about) {
  noun <- period_noun(about$calendar)
  said <- glue(
    "{name}: the adjusted figure of the last {noun} was revised by",
    "{revision_in_words(one$revision, about)} on average once later",
    "{period_noun(about$calendar, 2)} were known",
    "({count_of(one$n, 'earlier end')})."
  )
  if (one$changes == 0) {
    return(said)
  }
  paste(said, glue(
    "Its change on the {noun} before was revised by",
    "{revision_in_words(one$change_revision, about, ' points')}, where such a",
    "change is {revision_in_words(one$usual_change, about)} on average; it",
    "rose or fell as it does now in",
    "{as.integer(round(one$sign_held * one$changes))} of {one$changes}."
  ))
}

revisions_of_all <- function(latest, name, about) {
  noun <- period_noun(about$calendar)
  c(
    glue(
      "In half of the {count_of(nrow(latest), 'series', 'series')} the",
      "adjusted figure of the last {noun} was revised by",
      "{revision_in_words(stats::median(latest$revision), about)} or less on",
      "average once later {period_noun(about$calendar, 2)} were known; in",
      "{name[[which.max(latest$revision)]]}, most of all, by",
      "{revision_in_words(max(latest$revision), about)}."
    ),
    sprintf(
      paste(
        "In half of them its change on the %s before rose or fell as it does",
        "now at %.0f%% of the ends or more."
      ),
      noun, 100 * stats::median(latest$sign_held, na.rm = TRUE)
    )
  )
}

# A cycle later.
settled_in_words <- function(x, about) {
  cycle <- about$cycle$length
  later <- x[["revision"]][x[["age"]] == cycle]
  if (length(later) == 0) {
    return(NULL)
  }
  sprintf(
    "Figures that were %s old were still revised by %s.", about$cycle$words,
    paste(unique(vapply(
      range(later), revision_in_words, "", about = about
    )), collapse = " to ")
  )
}

# Shares as percent, or `points` of it; amounts as they are.
revision_in_words <- function(size, about, points = "%") {
  figure <- plain_format(signif(if (about$form == "multiplicative") {
    100 * size
  } else {
    size
  }, 2))
  if (about$form == "multiplicative") {
    paste0(figure, points)
  } else {
    paste0(figure, if (!is.null(about$unit)) paste0(" ", about$unit))
  }
}

#' @export
column_units.backfill_season_revisions <- function(x) {
  about <- facts(x)
  unit <- if (about$form == "multiplicative") "share" else about$unit
  sizes <- c("revision", "change_revision", "usual_change")
  c(
    sign_held = "share",
    if (!is.null(unit)) stats::setNames(rep(unit, length(sizes)), sizes)
  )
}

#' @export
headline.backfill_season_revisions <- function(x) {
  describe(x, most = 1)[1]
}
