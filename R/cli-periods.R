# `backfill periods`: records of a file, rolled up, with growth and a moving average.

command_periods <- function() {
  list(
    name = "periods",
    inputs = "FILE...",
    run = run_periods,
    about = paste(
      "Roll the dated records of a file up to regular periods, and add growth rates and a moving average.",
      "Every row is accounted for: one that cannot be used is set aside with its line and the reason."
    ),
    options = c(
      reading_options(),
      list(
        every = cli_option("LENGTH", paste(
          "Length of the periods: hour, day, week, month (the default), quarter, year, a number of these such as",
          "\"10 days\", third (of a month) or \"working day\"."
        )),
        cadence = cli_option("LENGTH", paste(
          "How often something is recorded, such as hour or day, or irregular. Found from the records by default;",
          "it decides which periods are partial."
        )),
        enough = cli_option("SHARE", "The coverage from which a period counts as complete. Default: 1, all of it."),
        by = cli_option("COLUMN", paste(
          "Put the series together but for those that COLUMN tells apart; none for all of them. May repeat."
        ), repeats = TRUE),
        use = cli_option("[NAME:]STATISTIC", paste(
          "The statistic of the measure NAME, or of all: sum, mean, first, last, lowest, highest, median, sd, count,",
          "slots or a quantile such as 90%. Several of one measure make a measure each. By default its kind decides."
        ), repeats = TRUE),
        absent = cli_option("[NAME:]MEANING", paste(
          "What the lack of records means: zero for a flow, spread for a counter, whose rise over missing readings is",
          "then spread over them."
        ), repeats = TRUE),
        together = cli_option("NAME:HOW", paste(
          "With --by, what becomes of a level NAME of several series: mean, sum, or the measure that weighs them."
        ), repeats = TRUE),
        partial = cli_option("WHAT", "First and last periods that are partial: keep (the default), drop or scale."),
        fill = cli_option("METHOD", "Fill empty periods: carry, linear, seasonal or zero."),
        longest = cli_option("LENGTH", "The longest run of periods to fill."),
        "week-start" = cli_option("DAY", "First day of the week. Default: Monday."),
        anchor = cli_option("DATE", "A day on which a period of several days, weeks, months or years starts."),
        workdays = cli_option("DAY", paste(
          "A weekday on which something is expected; may repeat. Default: every day, or Monday to Friday with",
          "--holidays."
        ), repeats = TRUE),
        holidays = cli_option("FILE", "An iCalendar file of days on which nothing is expected."),
        "per-day" = cli_flag("Add flows per day, or per working day with --workdays or --holidays."),
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
      "FILE is delimited text, gzip, a workbook, JSON, Parquet, SQLite or NetCDF, an http(s) address, a pattern in",
      "quotation marks, or - for standard input.",
      "",
      "Examples:",
      "  backfill periods landings.csv --when date --measure kilos:flow",
      "  backfill periods nights.csv --when month --series island --measure guest_nights:flow --every quarter",
      "  backfill periods prices.csv --when date --measure price:level:shillings --every week \\",
      "    --window \"4 weeks\" --out weekly.csv --figure weekly.png"
    )
  )
}

run_periods <- function(options, inputs) {
  for (needed in c("measure", if (!grid_input(inputs)) "when")) {
    if (is.null(options[[needed]]) && !(needed == "when" && identical(options$layout, "dates across"))) {
      stop_usage(sprintf("`%s` is not given.", needed), ">" = paste(
        "See `backfill periods --help`; `backfill inspect FILE` finds out how a file is to be read."
      ))
    }
  }
  format <- check_outputs(options, inputs)
  # Before the file is read: what is wrong with these does not depend on it.
  calendar <- calendar_of_options(options)
  records <- read_input(options, inputs)
  if (!options$quiet) {
    account <- intake(records)
    odd <- describe_suspicious(account)
    say(intake_text(account, 10, "`--aside FILE` writes all of them."), if (length(odd) > 0) c("", wrapped(odd)), "")
  }
  periods <- doing("Rolling up", {
    rolled <- roll_up(
      records, every = calendar, by = if (identical(options$by, "none")) character() else options$by,
      use = by_measure(options$use, records), absent = by_measure(options$absent, records),
      partial = options$partial %||% "keep", cadence = options$cadence,
      enough = number_or_text(options$enough %||% "1"), together = by_measure(options$together, records)
    )
    if (!is.null(options$fill)) {
      rolled <- impute_gaps(rolled, options$fill, longest = number_or_text(options$longest %||% "Inf"))
    }
    add_calculations(rolled, options)
  })
  if (!options$quiet) {
    say(wrapped(in_options(describe_periods(periods))), "")
  }
  put_periods(periods, set_aside(records), format, options)
}

add_calculations <- function(x, options) {
  every <- roles(x)$calendar
  for (over in setdiff(options$over %||% c("1", if (has_cycle(every)) "1 year"), "none")) {
    x <- add_growth(x, over = number_or_text(over))
  }
  window <- options$window %||% (if (has_cycle(every)) one_cycle[[every$unit]] else "none")
  if (window != "none") {
    x <- add_moving(x, window = number_or_text(window), align = options$align %||% "trailing")
  }
  if (isTRUE(options[["per-day"]])) add_per_day(x, working = every$workdays) else x
}

calendar_of_options <- function(options) {
  fiscal <- number_or_text(options[["year-start"]] %||% "1")
  rlang::try_fetch(
    calendar(
      options$every %||% "month", week_start = options[["week-start"]] %||% "Monday", year_start = fiscal,
      anchor = options$anchor, workdays = options$workdays,
      holidays = if (!is.null(options$holidays)) read_holidays(options$holidays)
    ),
    backfill_error = function(cnd) {
      cnd$call <- NULL
      rlang::cnd_signal(cnd)
    }
  )
}

# "price:last" and "kilos:sum" to list(price = "last", kilos = "sum"), several of one measure together. One alone
# without a name is for all, and where there is one measure there is no need of its name.
by_measure <- function(texts, records) {
  if (is.null(texts)) {
    return(NULL)
  }
  names <- names(roles(records)$measures)
  of <- vapply(texts, function(text) {
    fits <- names[startsWith(text, paste0(names, ":"))]
    if (length(fits) > 0) fits[[which.max(nchar(fits))]] else ""
  }, "")
  if (all(of == "") && (length(texts) == 1 || length(names) == 1)) {
    return(if (length(texts) == 1) texts else stats::setNames(list(texts), names))
  }
  if (any(of == "")) {
    text <- texts[of == ""][[1]]
    stop_usage(sprintf("%s names no measure.", quoted(text)),
               i = sprintf("Write it as %s:%s; the measures are %s.", names[[1]], text, in_words(names)))
  }
  split(substring(texts, nchar(of) + 2), factor(of, unique(of)))
}

# The default window: over a whole cycle the season averages out.
one_cycle <- c(hour = "24", day = "7", week = "52", month = "12", quarter = "4")

has_cycle <- function(calendar) calendar$number == 1 && calendar$unit %in% names(one_cycle)
