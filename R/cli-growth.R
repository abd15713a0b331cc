# `backfill growth`: how much each period grew over earlier ones.

command_growth <- function() {
  list(
    name = "growth",
    inputs = "FILE...",
    run = run_growth,
    about = paste(
      "Roll the dated records of a file up to regular periods, and add their growth over one or several spans of time.",
      "A figure that means nothing, such as growth from zero, is not given, and the reason is counted."
    ),
    options = c(
      reading_options(),
      rolling_options(),
      list(
        over = cli_option("LENGTH", paste(
          "Growth over LENGTH: a number of periods, or such as \"1 year\". Give it once for each. Default: 1."
        ), repeats = TRUE),
        as = cli_option("FORM", paste(
          "percent (the default), ratio, difference, log, annualised (percent a year) or points (percentage points,",
          "for measures in percent)."
        )),
        ahead = cli_flag("Growth still to come, from each period on: a target, which explains nothing."),
        oldest = cli_option("PERIODS", paste(
          "Where a base has no whole value, take the latest that lies no more than PERIODS before it. Default: 0."
        )),
        bands = cli_option("BREAKS", paste(
          "Sort the first growth into bands that meet at BREAKS, such as \"-5, 0, 5\", and count them."
        )),
        rank = cli_option("COUNT", paste(
          "Give the COUNT largest movements from one period to the next instead of all periods."
        ))
      ),
      output_options("How the figure is drawn: bars (the default), lines, years or distribution.")
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      "  backfill growth nights.csv --when month --series island --measure guest_nights:flow --over \"1 year\" \\",
      "    --figure growth.png",
      "  backfill growth prices.csv --when date --measure price:level --every day --over 1 --over \"30 days\" \\",
      "    --oldest 7"
    )
  )
}

run_growth <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  breaks <- if (!is.null(options$bands)) numbers_of(options$bands, "bands")
  rolled <- roll_input(options, inputs)
  periods <- rolled$periods
  before <- names(periods)
  for (over in options$over %||% "1") {
    periods <- add_growth(periods, over = number_or_text(over), as = options$as %||% "percent", ahead = options$ahead,
                          oldest = number_or_text(options$oldest %||% "0"))
  }
  grown <- setdiff(names(periods), before)
  if (!is.null(breaks)) {
    periods <- add_bands(periods, breaks, of = grown[[1]])
  }
  ranked <- if (!is.null(options$rank)) {
    as <- if (identical(options$as, "difference")) "difference"
    for_options(c(n = "rank"), rank_changes(periods, number_or_text(options$rank), as = as))
  }
  put_periods(periods, rolled$aside, format, options, of = grown[[1]], instead = ranked)
}

# "-5, 0, 5"
numbers_of <- function(text, option) {
  numbers <- suppressWarnings(as.numeric(strsplit(text, ",")[[1]]))
  if (length(numbers) == 0 || anyNA(numbers)) {
    stop_usage(sprintf("`%s` is %s.", option, quoted(text)),
               i = "It must be numbers with commas between them: \"-5, 0, 5\".")
  }
  numbers
}
