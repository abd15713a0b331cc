# Options that say how the input is rolled up, which the commands have in common, and the roll-up that they ask for.

rolling_options <- function() {
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
    "per-day" = cli_flag("Add flows per day, or per working day with --workdays or --holidays.")
  )
}

# Reads the input, tells of it, and rolls it up: list(periods, aside).
roll_input <- function(options, inputs) {
  read <- read_and_tell(options, inputs)
  list(periods = rolled(read$records, read$calendar, options), aside = set_aside(read$records))
}

# The records and the calendar, as a list.
read_and_tell <- function(options, inputs) {
  for (needed in c("measure", if (!grid_input(inputs)) "when")) {
    if (is.null(options[[needed]]) && !(needed == "when" && identical(options$layout, "dates across"))) {
      stop_usage(sprintf("`%s` is not given.", needed), ">" = paste(
        "See `backfill periods --help`; `backfill inspect FILE` finds out how a file is to be read."
      ))
    }
  }
  if (!is.null(options$longest) && is.null(options$fill)) {
    stop_usage("`--longest` is given without `--fill`.", ">" = "Say how empty periods are filled: `--fill`.")
  }
  # Before the file is read: what is wrong with it does not depend on that.
  calendar <- calendar_of_options(options)
  records <- read_input(options, inputs)
  if (!options$quiet) {
    account <- intake(records)
    odd <- describe_suspicious(account)
    say(intake_text(account, 10, "`--aside FILE` writes all of them."), if (length(odd) > 0) c("", wrapped(odd)), "")
  }
  list(records = records, calendar = calendar)
}

rolled <- function(records, calendar, options) {
  doing("Rolling up", {
    rolled <- roll_up(
      records, every = calendar, by = if (identical(options$by, "none")) character() else options$by,
      use = by_measure(options$use, records), absent = by_measure(options$absent, records),
      partial = options$partial %||% "keep", cadence = options$cadence,
      enough = number_or_text(options$enough %||% "1"), together = by_measure(options$together, records)
    )
    if (!is.null(options$fill)) {
      rolled <- for_options(c(method = "fill"), {
        impute_gaps(rolled, options$fill, longest = number_or_text(options$longest %||% "Inf"))
      })
    }
    if (options[["per-day"]]) add_per_day(rolled, working = calendar$workdays) else rolled
  })
}

calendar_of_options <- function(options) {
  fiscal <- number_or_text(options[["year-start"]] %||% "1")
  rlang::try_fetch(
    calendar(
      options$every %||% "month", week_start = options[["week-start"]] %||% "Monday", year_start = fiscal,
      anchor = options$anchor, workdays = options$workdays,
      holidays = if (!is.null(options$holidays)) for_options("holidays", read_holidays(options$holidays))
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
