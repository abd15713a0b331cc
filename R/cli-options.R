# Options of the commands: their description, and parsing by optparse.

# `repeats` marks an option that may be given several times, whose value is then
# a vector; `of` names the verb and the argument that it is.
cli_option <- function(value, help, repeats = FALSE, of = NULL) {
  list(value = value, help = help, repeats = repeats, of = of)
}

cli_flag <- function(help) cli_option(NULL, help)

run_command <- function(command, args) {
  if (any(args %in% c("--help", "-h"))) {
    return(writeLines(help_of_command(command, all = "all" %in% args)))
  }
  # A study names verbs as R does.
  if (!command$name %in% c("study", "report")) {
    spelling$line_of <- line_of_verb
    on.exit(spelling$line_of <- NULL)
  }
  hint <- sprintf("See `backfill %s --help`.", command$name)
  # After "--" all are inputs, also what looks like an option.
  ends <- match("--", args, length(args) + 1L)
  after <- args[-seq_len(ends)]
  args <- args[seq_len(ends - 1L)]
  check_flags(args, command$options, hint)
  repeated <- Filter(function(option) option$repeats, command$options)
  folded <- fold_repeats(
    join_negatives(args, command$options), names(repeated)
  )
  parsed <- parse_options(
    option_parser(options_given(folded$args, command$options)), folded$args,
    hint
  )
  inputs <- c(parsed$args, after)
  # Records in a database are in no file.
  if (!is_given(parsed$options$database)) {
    check_inputs(inputs, command$inputs, hint)
  } else if (length(inputs) > 0) {
    stop_usage(
      "`--database` is given, and the file {in_words(inputs)} as well.",
      ">" = "The records are in the one or in the other."
    )
  }
  # Those that are not given are there as NULL, so that `$` does not take
  # --format for --form.
  options <- lapply(command$options, function(option) {
    if (is.null(option$value)) FALSE
  })
  given <- c(parsed$options, folded$values)
  options[names(given)] <- given
  run <- function() command$run(options, inputs)
  with_spelling(argument_names(command), if (isTRUE(options$quiet)) {
    suppressMessages(run(), classes = "backfill_message_unmatched")
  } else {
    run()
  })
}

parse_options <- function(parser, args, hint) {
  tryCatch(
    optparse::parse_args(
      parser, args, positional_arguments = TRUE, print_help_and_exit = FALSE
    ),
    error = function(cnd) {
      # "Error in getopt(...) : \n flag "when" requires an argument."
      what <- trimws(sub(
        "^Error in .*?:\\s", "", conditionMessage(cnd), perl = TRUE
      ))
      stop_usage("{sub('[.]?$', '.', sentence_case(what))}", ">" = "{hint}")
    }
  )
}

# `expected` are the names of a command's inputs; "FILE..." stands for one or
# more.
check_inputs <- function(inputs, expected, hint) {
  several <- any(grepl("...", expected, fixed = TRUE))
  enough <- if (several) length(inputs) >= length(expected) else
    length(inputs) == length(expected)
  if (enough) {
    return(invisible())
  }
  given <- if (length(inputs) == 0) "there is none" else
    paste("given is", in_words(inputs))
  wanted <- if (several) "An input file is expected" else
    count_of(
      length(expected), "input file is expected", "input files are expected"
    )
  stop_usage("{wanted}; {given}.", ">" = "{hint}")
}

# The options of a command by the arguments that they give, unless a verb says
# otherwise.
argument_names <- function(command) {
  options <- names(command$options)
  c(
    stats::setNames(options, gsub("-", "_", options, fixed = TRUE)),
    measures = "measure"
  )
}

# Describing an option takes longer than reading it.
options_given <- function(args, options) {
  options[names(options) %in% sub("=.*", "", sub("^--", "", args))]
}

option_parser <- function(options) {
  made <- Map(function(name, option) {
    flag <- is.null(option$value)
    optparse::make_option(
      paste0("--", name), dest = name,
      action = if (flag) "store_true" else "store",
      type = if (flag) "logical" else "character", default = if (flag) FALSE
    )
  }, names(options), options)
  optparse::OptionParser(option_list = unname(made), add_help_option = FALSE)
}

check_flags <- function(args, options, hint) {
  flags <- sub("=.*", "", sub("^--", "", args[grepl("^--.", args)]))
  unknown <- setdiff(flags, names(options))
  if (length(unknown) > 0) {
    stop_no_option(unknown[[1]], options, hint)
  }
  check_flag_values(args, options, hint)
  once <- names(Filter(function(option) !option$repeats, options))
  twice <- intersect(flags[duplicated(flags)], once)
  if (length(twice) > 0) {
    stop_usage("--{twice[[1]]} is given more than once.", ">" = "{hint}")
  }
}

# "--bands" "-5, 0" to "--bands=-5, 0", where optparse would take the value for
# another option.
join_negatives <- function(args, options) {
  takes <- paste0(
    "--", names(Filter(function(option) !is.null(option$value), options))
  )
  at <- which(args[-length(args)] %in% takes & grepl("^-[0-9.]", args[-1]))
  args[at] <- paste0(args[at], "=", args[at + 1])
  if (length(at) > 0) args[-(at + 1)] else args
}

# optparse keeps the last of several values; those of options that repeat are
# taken out before, as list(args, values). The parsers that keep all of them
# need another language, or lose what follows an empty word and split a lone
# name with a blank in it.
fold_repeats <- function(args, repeats) {
  values <- list()
  for (name in repeats) {
    apart <- which(args == paste0("--", name) & seq_along(args) < length(args))
    joined <- grep(paste0("^--", name, "="), args)
    place <- sort(c(apart + 1L, joined))
    values[[name]] <- sub(paste0("^--", name, "="), "", args[place])
    args <- args[setdiff(seq_along(args), c(apart, place))]
  }
  list(args = args, values = Filter(length, values))
}

# Options that the result asked for does not use are refused, not ignored.
refuse_options <- function(options, names, why, remedy = "Leave it out.") {
  given <- Filter(
    function(name) !is.null(options[[name]]) && !isFALSE(options[[name]]), names
  )
  if (length(given) > 0) {
    stop_usage("`--{given[[1]]}` is given, but {why}.", ">" = "{remedy}")
  }
}
