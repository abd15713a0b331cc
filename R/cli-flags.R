# `backfill flags`: the periods that depart from their past.

command_flags <- function() {
  list(
    name = "flags",
    inputs = "FILE...",
    run = run_flags,
    about = paste(
      "Roll the dated records of a file up to regular periods, and flag those that depart from a baseline made of",
      "prior periods alone. With --fail-on-flag it exits with status 3 where anything is flagged, for a scheduled job."
    ),
    options = c(
      reading_options(),
      rolling_options(),
      list(
        against = cli_option("BASELINE", paste(
          "What periods are compared with: \"previous period\", \"same position\" (a cycle before), \"last periods\"",
          "(the default), season, or \"year to date\"."
        )),
        beyond = cli_option("LIMIT:NUMBER", paste(
          "The limit: percent:10, amount:50, sd:3 (standard deviations of past deviations; the default), mad:3.5",
          "(robust ones) or quantile:0.95. May repeat; beyond any is flagged."
        ), repeats = TRUE),
        "beyond-all" = cli_flag("Flag only what is beyond all limits."),
        direction = cli_option("DIRECTION", "both (the default), up or down."),
        floor = cli_option("AMOUNT", "The least deviation for which a percentage counts. Default: 0."),
        last = cli_option("COUNT", "How many periods, or cycles, make the baseline."),
        need = cli_option("COUNT", "How many of them must be there. Default: half."),
        stat = cli_option("STATISTIC", "mean (the default), median or smoothed."),
        cycle = cli_option("LENGTH", "The cycle, such as \"1 year\". By default that of the periods."),
        form = cli_option("FORM", "Of a season: multiplicative (the default) or additive."),
        "keep-out" = cli_flag("Keep flagged periods out of later baselines."),
        flagged = cli_flag("Give the flagged periods alone, the largest first."),
        episodes = cli_flag("Give runs of flagged periods, and shifts of 8 or more on one side."),
        since = cli_option("DATE", paste(
          "Give, draw and fail on periods from DATE on only; earlier ones serve as their past."
        )),
        "fail-on-flag" = cli_flag("Exit with status 3 where anything is flagged.")
      ),
      output_options("Not used.")[c("format", "out", "figure", "size", "aside", "lift", "quiet")]
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      "  backfill flags nights.csv --when month --series island --measure guest_nights:flow \\",
      "    --against \"same position\" --beyond percent:10 --beyond sd:2 --beyond-all --figure flags.png",
      "  backfill flags meters.csv --when date --measure kwh:flow --every day --against season --flagged \\",
      "    --since 2031-12-01 --fail-on-flag --quiet"
    )
  )
}

run_flags <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  if (options$flagged && options$episodes) {
    stop_usage("--flagged and --episodes are results of which one at a time can be given.")
  }
  beyond <- limits_of_options(options$beyond %||% "sd:3")
  rolled <- roll_input(options, inputs)
  number <- function(name) if (!is.null(options[[name]])) number_or_text(options[[name]])
  flags <- flag_periods(
    rolled$periods, options$against %||% "last periods", beyond, direction = options$direction %||% "both",
    floor = number("floor") %||% 0, need = number("need"), last = number("last"), stat = options$stat %||% "mean",
    cycle = number("cycle"), form = options$form %||% "multiplicative", beyond_all = options[["beyond-all"]],
    keep_out = options[["keep-out"]]
  )
  if (!is.null(options$since)) {
    flags <- flags_since(flags, options$since)
  }
  made <- if (options$flagged) summary(flags) else if (options$episodes) summary(flags, type = "episodes") else flags
  put_result(
    made, rolled$aside, format, options, attr(made, "season")$sources, said = describe_result(flags),
    show = function() writeLines(result_lines(made)), draw = function() autoplot(flags, lift = options$lift)
  )
  if (options[["fail-on-flag"]] && any(flags$flag %in% TRUE)) {
    signalCondition(structure(class = c("backfill_flagged", "condition"), list(message = "flagged", call = NULL)))
  }
}

# "percent:10" and "sd:2" to c(percent = 10, sd = 2).
limits_of_options <- function(texts) {
  parts <- strsplit(texts, ":", fixed = TRUE)
  number <- suppressWarnings(as.numeric(vapply(parts, function(part) part[2], "")))
  if (any(lengths(parts) != 2) || anyNA(number)) {
    stop_usage(sprintf("`beyond` is %s.", in_words(quoted(texts))),
               i = "It must be a limit and a number, such as percent:10 or sd:3.")
  }
  stats::setNames(number, vapply(parts, `[[`, "", 1))
}

flags_since <- function(flags, since) {
  about <- attr(flags, "season")
  calendar <- lay_calendar_over(about$calendar, flags$period)
  flags[period_number(flags$period, calendar) >= period_number(as_moments(since, "since", NULL), calendar), ]
}
