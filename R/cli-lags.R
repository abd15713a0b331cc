# `backfill lags`: what the past says of the present.

command_lags <- function() {
  list(
    name = "lags",
    inputs = "FILE...",
    run = run_lags,
    about = paste(
      "Roll the dated records of a file up to regular periods, and",
      "correlate each series with itself some periods",
      "before: whether there is structure, seasonal or not, or no more than",
      "chance. Or correlate two series with each",
      "other, or look for the cycles that each series comes back after."
    ),
    options = c(
      reading_options(), narrowing_options(), rolling_options(), options_of(
        "autocorrelation", memory_map
      ),
      options_of("add_remainder", c(remainder = "")),
      list(
        verdict = cli_flag("Give a row for each series instead of each lag.")
      ),
      options_of("cross_correlation", cross_map), options_of(
        "suggest_cycle", c(cycles = "")
      ),
      without_events(output_options(
        "How the figure is drawn: coefficient (the default) or partial."
      ))
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      paste(
        "  backfill lags nights.csv --when month --series island --measure",
        "guest_nights:flow --figure memory.png"
      ),
      paste(
        "  backfill lags sailings.csv --when time --zone WET --measure",
        "north:flow --every day --cycles"
      ),
      paste(
        "  backfill lags nights.csv --when month --series island --measure",
        "guest_nights:flow --cross Ostrel,Vannow"
      )
    )
  )
}

memory_map <- c("lags", partials = "partial", "level", "band")
cross_map <- c(cross = "first", "made")

run_lags <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  if (sum(options$verdict, options$cycles, !is.null(options$cross)) > 1) {
    stop_usage(
      paste(
        "--verdict, --cycles and --cross are results of which one at a time",
        "can be given."
      )
    )
  }
  if (options$cycles) {
    refuse_options(options, "figure", "--cycles has none")
    refuse_options(
      options, names(option_map(memory_map)), "--cycles looks at all lags"
    )
  }
  if (!is.null(options$cross)) {
    refuse_options(
      options, c("band", "partials", "type"),
      "--cross has one band and one figure"
    )
  } else {
    refuse_options(options, "made", "`--cross` is not")
  }
  rolled <- roll_input(options, inputs)
  x <- rolled$periods
  of <- "value"
  if (options$remainder) {
    x <- add_remainder(x)
    of <- "remainder"
  }
  made <- drawn <- if (options$cycles) {
    suggest_cycle(x, of)
  } else if (!is.null(options$cross)) {
    two <- two_names(options$cross, "cross", "Ostrel,Vannow")
    of_two <- c(cross_map, "lags", "level")
    run_verb(
      "cross_correlation", x, replace(options, "cross", list(two[[1]])), of_two,
      second = two[[2]], of = of
    )
  } else {
    run_verb("autocorrelation", x, options, memory_map, of = of)
  }
  if (is.null(made)) {
    say("No series has a cycle that stands out from noise.")
    return(invisible())
  }
  if (options$verdict) {
    made <- summary(made)
  }
  put_result(
    made, rolled$aside, format, options, attr(made, "season")$sources,
    said = c(describe_standing(x), describe_result(drawn)),
    show = function() writeLines(result_lines(made)),
    draw = function() {
      if (is.null(options$cross)) autoplot(
        drawn, type = options$type %||% "coefficient", lift = options$lift
      ) else
        autoplot(drawn)
    }
  )
}
