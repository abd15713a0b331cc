# Options that are arguments of verbs, and the verbs called with what they give.

# The options by which arguments of a verb are given: `map` names the argument
# by the option, or is the argument whose name the option has. An argument "" is
# the verb itself, asked for by a flag.
options_of <- function(verb, map) {
  declared <- verbs()[[verb]]
  lapply(option_map(map), function(name) {
    if (name == "") {
      return(cli_option(NULL, declared$about, of = c(verb, "")))
    }
    of <- declared$arguments[[name]]
    cli_option(of$type$value, of$about, of$repeats, of = c(verb, name))
  })
}

option_map <- function(map) {
  unnamed <- rlang::names2(map) == ""
  names(map) <- ifelse(
    unnamed, gsub("_", "-", map, fixed = TRUE), rlang::names2(map)
  )
  map
}

is_given <- function(value) !is.null(value) && !isFALSE(value)

given_options <- function(options, map) {
  Filter(
    function(name) is_given(options[[name]]), names(option_map(map))
  )
}

# Calls a verb with what the options give. Arguments whose option is not given,
# and which `...` do not name, keep the verb's own default.
run_verb <- function(verb, x, options, map, ...) {
  map <- option_map(map)
  named <- stats::setNames(names(map), map)
  for_options(named[names(named) != ""], {
    arguments <- arguments_of(verb, options, map)
    do.call(
      verb, c(list(x), arguments, list(...)), envir = asNamespace("backfill")
    )
  })
}

arguments_of <- function(verb, options, map) {
  declared <- verbs()[[verb]]$arguments
  map <- option_map(map)
  given <- Filter(
    function(option) map[[option]] != "", given_options(options, map)
  )
  arguments <- lapply(given, function(option) {
    name <- map[[option]]
    for_options(
      c(stats::setNames(option, name), option),
      declared[[name]]$type$parse(options[[option]], name)
    )
  })
  stats::setNames(arguments, map[given])
}

# Calls a verb once for each value of an option that may repeat.
run_verb_each <- function(verb, x, options, map, each) {
  for (value in options[[each]]) {
    x <- run_verb(verb, x, replace(options, each, list(value)), map)
  }
  x
}
