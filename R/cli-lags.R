# `backfill lags`: what the past says of the present.

command_lags <- function() {
  list(
    name = "lags",
    inputs = "FILE...",
    run = run_lags,
    about = paste(
      "See whether a series follows its own past, by season or by memory.",
      "Or correlate two series over many lags, or look for the cycles after",
      "which each series comes back."
    ),
    options = c(
      input_options(), options_of_verbs(lags_verbs),
      list(
        verdict = cli_flag("Give a row for each series instead of each lag.")
      ),
      without_events(output_options(
        "How the figure is drawn: coefficient (the default) or partial."
      ))
    ),
    examples = c(
      "backfill lags inns.csv --figure memory.png",
      "backfill lags crossings.csv --every day --cycles"
    ),
    wants = c(
      "See memory, and find cycles" = "lags FILE --cycles"
    )
  )
}

lags_verbs <- list(
  autocorrelation = c(
    lags = "lags", partials = "partial_coefficients",
    confidence = "confidence", limits = "limits"
  ),
  add_remainder = c(remainder = ""),
  cross_correlation = c(cross = "first", on = "on"),
  suggest_cycle = c(cycles = "")
)

# What each result uses.
lags_results <- list(
  plain = c("lags", "partials", "confidence", "limits", "type", "figure"),
  verdict = c("lags", "confidence", "limits", "type", "figure"),
  cross = c("on", "lags", "confidence", "figure"), cycles = character()
)

run_lags <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  asked <- result_asked(options, lags_results)
  rolled <- roll_input(options, inputs)
  x <- if (options$remainder) add_remainder(rolled$periods) else rolled$periods
  found <- of_the_past(x, options)
  put_finding(
    found, rolled$aside, format, options, before = describe_standing(x),
    shown = if (options$verdict) summary(found) else found,
    draw = function() {
      if (asked == "cross") {
        return(autoplot(found))
      }
      type <- options$type %||% "coefficient"
      autoplot(found, type = type, highlight = options$highlight)
    }
  )
}

of_the_past <- function(x, options) {
  of <- if (options$remainder) "remainder" else "value"
  if (options$cycles) {
    return(suggest_cycle(x, of))
  }
  if (is_given(options$cross)) {
    map <- c(
      lags_verbs$cross_correlation, lags = "lags", confidence = "confidence"
    )
    return(run_verb("cross_correlation", x, options, map, of = of))
  }
  run_verb("autocorrelation", x, options, lags_verbs$autocorrelation, of = of)
}
