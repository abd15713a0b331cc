# `backfill periods`: records of a file, rolled up, with growth and a moving
# average.

command_periods <- function() {
  list(
    name = "periods",
    inputs = "FILE...",
    run = run_periods,
    about = paste(
      "Roll the dated records of a file up to regular periods, and add",
      "growth rates and a moving average.",
      "Every row is accounted for: one that cannot be used is set aside",
      "with its line and the reason."
    ),
    options = c(
      reading_options(), narrowing_options(), rolling_options(),
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
      options_of("widen", wide_map), options_of("gaps", gaps_map), options_of(
        "rank_series", leaders_map
      ),
      output_options()
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      "  backfill periods landings.csv --when date --measure kilos:flow",
      paste(
        "  backfill periods nights.csv --when month --series island",
        "--measure guest_nights:flow --every quarter"
      ),
      paste(
        "  backfill periods prices.csv --when date --measure",
        "price:level:shillings --every week \\"
      ),
      "    --window \"4 weeks\" --out weekly.csv --figure weekly.png"
    )
  )
}

input_note <- c(
  paste(
    "FILE is delimited text, gzip, a workbook, JSON, Parquet, SQLite or",
    "NetCDF, an http(s) address, a pattern in"
  ),
  "quotation marks, or - for standard input."
)

wide_map <- c(wide = "side", "wide-partial" = "partial")
gaps_map <- c(gaps = "")
leaders_map <- c(leaders = "at", "leaders-count" = "n")

run_periods <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  asked <- given_options(options, c("wide", "gaps", "leaders"))
  if (length(asked) > 1) {
    stop_usage(sprintf(
      "%s are given, but one result at a time can be.",
      in_words(paste0("--", asked))
    ))
  }
  if (length(asked) == 1) {
    refuse_options(
      options, c("over", "window", "align"),
      sprintf("--%s shows the values alone", asked)
    )
  }
  for (map in list(wide_map, leaders_map)) {
    if (!is_given(options[[names(map)[[1]]]])) {
      refuse_options(
        options, names(map)[-1], sprintf("`--%s` is not", names(map)[[1]])
      )
    }
  }
  rolled <- roll_input(options, inputs)
  x <- if (length(asked) == 0) {
    add_calculations(rolled$periods, options)
  } else {
    rolled$periods
  }
  put_periods(
    x, rolled$aside, format, options, instead = of_periods(x, asked, options)
  )
}

# A result that is given instead of the periods, where one is asked for.
of_periods <- function(x, asked, options) {
  maps <- list(wide = wide_map, gaps = gaps_map, leaders = leaders_map)
  verb <- c(wide = "widen", gaps = "gaps", leaders = "rank_series")
  if (length(asked) == 1) run_verb(verb[[asked]], x, options, maps[[asked]])
}

add_calculations <- function(x, options) {
  every <- roles(x)$calendar
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
