# Options that say how the input is rolled up, which the commands have in
# common, and the roll-up that they ask for.

calendar_map <- c(
  "every", "week_start", "anchor", "whole_weeks", "first_week", "workdays",
  "holidays"
)
roll_map <- c(
  "cadence", "enough", "by", "use", "absent", "pool", "partial", "thin",
  "falls", "rollover"
)
fill_map <- c(
  fill = "method", longest = "longest", "fill-cycle" = "cycle",
  "fill-leading" = "leading"
)
per_day_map <- c("per-day" = "")

# What every command that rolls up has in common.
input_options <- function() {
  c(reading_options(), narrowing_options(), rolling_options())
}

rolling_options <- function() {
  c(
    options_of("calendar", calendar_map), options_of("roll_up", roll_map),
    options_of("impute_gaps", fill_map), options_of("add_per_day", per_day_map)
  )
}

# Reads the input, tells of it, and rolls it up: list(periods, aside).
roll_input <- function(options, inputs) {
  read <- read_and_tell(options, inputs)
  list(periods = rolled_as_read(read, options), aside = read$aside)
}

# Counts that were found to start anew are counted so, unless it is said how.
rolled_as_read <- function(read, options) {
  options$falls <- options$falls %||% read$falls
  rolled(read$records, read$calendar, options)
}

# list(records, calendar, aside, falls): the records, or periods that a file
# keeps; the calendar, NULL for the own one of these; the rows set aside; and
# what was found of counts that start anew.
read_and_tell <- function(options, inputs) {
  refuse_unasked(options, list(fill_map))
  # Before the file is read: what is wrong with it does not depend on that.
  calendar <- calendar_of_options(options)
  files <- input_files(inputs)
  kept <- kept_periods(options, files)
  if (!is.null(kept)) {
    return(list(
      records = kept, calendar = calendar_of_kept(kept, calendar, options)
    ))
  }
  read <- read_input(options, inputs, files)
  records <- read$records
  if (!options$quiet) {
    tell_of_intake(records)
  }
  if (is.null(options$every) && !is_elsewhere(records)) {
    options$every <- month_or_longer(records)
    calendar <- calendar_of_options(options)
  }
  records <- narrow_records(records, options)
  list(
    records = records, calendar = calendar, aside = rows_set_aside(records),
    falls = read$falls
  )
}

tell_of_intake <- function(records) {
  account <- if (is_elsewhere(records)) {
    doing("Asking the database", account(records))
  } else {
    account(records)
  }
  odd <- describe_suspicious(account)
  say(
    intake_text(account, 10, "`--aside FILE` writes all of them."),
    if (length(odd) > 0) c("", wrapped(odd)), ""
  )
}

rolled <- function(records, calendar, options) {
  asked <- given_options(options, c(roll_map, calendar_map))
  if (is_periods(records) && length(asked) == 0) {
    return(with_fillings(records, options))
  }
  doing("Rolling up", {
    by_name <- lapply(
      options[c("use", "absent", "pool", "falls", "rollover")], by_measure,
      records = records
    )
    rolled <- run_verb(
      "roll_up", records, options, setdiff(roll_map, names(by_name)),
      every = calendar, use = by_name$use, absent = by_name$absent,
      pool = by_name$pool, falls = by_name$falls,
      rollover = numbers_by_measure(by_name$rollover)
    )
    with_fillings(rolled, options)
  })
}

with_fillings <- function(x, options) {
  if (is_given(options$fill)) {
    x <- run_verb("impute_gaps", x, options, fill_map)
  }
  if (options[["per-day"]]) {
    x <- add_per_day(x, workdays = facts(x)$calendar$workdays)
  }
  x
}

calendar_of_options <- function(options) {
  # The start of the year is an option of reading, too: fiscal years in dates
  # are those of the calendar.
  map <- c(setdiff(calendar_map, "every"), "year-start" = "year_start")
  run_verb("calendar", options$every %||% "month", options, map)
}

# "price:last" and "kilos:sum" to list(price = "last", kilos = "sum"), several
# of one measure together. One alone without a name is for all, and where there
# is one measure there is no need of its name.
by_measure <- function(texts, records) {
  if (is.null(texts)) {
    return(NULL)
  }
  names <- names(facts(records)$measures)
  of <- vapply(texts, function(text) {
    fits <- names[startsWith(text, paste0(names, ":"))]
    if (length(fits) > 0) fits[[which.max(nchar(fits))]] else ""
  }, "")
  if (all(of == "") && (length(texts) == 1 || length(names) == 1)) {
    return(if (length(texts) == 1) {
      texts
    } else {
      stats::setNames(list(texts), names)
    })
  }
  if (any(of == "")) {
    text <- texts[of == ""][[1]]
    stop_usage(
      "{quoted(text)} names no measure.",
      i = "Write it as {names[[1]]}:{text}; the measures are",
      "{in_words(names)}."
    )
  }
  split(substring(texts, nchar(of) + 2), factor(of, unique(of)))
}

# Numbers where the texts are; what is not a number is left to the verb.
numbers_by_measure <- function(texts) {
  if (rlang::is_named(texts)) {
    lapply(texts, number_or_text)
  } else if (!is.null(texts)) {
    number_or_text(texts)
  }
}
