# What flags compare with, and beyond which limits: what may be asked for, and
# what of it the kernel is handed.

# The running total of each year. What was filled in is no part of it.
with_year_to_date <- function(x, of, name) {
  standing <- x$standing
  x$standing[x$standing == "imputed"] <- "empty"
  x <- add_running_total(x, of = of, name = name)
  x$standing <- standing
  x
}

# What the kernel is handed to find a baseline in, by `against`: list(cycled =
# the value a cycle before, given = a baseline as it is, at = the position).
baseline_given <- function(x, along, asked, cycle) {
  against <- asked$against
  calendar <- facts(x)$calendar
  list(
    cycled = if (against == "a cycle before") cycle_before(along, cycle),
    given = switch(
      against, "year to date" = year_before(along),
      if (!against %in% baselines) along_series(x, against)$value
    ),
    at = if (against == "season") {
      positions_along(along, cycle_of_baseline(cycle, against, calendar))
    }
  )
}

# In the order of enum class Against in src/kernels/flags.h, and the one that is
# given to it.
baselines <- c(
  "previous period", "a cycle before", "last periods", "season", "year to date"
)

# What flags compare with where nothing is said, see flags_if_known().
baseline_if_known <- "season if known"

baseline_implied <- function(x, last, need, stat, spread_of, cycle, form) {
  if (!is.null(cycle) || !is.null(form)) {
    return("season")
  }
  of_last <- !is.null(last) || !is.null(need) || !is.null(spread_of) ||
    !identical(stat, "mean")
  if (of_last || is.null(known_cycle(facts(x)$calendar))) {
    return("last periods")
  }
  baseline_if_known
}

check_floor <- function(floor) {
  if (!is_number(floor) || floor < 0) {
    abort_backfill(
      "argument",
      "`floor` is {value_in_words(floor)}; it must be 0 or an amount above."
    )
  }
}

check_above_zero <- function(along, of) {
  if (any(along$value <= 0, na.rm = TRUE)) {
    abort_backfill(
      "season",
      "\"{of}\" has values of zero or less; a multiplicative season needs",
      "values above.",
      ">" = "Set `form` to \"additive\"."
    )
  }
}

# The cycle of a baseline that has one.
cycle_of_baseline <- function(cycle, against, calendar) {
  if (against %in% c("a cycle before", "season", baseline_if_known)) {
    return(check_cycle(cycle, calendar))
  }
  if (!is.null(cycle)) {
    abort_backfill(
      "argument",
      "`cycle` is given, but `against` is \"{against}\", which has none."
    )
  }
}

# The number of the period a cycle before each, from the first to the last.
cycle_before <- function(along, cycle) {
  calendar <- along$calendar
  distance <- check_distance(cycle %||% own_cycle(calendar), calendar, "cycle")
  if (length(along$number) == 0) {
    return(numeric())
  }
  ends <- range(along$number)
  moved(distance, seq(ends[[1]], ends[[2]]), calendar)
}

check_against <- function(against, x) {
  figures <- setdiff(
    names(x)[vapply(plain_tibble(x), is.numeric, NA)],
    c("value", "n", "coverage")
  )
  known <- c(baselines, baseline_if_known, figures)
  if (!rlang::is_string(against) || !against %in% known) {
    needed <- glue(
      "It must be {in_words(quoted(baselines), last = ' or ')}, or a column of",
      "figures."
    )
    abort_backfill(
      "column", "`against` is {value_in_words(against)}.",
      i = "{word_meant(against, baselines) %||% needed}"
    )
  }
}

check_beyond <- function(beyond) {
  known <- c("percent", "amount", "sd", "mad", "quantile")
  named <- length(names(beyond)) > 0 && all(names(beyond) %in% known) &&
    anyDuplicated(names(beyond)) == 0
  if (!named || !are_numbers(beyond) || any(beyond <= 0)) {
    odd <- setdiff(names(beyond), known)
    abort_backfill(
      "argument", "`beyond` is {value_in_words(beyond)}.",
      i = if (length(odd) > 0) "{word_meant(odd[[1]], known)}",
      i = "It must be numbers above 0 with the names",
      "{in_words(known, last = ' or ')}, such as 10 for percent."
    )
  }
  if ("quantile" %in% names(beyond) && beyond[["quantile"]] >= 1) {
    abort_backfill(
      "argument",
      "`beyond` has a quantile of {plain_format(beyond[['quantile']])}; it",
      "must be a share below 1."
    )
  }
}

