# The baseline where none is named: the season where one was known by then, else
# the last periods. Each way is judged over the whole series, so that it has its
# own past deviations, and each row is taken from the way that was open then.

flags_if_known <- function(x, along, standing, asked) {
  flags <- judged_against(
    x, along, standing, replace(asked, "against", "last periods")
  )
  way <- rep(1L, nrow(flags))
  cycle <- check_cycle(asked$cycle$words, along$calendar)
  for (form in season_forms) {
    open <- season_open(along, cycle, form)
    if (any(open)) {
      seasonal <- judged_against(
        x, along, standing, asked_of_season(asked, form)
      )
      rows <- which(open & limited_so_far(seasonal, along))
      columns <- setdiff(names(seasonal), facts(x)$series)
      flags[rows, columns] <- seasonal[rows, columns]
      way[rows] <- 1L + match(form, season_forms)
    }
  }
  new_result(
    new_rows(
      plain_tibble(flags), against = factor(ways_of_flags[way], ways_of_flags)
    ),
    "flags", replace(facts(flags), "against", baseline_if_known)
  )
}

# Whether each row lies at or after the first of its series with a limit.
limited_so_far <- function(flags, along) {
  limited <- !is.na(flags$upper) | !is.na(flags$lower)
  first <- which(limited & !duplicated(ifelse(limited, along$series, -1L)))
  since <- along$number[first][match(along$series, along$series[first])]
  (along$number >= since) %in% TRUE
}

# What a row is compared with, in the order of `season_forms` from the second.
ways_of_flags <- c("last periods", "season", "season (differences)")

asked_of_season <- function(asked, form) {
  last <- asked$cycle$length
  replace(
    asked, c("against", "last", "need", "form"),
    list("season", last, needed_of(last, "season"), form)
  )
}

# As it was for the row of a table of flags.
asked_of_row <- function(about, against) {
  if (about$against != baseline_if_known) {
    return(about)
  }
  form <- season_forms[match(against, ways_of_flags) - 1]
  if (length(form) == 1) {
    asked_of_season(about, form)
  } else {
    replace(about, "against", "last periods")
  }
}

# Whether each row was compared with a season, in shares of its baseline
# (`form` is then the multiplicative one) or at all. `about` are its facts.
by_season <- function(x, about, form = season_forms) {
  if (about$against != baseline_if_known) {
    return(rep(about$against == "season" && about$form %in% form, nrow(x)))
  }
  x[["against"]] %in% ways_of_flags[1 + match(form, season_forms)]
}

# Whether each row is compared with what its series is compared with at its end.
as_at_the_end <- function(x) {
  line <- lines_of_flags(x)
  seasonal <- by_season(x, facts(x))
  seasonal | !line %in% line[seasonal]
}

# Whether a season of this form was known before each row. It is multiplicative
# as long as all values are above zero.
season_open <- function(along, cycle, form) {
  rows <- first_rows(along)
  ends <- c(rows$first, length(along$series) + 1)
  line <- rep(seq_along(rows$first), diff(ends))
  since <- along$number - along$number[rows$first][line]
  below <- which(along$value <= 0)
  first_below <- rep(Inf, length(rows$first))
  first_below[rev(line[below])] <- rev(since[below])
  fits <- (since <= first_below[line]) == (form == "multiplicative")
  known <- rep(Inf, length(rows$first))
  for (length in if (any(fits)) lengths_looked_at(cycle, max(since))) {
    within <- which(since < length & is.infinite(known[line]))
    found <- lines_with_season(along, within, cycle, form)
    known[line[within][found]] <- length
  }
  fits & since >= known[line]
}

# 2.5, 3, 3.5 and 4 cycles, and each time a quarter more.
lengths_looked_at <- function(cycle, longest) {
  cycles <- c(2.5, 3, 3.5, 4)
  while (max(cycles) * cycle$length < longest) {
    cycles <- c(cycles, ceiling(1.25 * max(cycles)))
  }
  lengths <- ceiling(cycles * cycle$length)
  lengths[lengths <= longest]
}
