# `backfill lags`: what the past says of the present.

command_lags <- function() {
  list(
    name = "lags",
    inputs = "FILE...",
    run = run_lags,
    about = paste(
      "Roll the dated records of a file up to regular periods, and correlate each series with itself some periods",
      "before: whether there is structure, seasonal or not, or no more than chance. Or correlate two series with each",
      "other, or look for the cycles that each series comes back after."
    ),
    options = c(
      reading_options(),
      rolling_options(),
      list(
        lags = cli_option("LENGTH", "How many lags, or a length of time. Default: two cycles."),
        band = cli_option("BAND", "What chance gives: \"white noise\" (the default) or \"large lag\"."),
        level = cli_option("SHARE", "The share of lags within the band by chance. Default: 0.95."),
        remainder = cli_flag("Correlate what is left without season and trend."),
        verdict = cli_flag("Give a row for each series instead of each lag."),
        cross = cli_option("FIRST,SECOND", paste(
          "Correlate two series, or measures, with each other: which leads, by how much."
        )),
        cycles = cli_flag("Give the cycles that series come back after.")
      ),
      without_events(output_options("How the figure is drawn: coefficient (the default) or partial."))
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      "  backfill lags nights.csv --when month --series island --measure guest_nights:flow --figure memory.png",
      "  backfill lags sailings.csv --when time --zone WET --measure north:flow --every day --cycles",
      "  backfill lags nights.csv --when month --series island --measure guest_nights:flow --cross Ostrel,Vannow"
    )
  )
}

run_lags <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  if (sum(options$verdict, options$cycles, !is.null(options$cross)) > 1) {
    stop_usage("--verdict, --cycles and --cross are results of which one at a time can be given.")
  }
  if (options$cycles) {
    refuse_options(options, "figure", "--cycles has none")
    refuse_options(options, c("lags", "band", "level"), "--cycles looks at all lags")
  }
  if (!is.null(options$cross)) {
    refuse_options(options, c("band", "type"), "--cross has one band and one figure")
  }
  rolled <- roll_input(options, inputs)
  x <- rolled$periods
  level <- number_or_text(options$level %||% "0.95")
  lags <- if (!is.null(options$lags)) number_or_text(options$lags)
  of <- "value"
  if (options$remainder) {
    x <- add_remainder(x)
    of <- "remainder"
  }
  made <- drawn <- if (options$cycles) {
    suggest_cycle(x, of)
  } else if (!is.null(options$cross)) {
    two <- two_names(options$cross, "cross", "Ostrel,Vannow")
    cross_correlation(x, two[[1]], two[[2]], lags, level = level, of = of)
  } else {
    autocorrelation(x, lags, level = level, band = options$band %||% "white noise", of = of)
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
    said = c(describe_standing(x), describe_result(drawn)), show = function() writeLines(result_lines(made)),
    draw = function() {
      if (is.null(options$cross)) autoplot(drawn, type = options$type %||% "coefficient", lift = options$lift) else
        autoplot(drawn)
    }
  )
}
