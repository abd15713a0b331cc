# Help of the command line: by what one wants, of a command on one screen, and
# of the options that commands have in common by topic.

main_help <- function() {
  wants <- unlist(unname(lapply(commands(), `[[`, "wants")))
  c(
    paste(
      "Backfill turns dated records into regular periods, and periods into",
      "findings that can be defended."
    ),
    "",
    "To ...",
    unlist(two_columns(names(wants), paste("backfill", wants), 34)),
    "",
    "What a command needs to know of FILE is found out and told.",
    "Options of a command:    backfill COMMAND --help",
    paste(
      "Options of most of them: backfill help reading, help periods,",
      "help output"
    ),
    "",
    paste(
      "Data goes to standard output, messages to standard error. Exit status:"
    ),
    "0 done, 1 an internal fault, 2 bad usage or bad input, 3 flagged with",
    "flags --fail-on-flag."
  )
}

# The options that several commands have in common: list(about, options).
help_topics <- function() {
  list(
    reading = list(
      about = "How a file is read, and which of its records are used",
      note = input_note, options = c(reading_options(), narrowing_options())
    ),
    periods = list(
      about = "How periods are made of records", options = rolling_options()
    ),
    output = list(
      about = "Where tables and figures go", options = output_options()
    )
  )
}

input_note <- paste(
  "FILE is delimited text, gzip, a workbook, JSON, Parquet, SQLite or NetCDF,",
  "an http(s) address, a pattern in quotation marks, or - for standard input;",
  "several are read as one. What is not given of its columns is found, as",
  "`backfill inspect` finds it, and told."
)

# `backfill help`, `backfill help TOPIC`, `backfill help COMMAND`.
help_on <- function(asked) {
  topics <- help_topics()
  if (length(asked) == 0 || asked[[1]] %in% c("--help", "-h")) {
    return(main_help())
  }
  if (asked[[1]] %in% names(topics)) {
    topic <- topics[[asked[[1]]]]
    return(c(
      paste0(topic$about, "."), topic_note(topic), "",
      options_listed(topic$options)
    ))
  }
  command <- one_command(asked[[1]])
  if (is.null(command)) {
    stop_usage(
      "There is no help on \"{asked[[1]]}\".",
      i = "{word_meant(asked[[1]], c(names(topics), names(commands())))}",
      i = "There is help on {in_words(names(topics))}, and on each command."
    )
  }
  help_of_command(command)
}

topic_note <- function(topic) {
  if (!is.null(topic$note)) c("", strwrap(topic$note, reading_width()))
}

# On a screen the options of its own, a sentence each; with `all` every option,
# in full.
help_of_command <- function(command, all = FALSE) {
  about <- if (all) command$about else first_sentence(command$about)
  own <- own_options(command)
  c(
    sprintf(
      "Usage: backfill %s",
      paste(c(command$name, command$inputs, "[options]"), collapse = " ")
    ),
    "", strwrap(about, reading_width()),
    "", "Examples:", paste0("  ", command$examples),
    if (length(own) > 0) c("", "Options:", options_listed(own, all)),
    if (all) {
      options_by_topic(command)
    } else {
      pointers(command)
    }
  )
}

# Those that no topic has, or all where the command has no more than a few.
own_options <- function(command) {
  shared <- unlist(lapply(help_topics(), function(one) names(one$options)))
  own <- command$options[setdiff(names(command$options), shared)]
  if (length(command$options) < 8) command$options else own
}

topics_of <- function(command) {
  left <- setdiff(names(command$options), names(own_options(command)))
  Filter(length, lapply(help_topics(), function(one) {
    intersect(names(one$options), left)
  }))
}

options_by_topic <- function(command) {
  topics <- topics_of(command)
  unlist(lapply(names(topics), function(topic) {
    c(
      "", paste0(help_topics()[[topic]]$about, ":"),
      options_listed(command$options[topics[[topic]]])
    )
  }))
}

# Where the rest is.
pointers <- function(command) {
  topics <- topics_of(command)
  if (length(topics) == 0) {
    return(NULL)
  }
  some <- vapply(topics, function(names) {
    paste(c(paste0("--", utils::head(names, 4)), "..."), collapse = ", ")
  }, "")
  c("", "More options:", unlist(two_columns(
    c(
      paste("backfill help", names(topics)),
      sprintf("backfill %s --help all", command$name)
    ),
    c(some, "every option, in full"), 36
  )))
}

options_listed <- function(options, all = TRUE) {
  if (!all && length(options) > 24) options <- without_details(options)
  value <- vapply(options, function(one) one$value %||% "", "")
  help <- vapply(options, `[[`, "", "help")
  unlist(two_columns(
    trimws(sprintf("--%s %s", names(options), value)),
    if (all) help else vapply(help, first_sentence, "")
  ))
}

# The options that say how another one is meant are named with that alone. Those
# of the first verb, which the command is of, stay.
without_details <- function(options) {
  verb <- vapply(options, function(one) one$of[1] %||% "", "")
  first <- match(verb, verb)
  detail <- nzchar(verb) & first < seq_along(verb) & verb != verb[[1]]
  for (at in unique(first[detail])) {
    named <- in_words(paste0("--", names(options)[detail & first == at]))
    options[[at]]$help <- sprintf(
      "%s; see also %s.",
      sub("[.]$", "", first_sentence(options[[at]]$help)), named
    )
  }
  options[!detail]
}

first_sentence <- function(text) {
  sub("(?<=[a-z)0-9\"][.]) .*", "", text, perl = TRUE)
}

# Names in one column, explanations wrapped in the next: the lines of each as
# one element.
two_columns <- function(left, right, most = 28) {
  indent <- min(max(nchar(left)) + 4, most)
  unname(Map(function(left, right) {
    text <- strwrap(right, width = reading_width() - indent)
    left <- paste0("  ", left)
    # What is too long for its column has a line of its own.
    own_line <- if (nchar(left) + 2 > indent) left
    first <- if (is.null(own_line)) left else ""
    heads <- plain_formatC(c(first, ""), width = -indent)
    c(own_line, paste0(heads[pmin(seq_along(text), 2)], text))
  }, left, right))
}
