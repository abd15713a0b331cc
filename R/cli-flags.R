# `backfill flags`: the periods that depart from their past.

command_flags <- function() {
  list(
    name = "flags",
    inputs = "FILE...",
    run = run_flags,
    about = paste(
      "Flag the periods that depart from a baseline made of prior ones.",
      "That is the season where one was known by then, else the last periods,",
      "unless --against names another. With --fail-on-flag it exits with",
      "status 3 where anything is flagged, for a scheduled job."
    ),
    options = c(
      input_options(), options_of("flag_periods", flags_map),
      list(
        flagged = cli_flag(
          "Give the flagged periods alone, the largest first."
        ),
        episodes = cli_flag(
          "Give runs of flagged periods, and shifts of 8 or more on one side."
        ),
        since = cli_option("DATE", paste(
          "Give, draw and fail on periods from DATE on only; earlier ones",
          "serve as their past."
        )),
        "fail-on-flag" = cli_flag(
          "Exit with status 3 where anything is flagged."
        )
      ),
      options_of_verbs(unflagged_verbs),
      output_options("Not used.")[
        c("format", "out", "figure", "size", "aside", "highlight", "quiet")
      ]
    ),
    examples = c(
      "backfill flags inns.csv --figure flags.png",
      "backfill flags crossings.csv --every day --flagged --since 2031-12-01"
    ),
    wants = c(
      "Find odd periods" = "flags FILE"
    )
  )
}

flags_map <- c(
  "against", "beyond", "beyond_all", "direction", "floor", "last", "need",
  "stat", "cycle", "form", "exclude_flagged", "spread_of"
)
# What is given instead of flags.
unflagged_verbs <- list(
  add_anomaly = c(
    anomaly = "position", standardised = "standardised", smooth = "smooth",
    running = "running", reference = "reference"
  ),
  turning_points = c(turning = "span")
)

run_flags <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  flagging <- c(names(option_map(flags_map)), "since", "fail-on-flag")
  asked <- result_asked(options, c(
    list(plain = flagging, flagged = flagging, episodes = flagging),
    options_of_results(unflagged_verbs)
  ))
  rolled <- roll_input(options, inputs)
  if (!asked %in% options_asking(unflagged_verbs)) {
    flags <- run_verb("flag_periods", rolled$periods, options, flags_map)
    return(put_flags(flags, rolled$aside, format, options))
  }
  verb <- verb_asked(unflagged_verbs, asked)
  made <- run_verb(verb, rolled$periods, options, unflagged_verbs[[verb]])
  if (asked == "turning") {
    standing <- describe_standing(rolled$periods)
    return(put_finding(made, rolled$aside, format, options, before = standing))
  }
  of <- if (options$running) "running_anomaly" else "anomaly"
  put_periods(made, rolled$aside, format, options, of = of)
}

put_flags <- function(flags, aside, format, options) {
  if (!is.null(options$since)) {
    flags <- flags_since(flags, options$since)
  }
  made <- flags
  if (options$flagged) made <- summary(flags)
  if (options$episodes) made <- summary(flags, type = "episodes")
  put_finding(flags, aside, format, options, shown = made, rows = 24)
  if (options[["fail-on-flag"]] && any(flags$flag %in% TRUE)) {
    signalCondition(structure(
      class = c("backfill_flagged", "condition"),
      list(message = "flagged", call = NULL)
    ))
  }
}

flags_since <- function(flags, since) {
  about <- facts(flags)
  calendar <- lay_calendar_over(about$calendar, flags$period)
  flags[
    period_number(flags$period, calendar) >= period_number(
      as_moments(since, "since", calendar$zone), calendar
    ),

  ]
}
