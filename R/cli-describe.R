# `backfill describe`: what series are like, what is latest, how groups and
# series differ, and where levels shifted.

command_describe <- function() {
  list(
    name = "describe",
    inputs = "FILE...",
    run = run_describe,
    about = paste(
      "Describe the middle, spread, ends and outliers of each series.",
      "Or give the latest figures, whether groups or series differ by more",
      "than chance, where the level shifted, or whether an equation holds."
    ),
    options = c(
      input_options(),
      options_of_verbs(c(describe_verbs, returns_verb)),
      list(
        outliers = cli_flag("Give the outliers of a description."),
        broken = cli_flag("Give the periods alone in which an equation fails."),
        verdict = cli_flag(
          "Give a row for each series instead of each group or shift."
        )
      ),
      without_events(output_options(
        "How a description is drawn: boxes (the default) or histogram."
      ))
    ),
    examples = c(
      "backfill describe inns.csv --figure boxes.png",
      "backfill describe crossings.csv --every day --differ --groups weekend"
    ),
    wants = c(
      "Describe spread and outliers" = "describe FILE",
      "Compare groups" = "describe FILE --differ --groups weekend",
      "Compare series" = "describe FILE --compare",
      "Date a shift of level" = "describe FILE --shifts"
    )
  )
}

describe_verbs <- list(
  series_summary = c(groups = "by", probs = "probs"),
  latest = c(latest = "", on = "on", highest = "n"),
  group_differences = c(
    differ = "", stat = "stat", block = "block", confidence = "confidence",
    draws = "draws", seed = "seed"
  ),
  series_differences = c(compare = "", against = "against"),
  level_shifts = c(
    shifts = "", most = "most", least = "least", season = "season",
    line = "line"
  ),
  check_identity = c(identity = "identity", tolerance = "tolerance")
)

# What each result uses; an equation is one of values.
describe_results <- list(
  plain = c("groups", "probs", "outliers", "type", returns_options),
  latest = c("on", "highest", returns_options),
  differ = c(
    "groups", "stat", "block", "confidence", "draws", "seed", "verdict",
    returns_options
  ),
  compare = c("against", "confidence", returns_options),
  shifts = c(
    "most", "least", "season", "line", "confidence", "seed", "verdict",
    returns_options
  ),
  identity = c("tolerance", "broken")
)

run_describe <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  asked <- result_asked(options, describe_results)
  if (options$outliers) {
    refuse_options(options, "probs", "--outliers gives no quantiles")
  }
  if (asked == "differ" && is.null(options$groups)) {
    stop_usage(
      "`--differ` is given, but nothing that groups the periods.",
      ">" = "Give `--groups` too, such as `--groups weekend`."
    )
  }
  rolled <- roll_input(options, inputs)
  found <- description_asked(rolled$periods, options, asked)
  short <- any(unlist(options[c("outliers", "verdict", "broken")]))
  shown <- if (short) summary(found) else found
  put_finding(
    found, rolled$aside, format, options,
    before = describe_standing(rolled$periods), shown = shown,
    draw = function() {
      if (asked == "plain") {
        type <- options$type %||% "boxes"
        return(autoplot(found, type = type, highlight = options$highlight))
      }
      autoplot(found, highlight = options$highlight)
    }
  )
}

description_asked <- function(x, options, asked) {
  verb <- switch(
    asked, latest = "latest", differ = "group_differences",
    compare = "series_differences", shifts = "level_shifts",
    identity = "check_identity", "series_summary"
  )
  map <- describe_verbs[[verb]]
  if (verb == "group_differences") map <- c(map, groups = "by")
  if (verb == "level_shifts") {
    map <- c(map, confidence = "confidence", seed = "seed")
  }
  if (verb == "series_differences") map <- c(map, confidence = "confidence")
  if (verb == "check_identity") {
    return(run_verb(verb, x, options, map))
  }
  looked <- of_returns(x, options)
  run_verb(verb, looked$periods, options, map, of = looked$of)
}
