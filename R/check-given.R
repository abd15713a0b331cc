# What a verb was given, against what it is declared to take.

# Refuses a call without an argument that has no default, by the name of the
# first one that is missing, and a value that the argument's type does not have.
# What was not given is not looked at, nor NULL where that is the default.
# `frame` is that of the verb.
check_given <- function(frame = caller_env()) {
  i <- Position(function(one) identical(one, frame), sys.frames(), right = TRUE)
  if (is.na(i)) {
    return(invisible())
  }
  defaults <- formals(sys.function(i))
  named <- setdiff(names(defaults), "...")
  left_out <- vapply(named, function(name) {
    eval(call("missing", as.name(name)), frame)
  }, NA)
  needed <- vapply(defaults[named], identical, NA, rlang::missing_arg())
  verb <- declarations$called(sys.function(i), sys.call(i))
  if (any(left_out & needed)) {
    name <- named[left_out & needed][[1]]
    stop_missing(name, verb, name == named[[1]], frame)
  }
  for (name in intersect(named[!left_out], declarations$checked(verb))) {
    value <- get(name, frame)
    if (!is.null(value) || !is.null(defaults[[name]])) {
      declarations$check(verb, name, value, frame)
    }
  }
}

name_of_call <- function(call) {
  called <- call[[1]]
  if (is.call(called)) called <- called[[length(called)]]
  if (is.symbol(called)) as.character(called) else ""
}

stop_missing <- function(name, verb, first, frame) {
  about <- declarations$sentence(verb, name, first)
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

# What the registry of verbs, in a room above, puts here: `sentence()` says what
# an argument of a verb is, or its table; NULL where it is not declared;
# `called()` is the name of the verb that a call is of; `checked()` names the
# arguments whose types know their values, `check()` looks at one.
declarations <- rlang::new_environment(list(
  called = function(verb, call) name_of_call(call),
  sentence = function(verb, argument, first) NULL,
  checked = function(verb) character(),
  check = function(verb, argument, x, call) NULL
))
