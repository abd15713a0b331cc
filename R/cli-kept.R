# Periods that a file keeps, as the input of a command.

# A table of periods that a command or write_periods() wrote, without what was
# added to its values; NULL where the input is another. Where columns are named
# it is read as records are.
kept_periods <- function(options, inputs) {
  named <- given_options(options, c("when", "measure", "layout"))
  if (length(inputs) != 1 || length(named) > 0 || !was_written(inputs)) {
    return(NULL)
  }
  kept <- read_periods(inputs)
  if (!is_periods(kept)) {
    stop_usage(
      "{basename(inputs)} holds a result, not records or periods.",
      ">" = "Give the file that the result was made of."
    )
  }
  check_kept_options(options, basename(inputs))
  if (!options$quiet) {
    added <- names(facts(kept)$added)
    say(wrapped(paste0(
      basename(inputs), " is a table of periods: its values are read with",
      " their standings and kinds", if (length(added) > 0) sprintf(
        ", without its %s",
        paste(if (length(added) == 1) "column" else "columns", in_words(added))
      ), "."
    )), "")
  }
  kept[setdiff(names(kept), names(facts(kept)$added))]
}

# What says how records are read or cut into periods has been said.
check_kept_options <- function(options, name) {
  reading <- c(names(reading_options()), names(narrowing_options()), "aside")
  refuse_options(
    options, setdiff(reading, "year-start"),
    sprintf("%s is a table of periods", name),
    "Give it where the records are rolled up."
  )
  if (is.null(options$every)) {
    refuse_options(
      options, c(names(option_map(calendar_map)), "year-start"),
      sprintf("%s has periods of its own", name),
      "Give `--every` too, for longer ones."
    )
  }
}

# The own one, or longer periods: a quarter of whole-week months is one of
# theirs, where nothing else is said of it.
calendar_of_kept <- function(kept, calendar, options) {
  if (is.null(options$every)) {
    return(facts(kept)$calendar)
  }
  alone <- identical(
    given_options(options, c(calendar_map, "year_start")), "every"
  )
  if (alone) options$every else calendar
}