# How many of the last values the standard deviation of a limit is of.
check_spread_of <- function(spread_of, beyond, against, calendar) {
  if (is.null(spread_of)) {
    return(NULL)
  }
  if (!"sd" %in% names(beyond) || "mad" %in% names(beyond)) {
    abort_backfill(
      "argument",
      "`spread_of` is given, but `beyond` is not in standard deviations alone.",
      i = "It says of which values the standard deviations of `sd` are."
    )
  }
  if (against %in% c("season", "year to date")) {
    abort_backfill(
      "argument", "`spread_of` is given, but `against` is \"{against}\".",
      i = "The values themselves vary with the season; only their deviations",
      "from it say how far off one is.",
      ">" = "Leave `spread_of` out."
    )
  }
  count <- whole_periods(spread_of, calendar)
  if (is.null(count) || count < 3) {
    stop_periods(spread_of, calendar, "spread_of", "over")
  }
  count
}

check_last <- function(last, against, cycle, x) {
  calendar <- facts(x)$calendar
  if (is.null(last)) {
    return(switch(
      against,
      "last periods" = , "season if known" = open_cycle(x)$length %||% 12,
      "season" = cycle$length, 1
    ))
  }
  if (!against %in% c("a cycle before", "last periods")) {
    abort_backfill(
      "argument", "`last` is given, but `against` is \"{against}\"."
    )
  }
  count <- whole_periods(last, calendar)
  if (is.null(count)) {
    stop_periods(last, calendar, "last", "over")
  }
  count
}

# What was asked, as the kernel takes it.
rule_of_flags <- function(asked) {
  limits <- c("percent", "amount", "sd", "mad", "quantile")
  beyond <- stats::setNames(as.list(asked$beyond[limits]), limits)
  c(beyond, list(
    against = match(asked$against, baselines[1:4], nomatch = 5) - 1,
    middle = match(asked$stat, c("mean", "median", "smoothed")) - 1,
    last = asked$last, need = asked$need, alpha = 1 - 2^(-1 / asked$last),
    floor = asked$floor, enough = 8,
    up = asked$direction != "down", down = asked$direction != "up",
    all = asked$beyond_all, exclude_flagged = asked$exclude_flagged,
    cycle = asked$cycle$length %||% 2, ratio = asked$form == "multiplicative",
    spread_of = asked$spread_of %||% 0
  ))
}

# How many standard deviations k are, when 0, 1, 2, ... past deviations are all
# that is known of them.
widened_limits <- function(k, most, worth) {
  n <- seq(0, most)
  if (is.na(k)) {
    return(numeric())
  }
  free <- pmax(1, worth * n - 1)
  stats::qt(stats::pnorm(k, log.p = TRUE), free, log.p = TRUE) * sqrt(
    1 + 1 / pmax(1, worth * n)
  )
}

# The figure of the same date a year before, from the same series.
year_before <- function(along) {
  distance <- check_distance("1 year", along$calendar, "against")
  along$value[rows_off(along, distance)]
}

unused_name <- function(name, x) {
  while (name %in% names(x)) name <- paste0(name, "_")
  name
}

# What the other arguments give no meaning to.
check_flag_rule <- function(against, beyond, beyond_all, floor, stat, form) {
  here <- sprintf("`against` is \"%s\"", against)
  check_meant(
    beyond_all && length(beyond) == 1, "beyond_all",
    "`beyond` has one limit only"
  )
  check_meant(
    !identical(floor, 0) && !"percent" %in% names(beyond), "floor",
    "`beyond` has no percentage, of which it is the least"
  )
  check_meant(
    stat != "mean" && !against %in% c("a cycle before", "last periods"), "stat",
    here
  )
  check_meant(!is.null(form) && against != "season", "form", here)
}

# Baselines that are counted in periods leave out those that are closed.
is_counted <- function(about) {
  isTRUE(about$closed) &&
    about$against %in% c("previous period", "last periods")
}
