# `backfill periods`: records of a file, rolled up, with growth and a moving average.

command_periods <- function() {
  list(
    name = "periods",
    inputs = "FILE",
    run = run_periods,
    about = paste(
      "Roll the dated records of a delimited file up to regular periods, and add growth rates and a moving average.",
      "Every row is accounted for: one that cannot be used is set aside with its line and the reason."
    ),
    options = c(
      list(
        when = cli_option("COLUMN", "The column with the date or time, in ISO 8601. Required."),
        measure = cli_option("NAME:KIND[:UNIT]", paste(
          "A column of figures and its kind: flow (added up, such as sales) or level (averaged, such as a price).",
          "The unit labels the figure's axis. Required; give it once for each measure."
        ), repeats = TRUE),
        series = cli_option("COLUMN", paste(
          "A column that tells one series from another, such as island. Give it once for each such column."
        ), repeats = TRUE),
        every = cli_option("LENGTH", "Length of the periods: day, week, month (the default), quarter or year."),
        zone = cli_option("ZONE", "Zone of the tz database whose clock the times show, such as WET. Default: UTC."),
        cadence = cli_option("LENGTH", paste(
          "How often something is recorded, such as hour or day, or irregular. Found from the records by default;",
          "it decides which periods are partial."
        )),
        enough = cli_option("SHARE", "The coverage from which a period counts as complete. Default: 1, all of it."),
        over = cli_option("LENGTH", paste(
          "Add growth over LENGTH: a number of periods, or such as \"1 year\"; none for no growth. Give it once for",
          "each growth. Default: over 1 period and over 1 year."
        ), repeats = TRUE),
        window = cli_option("LENGTH", paste(
          "Add the mean of a moving window of LENGTH: a number of periods, or such as \"1 year\"; none for no moving",
          "average. Default: 7 days, 52 weeks, 12 months, 4 quarters; none for years."
        )),
        align = cli_option("ALIGN", "Where the window lies: trailing (the default) or centred.")
      ),
      output_options()
    ),
    notes = c(
      "Examples:",
      "  backfill periods landings.csv --when date --measure kilos:flow",
      "  backfill periods nights.csv --when month --series island --measure guest_nights:flow --every quarter",
      "  backfill periods prices.csv --when date --measure price:level:shillings --every week \\",
      "    --window \"4 weeks\" --out weekly.csv --figure weekly.png"
    )
  )
}

run_periods <- function(options, inputs) {
  for (needed in c("when", "measure")) {
    if (is.null(options[[needed]])) {
      stop_usage(sprintf("`%s` is not given.", needed), ">" = "See `backfill periods --help`.")
    }
  }
  file <- inputs[[1]]
  format <- check_outputs(options, file)
  # Before the file is read: what is wrong with these does not depend on it.
  every <- check_every(options$every %||% "month", call = NULL)
  measures <- named_measures(options$measure)
  records <- doing(paste("Reading", basename(file)), {
    read_records(file, when = options$when, measures = measures, series = options$series,
                 zone = options$zone %||% "UTC")
  })
  if (!options$quiet) {
    say(intake_text(intake(records), 10, "`--aside FILE` writes all of them."), "")
  }
  periods <- doing("Rolling up", {
    rolled <- roll_up(records, every = every, cadence = options$cadence,
                      enough = number_or_text(options$enough %||% "1"))
    add_calculations(rolled, options)
  })
  if (!options$quiet) {
    say(wrapped(in_options(describe_periods(periods))), "")
  }
  put_periods(periods, set_aside(records), format, options)
}

add_calculations <- function(x, options) {
  every <- roles(x)$every
  for (over in setdiff(options$over %||% unique(c("1", if (every != "year") "1 year")), "none")) {
    x <- add_growth(x, over = number_or_text(over))
  }
  window <- options$window %||% one_cycle[[every]]
  if (window != "none") {
    x <- add_moving(x, window = number_or_text(window), align = options$align %||% "trailing")
  }
  x
}

# The default window: over a whole cycle the season averages out.
one_cycle <- c(day = "7", week = "52", month = "12", quarter = "4", year = "none")

# "north:flow:boardings" to list(north = measure("flow", "boardings")). A name may hold colons itself.
named_measures <- function(texts) {
  form <- sprintf("^(.+?):(%s)(?::(.+))?$", paste(measure_kinds, collapse = "|"))
  parts <- regmatches(texts, regexec(form, texts, perl = TRUE))
  odd <- texts[lengths(parts) == 0]
  if (length(odd) > 0) {
    stop_kindless(odd[[1]])
  }
  measures <- lapply(parts, function(part) measure(part[[3]], unit = if (nzchar(part[[4]])) part[[4]]))
  stats::setNames(measures, vapply(parts, `[[`, "", 2))
}

stop_kindless <- function(text) {
  if (grepl(":", text, fixed = TRUE)) {
    measure(sub(".*:", "", text)) # which says what kinds there are
  }
  stop_usage(sprintf("`measure` is \"%s\", which names no kind.", text),
             i = sprintf("It must be such as \"%s:flow\" or \"%s:level\".", text, text))
}
