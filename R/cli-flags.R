# `backfill flags`: the periods that depart from their past.

command_flags <- function() {
  list(
    name = "flags",
    inputs = "FILE...",
    run = run_flags,
    about = paste(
      "Roll the dated records of a file up to regular periods, and flag",
      "those that depart from a baseline made of",
      "prior periods alone. With --fail-on-flag it exits with status 3",
      "where anything is flagged, for a scheduled job."
    ),
    options = c(
      reading_options(), narrowing_options(), rolling_options(), options_of(
        "flag_periods", flags_map
      ),
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
      options_of("add_anomaly", anomaly_map), options_of(
        "turning_points", turning_map
      ),
      output_options("Not used.")[
        c("format", "out", "figure", "size", "aside", "lift", "quiet")
      ]
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      paste(
        "  backfill flags nights.csv --when month --series island --measure",
        "guest_nights:flow \\"
      ),
      paste(
        "    --against \"same position\" --beyond percent:10 --beyond sd:2",
        "--beyond-all --figure flags.png"
      ),
      paste(
        "  backfill flags meters.csv --when date --measure kwh:flow --every",
        "day --against season --flagged \\"
      ),
      "    --since 2031-12-01 --fail-on-flag --quiet"
    )
  )
}

flags_map <- c(
  "against", "beyond", "beyond_all", "direction", "floor", "last", "need",
  "stat", "cycle", "form", "keep_out"
)
anomaly_map <- c(
  anomaly = "from", "standardised", "smooth", running = "running", "reference"
)
turning_map <- c(turning = "span")

run_flags <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  asked <- given_options(
    options, c("flagged", "episodes", "anomaly", "turning")
  )
  if (length(asked) > 1) {
    stop_usage(sprintf(
      "%s are given, but one result at a time can be.",
      in_words(paste0("--", asked))
    ))
  }
  of_flags <- !any(c("anomaly", "turning") %in% asked)
  if (!of_flags) {
    refuse_options(
      options, c(names(option_map(flags_map)), "since", "fail-on-flag"),
      sprintf("--%s flags nothing", asked)
    )
  }
  if (!identical(asked, "anomaly")) {
    refuse_options(
      options, names(option_map(anomaly_map))[-1], "`--anomaly` is not"
    )
  }
  rolled <- roll_input(options, inputs)
  if (of_flags) {
    put_flags(
      run_verb("flag_periods", rolled$periods, options, flags_map),
      rolled$aside, format, options
    )
  } else if (asked == "anomaly") {
    made <- run_verb("add_anomaly", rolled$periods, options, anomaly_map)
    put_periods(made, rolled$aside, format, options, of = if (options$running) {
      "running_anomaly"
    } else {
      "anomaly"
    })
  } else {
    put_one(
      run_verb("turning_points", rolled$periods, options, turning_map), rolled,
      format, options
    )
  }
}

put_flags <- function(flags, aside, format, options) {
  if (!is.null(options$since)) {
    flags <- flags_since(flags, options$since)
  }
  made <- flags
  if (options$flagged) made <- summary(flags)
  if (options$episodes) made <- summary(flags, type = "episodes")
  put_result(
    made, aside, format, options, attr(made, "season")$sources,
    said = describe_result(flags),
    show = function() writeLines(result_lines(made)),
    draw = function() autoplot(flags, lift = options$lift)
  )
  if (options[["fail-on-flag"]] && any(flags$flag %in% TRUE)) {
    signalCondition(structure(
      class = c("backfill_flagged", "condition"),
      list(message = "flagged", call = NULL)
    ))
  }
}

flags_since <- function(flags, since) {
  about <- attr(flags, "season")
  calendar <- lay_calendar_over(about$calendar, flags$period)
  flags[
    period_number(flags$period, calendar) >= period_number(
      as_moments(since, "since", NULL), calendar
    ),

  ]
}
