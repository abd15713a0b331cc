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

# The options of several verbs: `maps` has a map for each, by its name.
options_of_verbs <- function(maps) {
  do.call(c, unname(Map(options_of, names(maps), maps)))
}

# The option that asks for a verb is the first of its map; the others say how.
asked_by <- function(map) names(option_map(map))[[1]]

options_asking <- function(maps) unname(vapply(maps, asked_by, ""))

# The verb that an option asks for; none where it is no such option.
verb_asked <- function(maps, asked) names(maps)[options_asking(maps) %in% asked]

refuse_unasked <- function(options, maps) {
  for (map in maps) {
    asked <- asked_by(map)
    if (!is_given(options[[asked]])) {
      refuse_options(
        options, names(option_map(map))[-1], sprintf("`--%s` is not", asked),
        sprintf("Give `--%s` too.", asked)
      )
    }
  }
}

# Which of the options that name a result is given; at most one may be.
one_result <- function(options, names) {
  asked <- given_options(options, names)
  if (length(asked) > 1) {
    stop_usage(
      "{in_words(paste0('--', asked))} are given, but one result at a time can",
      "be."
    )
  }
  asked
}

# The result that is asked for, of `results`: which options each uses, by the
# option that asks for it, that of the one given by default being "plain". What
# is used by others alone is refused, and by `asked` where that is more than an
# option.
result_asked <- function(
  options, results, asked = one_result(options, names(results))
) {
  asked <- c(asked, "plain")[[1]]
  unused <- given_options(options, setdiff(unlist(results), results[[asked]]))
  if (length(unused) > 0 && asked != "plain") {
    refuse_options(options, unused, sprintf("`--%s` does not use it", asked))
  }
  if (length(unused) > 0) {
    users <- Filter(function(used) unused[[1]] %in% used, results)
    others <- sprintf("`--%s`", names(users))
    refuse_options(
      options, unused, switch(
        min(length(others), 3), paste(others, "is not"),
        paste("neither", in_words(others, last = " nor "), "is"),
        sprintf("none of %s is", in_words(others))
      ),
      sprintf("Give %s too.", in_words(others, last = " or "))
    )
  }
  asked
}

# The options of the verbs that give results, by the option that asks for each.
options_of_results <- function(maps) {
  stats::setNames(
    lapply(maps, function(map) names(option_map(map))[-1]), options_asking(maps)
  )
}

# Calls a verb with what the options give. Arguments whose option is not given,
# and which `...` do not name, keep the verb's own default.
run_verb <- function(verb, x, options, map, ...) {
  with_spelling(options_by_argument(verb, map), {
    arguments <- arguments_of(verb, options, map)
    do.call(
      verb, c(list(x), arguments, list(...)), envir = asNamespace("backfill")
    )
  })
}

# For errors: the option of each argument, both of those that one option gives.
options_by_argument <- function(verb, map) {
  map <- option_map(map)
  map <- map[map != ""]
  declared <- verbs()[[verb]]$arguments
  given <- lapply(map, function(name) declared[[name]]$type$gives %||% name)
  stats::setNames(rep(names(map), lengths(given)), unlist(given))
}

arguments_of <- function(verb, options, map) {
  declared <- verbs()[[verb]]$arguments
  map <- option_map(map)
  given <- Filter(
    function(option) map[[option]] != "", given_options(options, map)
  )
  do.call(c, lapply(given, function(option) {
    name <- map[[option]]
    type <- declared[[name]]$type
    value <- with_spelling(
      c(stats::setNames(option, name), option),
      type$parse(options[[option]], name)
    )
    if (is.null(type$gives)) stats::setNames(list(value), name) else value
  }))
}

# Calls a verb once for each value of the option that asks for it.
run_verb_each <- function(verb, x, options, map) {
  asked <- asked_by(map)
  for (value in options[[asked]]) {
    x <- run_verb(verb, x, replace(options, asked, list(value)), map)
  }
  x
}
