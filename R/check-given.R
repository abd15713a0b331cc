# Whether a verb was given all that it needs.

# Refuses a call without an argument that has no default, by the name of the
# first one that is missing. `frame` is that of the verb.
check_given <- function(frame = caller_env()) {
  i <- Position(function(one) identical(one, frame), sys.frames(), right = TRUE)
  if (is.na(i)) {
    return(invisible())
  }
  defaults <- formals(sys.function(i))
  none <- vapply(defaults, identical, NA, rlang::missing_arg())
  for (name in setdiff(names(defaults)[none], "...")) {
    if (eval(call("missing", as.name(name)), frame)) {
      stop_missing(name, sys.call(i)[[1]], names(defaults)[[1]], frame)
    }
  }
}

stop_missing <- function(name, called, first, frame) {
  verb <- if (is.call(called)) called[[3]] else called
  verb <- if (is.symbol(verb)) as.character(verb) else ""
  about <- declarations$sentence(verb, name, name == first)
  abort_backfill(
    "argument",
    sprintf("`%s` is missing%s.", name, if (verb == "") {
      ""
    } else {
      sprintf(" in %s()", verb)
    }),
    i = about,
    ">" = if (is.null(about) && verb != "") {
      sprintf("The help says what it takes: ?%s", verb)
    },
    call = frame
  )
}

# `sentence()` says what an argument of a verb is, or its table; NULL where it
# is not declared. The registry of verbs, in a room above, puts its own in.
declarations <- rlang::new_environment(list(
  sentence = function(verb, argument, first) NULL
))
