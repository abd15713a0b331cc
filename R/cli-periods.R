# `backfill periods`: records of a file, rolled up, with growth and a moving
# average.

command_periods <- function() {
  list(
    name = "periods",
    inputs = "FILE...",
    run = run_periods,
    about = paste(
      "Roll dated records up to regular periods, with every row accounted for.",
      "A row that cannot be used is set aside with its line and the reason."
    ),
    options = c(
      input_options(),
      list(
        over = cli_option("LENGTH", paste(
          "Add growth over LENGTH: a number of periods, or such as \"1",
          "year\"; none for no growth. Give it once for",
          "each growth. Default: over 1 period and over 1 year."
        ), repeats = TRUE),
        window = cli_option("LENGTH", paste(
          "Add the mean of a moving window of LENGTH: a number of periods,",
          "or such as \"1 year\"; none for no moving",
          "average. Default: 7 days, 52 weeks, 12 months, 4 quarters; none",
          "for years."
        )),
        align = cli_option(
          "ALIGN", "Where the window lies: trailing (the default) or centred."
        )
      ),
      options_of_verbs(instead_verbs), output_options()
    ),
    examples = c(
      "backfill periods inns.csv --every quarter",
      "backfill periods landings.csv --gaps"
    ),
    wants = c(
      "Roll up to regular periods" = "periods FILE"
    )
  )
}

# Results that are given instead of the periods.
instead_verbs <- list(
  widen = c(wide = "side", "wide-partial" = "partial"),
  gaps = c(gaps = ""),
  rank_series = c(leaders = "at", "leaders-count" = "n")
)

run_periods <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  asked <- result_asked(options, c(
    list(plain = c("over", "window", "align")),
    options_of_results(instead_verbs)
  ))
  rolled <- roll_input(options, inputs)
  if (asked == "plain") {
    x <- add_calculations(rolled$periods, options)
    return(put_periods(x, rolled$aside, format, options))
  }
  verb <- verb_asked(instead_verbs, asked)
  made <- run_verb(verb, rolled$periods, options, instead_verbs[[verb]])
  put_instead(made, rolled$periods, rolled$aside, format, options)
}

add_calculations <- function(x, options) {
  every <- facts(x)$calendar
  for (
    over in setdiff(
      options$over %||% c("1", if (has_cycle(every)) "1 year"), "none"
    )
  ) {
    x <- add_growth(x, over = number_or_text(over))
  }
  window <- options$window %||% (if (has_cycle(every)) {
    one_cycle[[every$unit]]
  } else {
    "none"
  })
  if (window == "none") {
    x
  } else {
    add_moving(x, window = number_or_text(window), align = options$align)
  }
}

# The default window: over a whole cycle the season averages out.
one_cycle <- c(hour = "24", day = "7", week = "52", month = "12", quarter = "4")

has_cycle <- function(calendar) {
  calendar$number == 1 &&
    calendar$unit %in% names(one_cycle)
}
