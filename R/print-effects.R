# What effects of the calendar say.

#' @export
describe.backfill_calendar_effects <- function(x, ..., most = 4) {
  about <- facts(x)
  name <- lines_of_result(x)
  lines <- unique(name)
  told <- length(unique(name[!is.na(x[["joint_p"]])]))
  c(
    if (length(lines) <= most) {
      unlist(lapply(lines, function(line) {
        effects_of_line(plain_tibble(x)[name == line, ], line, about)
      }))
    } else {
      effects_of_all(plain_tibble(x), name, about)
    },
    "An effect is that of one more such day in place of an average one.",
    if (told > 1) sprintf(
      "By chance alone each effect would be found in about %s of %d series.",
      plain_format(signif((1 - about$confidence) * told, 2)), told
    ),
    apart_in_words(about)
  )
}

apart_in_words <- function(about) {
  if (nrow(about$apart) == 0) {
    return(NULL)
  }
  label <- period_label(about$apart$period, about$calendar)
  glue("Left out as outliers: {in_words(paste(about$apart$line, label), 4)}.")
}

# The kinds of effects, each tested for itself, and those that it has.
kinds_of_effects <- function(effect) {
  kind <- ifelse(effect %in% weekday_names, "weekdays", effect)
  split(seq_along(effect), factor(kind, unique(kind)))
}

effects_of_line <- function(own, name, about) {
  kinds <- kinds_of_effects(own$effect)
  said <- vapply(names(kinds), function(kind) {
    effect_in_words(own[kinds[[kind]], ], kind, about)
  }, "")
  if (own$n[[1]] < length(about$coefficients$names) + least_beside) {
    return(glue(
      "{name} is too short to tell:",
      "{count_of_periods(own$n[[1]], about$calendar)} can be compared with the",
      "year before, and {length(about$coefficients$names) + least_beside} are",
      "needed."
    ))
  }
  sprintf("%s: %s.", name, paste(said, collapse = "; "))
}

effect_in_words <- function(own, kind, about) {
  plain <- if (kind == "weekdays") "weekdays" else paste("a", kind)
  if (own$verdict[[1]] == "cannot be told") {
    return(sprintf("an effect of %s cannot be told from the season", plain))
  }
  chance <- p_in_words(own$joint_p[[1]])
  if (own$verdict[[1]] != "found") {
    return(sprintf("no effect of %s was found (%s)", plain, chance))
  }
  if (kind == "weekdays") {
    ends <- c(which.max(own$estimate), which.min(own$estimate))
    return(glue(
      "weekdays matter ({chance}), one more {own$effect[[ends[[1]]]]} being",
      "worth {effect_size(own$estimate[[ends[[1]]]], about)} and one more",
      "{own$effect[[ends[[2]]]]}",
      "{effect_size(own$estimate[[ends[[2]]]], about)}"
    ))
  }
  sprintf(
    "%s is worth %s (%g%% interval %s to %s; %s)",
    if (kind == "working day") "one more working day" else plain,
    effect_size(own$estimate, about), 100 * about$confidence,
    effect_size(own$lower, about), effect_size(own$upper, about), chance
  )
}

# "+2.3%", or in the measure's unit.
effect_size <- function(estimate, about) {
  if (about$form == "multiplicative") {
    return(sprintf("%+.1f%%", estimate))
  }
  paste0(if (estimate > 0) "+", in_unit(estimate, about, estimate))
}

effects_of_all <- function(x, name, about) {
  kinds <- kinds_of_effects(x$effect[name == name[[1]]])
  lines <- length(unique(name))
  each <- nrow(x) %/% lines
  vapply(names(kinds), function(kind) {
    first <- (seq_len(lines) - 1) * each + kinds[[kind]][[1]]
    found <- x$verdict[first] == "found"
    least <- first[which.min(x$joint_p[first])]
    of <- if (kind == "weekdays") kind else paste("a", kind)
    if (!any(found)) {
      return(glue("No effect of {of} was found in any of {lines} series."))
    }
    sprintf(
      "An effect of %s was found in %d of %d series, surest in %s (%s).", of,
      sum(found), lines, name[[least]], p_in_words(x$joint_p[[least]])
    )
  }, "", USE.NAMES = FALSE)
}

unit_of_effects <- function(about) {
  if (about$form == "multiplicative") "%" else about$unit
}

#' @export
column_units.backfill_calendar_effects <- function(x) {
  unit <- unit_of_effects(facts(x))
  figures <- c("estimate", "lower", "upper")
  c(
    p = "p", joint_p = "p",
    if (!is.null(unit)) stats::setNames(rep(unit, 3), figures)
  )
}

# What was found in the series of the surest effect, in plain words.
#' @export
headline.backfill_calendar_effects <- function(x) {
  found <- which(x[["verdict"]] == "found")
  if (length(found) == 0) {
    return("No effect of weekdays, leap days or festivals was found.")
  }
  about <- facts(x)
  name <- lines_of_result(x)
  surest <- name[[found[which.min(x[["joint_p"]][found])]]]
  own <- plain_tibble(x)[name == surest & x[["verdict"]] == "found", ]
  weekdays <- own$effect %in% weekday_names
  # Of weekdays the one that is worth most and the one that is worth least.
  ends <- which(weekdays)[c(
    which.max(own$estimate[weekdays]), which.min(own$estimate[weekdays])
  )]
  shown <- own[c(ends, which(!weekdays)), ]
  size <- vapply(shown$estimate, effect_size, "", about)
  each <- paste0("a ", shown$effect, " ", size)
  each[[1]] <- glue(
    "one more {shown$effect[[1]]} in a {period_noun(about$calendar)} is worth",
    "{size[[1]]}"
  )
  c(
    glue("{surest}: {in_words(each)}."),
    if (length(unique(name)) > 1) glue(
      "The calendar was found to move",
      "{share_of_series(length(unique(name[found])), length(unique(name)))}."
    )
  )
}
