# Which series have no index, and what would mend that.

# Codes of enum class SeasonFault: 1 too short, 2 not positive, 3 a position
# without a ratio.
check_season <- function(facts, keys, along, cycle, x) {
  name <- names_of_lines(keys)
  check_season_above_zero(facts, name, along)
  lacking <- which(facts$fault > 0)
  if (length(lacking) == 0) {
    return()
  }
  short <- facts$fault[lacking] == 1
  apart <- name[lacking][!short]
  why <- c(
    sprintf("%s has %s", name[lacking], count_of_cycles(
      facts$span[lacking], cycle
    ))[short],
    if (length(apart) > 0) sprintf(
      "%s %s no ratio at some of the %d positions", in_words(apart, 4),
      if (length(apart) == 1) "has" else "have", cycle$length
    )
  )
  need <- glue(
    "A seasonal index needs two full cycles of {cycle$words} from the first to",
    "the last whole value, and a ratio at every position."
  )
  row <- vctrs::vec_match(keys_of(x), vctrs::vec_slice(keys, lacking))
  partial <- less_in_words(less_would_do(
    x, which(x$standing == "partial" & !is.na(row)), 0
  ))
  if (length(lacking) == length(name)) {
    rest <- all(facts$fault[lacking] == 3) && along$calendar$unit == "day"
    abort_backfill(
      "season", "{in_words(why, 4)}.",
      i = "{need}",
      i = "{partial}",
      ">" = if (rest) {
        "Where nothing is recorded on weekends, roll up by \"working day\"."
      } else if (is.null(partial)) {
        "Give it more periods, or name a shorter `cycle`."
      }
    )
  }
  warn_backfill(
    "season",
    "{count_of(length(lacking), 'series has', 'series have')} no index:",
    "{in_words(why, 4)}. {need} {partial}"
  )
}

check_season_above_zero <- function(facts, name, along) {
  below <- sum(facts$fault == 2)
  if (below == 0) {
    return()
  }
  at <- which(along$value <= 0)[[1]]
  start <- period_start(along$number[[at]], along$calendar)
  abort_backfill(
    "season",
    "{name[[first_rows(along)$line[[at]]]]} has a value of",
    "{plain_format(along$value[[at]])} in",
    "{period_label(start, along$calendar)}; a multiplicative season needs",
    "values above zero.",
    i = if (below > 1) "So have {below - 1} other series.",
    ">" = "Set `form` to \"additive\", whose seasons are differences."
  )
}

count_of_cycles <- function(span, cycle) {
  sprintf("%s, %s of %s", vapply(span, count_of, "", noun = "period"),
          sub(
            "1.0 cycles", "1 cycle",
            sprintf("%.1f cycles", floor(10 * span / cycle$length) / 10),
            fixed = TRUE
          ),
          cycle$words)
}
