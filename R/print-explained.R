# What a tree and its judgement say.

#' @export
describe.backfill_explained <- function(x, ...) {
  if (nrow(x) == 0) {
    return(NextMethod())
  }
  about <- facts(x)
  c(
    explained_head(x, about), explained_judgement(about),
    explained_fit(x, about), importance_in_words(about$importance)
  )
}

explained_head <- function(x, about) {
  label <- function(at) {
    if (is.null(about$calendar)) day_label(at) else
      period_label(at, about$calendar)
  }
  stretch <- function(name) {
    of <- x[x$stretch == name, ]
    sprintf(
      "%s between %s and %s",
      count_of(nrow(of), if (about$already) "figure" else "change"),
      label(min(of$from)), label(max(of$to))
    )
  }
  c(
    sprintf(
      "A tree for %s%s %s ahead, by %s %s.",
      if (about$already) "" else "the change of ", about$target,
      count_of_steps(about$ahead, about$calendar),
      if (identical(about$horizons, 0)) "the figures of" else "the changes of",
      count_of(about$candidates, "other series", "other series")
    ),
    sprintf(
      "It is judged on %s, and was fitted to %s; %d in between %s left out.",
      stretch("later"), stretch("fit"), about$between,
      if (about$between == 1) "is" else "are"
    )
  )
}

# First the later stretch.
explained_judgement <- function(about) {
  found <- about$judgement
  off <- trimws(format_figures(found$mean_error))
  rivals <- found$root_mean_square[-1]
  own <- found$root_mean_square[[1]]
  p <- found$p[[1]]
  c(
    glue(
      "On the later stretch it is off by {off[[1]]} on average; no change",
      "would be off by {off[[2]]}, and the average change by {off[[3]]}."
    ),
    if (nrow(about$splits) == 1) {
      "The tree finds nothing to split by, and predicts the average change."
    } else if (own >= min(rivals)) {
      paste(
        "By squared errors it is no better than the plain rival, which is the",
        "usual case."
      )
    } else if (is.na(p)) {
      "It is better than the plain rivals on too few periods to be judged."
    } else if (p >= 0.05) {
      glue(
        "By squared errors it is better than the plain rivals, but within what",
        "chance shows ({p_in_words(p)})."
      )
    } else {
      sprintf(
        "By squared errors it is better than both plain rivals (%s).",
        p_in_words(p)
      )
    }
  )
}

explained_fit <- function(x, about) {
  fit <- x[x$stretch == "fit", ]
  left <- sum((fit$actual - fit$predicted)^2)
  all <- sum((fit$actual - fit$average)^2)
  if (nrow(about$splits) > 1 && all > 0) glue(
    "Of the variation in the periods that it was fitted to it accounts for",
    "{format_share(1 - left / all)}, which says little: any tree would for",
    "much of it."
  )
}

importance_in_words <- function(found, most = 5) {
  used <- first_few(which(found$share > 0), most)
  if (length(used) > 0) sprintf(
    "It relies on %s.",
    in_words(sprintf(
      "%s (%s)", found$candidate[used], format_share(found$share[used])
    ))
  )
}

#' @export
describe.backfill_explained_judgement <- function(x, ...) {
  glue(
    "Errors on the later stretch, in the unit of {facts(x)$target}; p is that",
    "of the tree being so much better than the better rival by chance."
  )
}

#' @export
describe.backfill_explained_importance <- function(x, ...) {
  c(
    "The share of each series in the squares that the splits take away.",
    importance_in_words(x)
  )
}

#' @export
describe.backfill_explained_splits <- function(x, ...) {
  about <- facts(x)
  leaves <- x[x$leaf, ]
  ends <- c(which.min(leaves$mean), which.max(leaves$mean))
  if (nrow(x) == 1) {
    return("The tree has no split.")
  }
  sprintf(
    "The mean change of %s %s ahead lies between %s (%s) and %s (%s).",
    about$target, count_of_steps(about$ahead, about$calendar),
    trimws(format_figures(leaves$mean))[[ends[[1]]]],
    condition_in_words(leaves[ends[[1]], ], about),
    trimws(format_figures(leaves$mean))[[ends[[2]]]],
    condition_in_words(leaves[ends[[2]], ], about)
  )
}

condition_in_words <- function(leaf, about) {
  sprintf(
    "%s%s %s %s", leaf$candidate, over_in_words(leaf$horizon, about$calendar),
    leaf$side, trimws(format_figures(leaf$cut))
  )
}

#' @export
describe.backfill_explained_rows <- function(x, ...) {
  glue(
    "What the tree was given: the change of {facts(x)$target}",
    "{count_of_steps(facts(x)$ahead, facts(x)$calendar)} ahead (target), and",
    "the changes of the other series up to then."
  )
}
