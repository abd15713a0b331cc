# What a verb was given, against what it is declared to take.

# Refuses the call of a verb without an argument that has no default, by the
# name of the first one that is missing, and a value that the argument's type
# does not have. What was not given is not looked at, nor NULL where that is the
# default.
check_given <- function() {
  i <- entry_frame()$frame
  if (is.null(i)) {
    return(invisible())
  }
  frame <- sys.frame(i)
  defaults <- formals(sys.function(i))
  named <- setdiff(names(defaults), "...")
  left_out <- vapply(named, function(name) {
    eval(call("missing", as.name(name)), frame)
  }, NA)
  needed <- vapply(defaults[named], identical, NA, rlang::missing_arg())
  verb <- declarations$verb(sys.function(i), sys.call(i))
  if (any(left_out & needed)) {
    name <- named[left_out & needed][[1]]
    stop_missing(verb, name, name == named[[1]])
  }
  checks <- lapply(verb$arguments, function(one) one$type$check)
  checked <- names(Filter(Negate(is.null), checks))
  for (name in intersect(named[!left_out], checked)) {
    value <- get(name, frame)
    if (!is.null(value) || !is.null(defaults[[name]])) {
      checks[[name]](value, name)
    }
  }
}

stop_missing <- function(verb, name, first) {
  about <- about_in_r(verb$arguments[[name]], name) %||% if (first) {
    switch(
      verb$takes %||% "", periods = "It is a periods table, from roll_up().",
      records = paste(
        "It is a records table, from read_records() or as_records()."
      )
    )
  }
  where <- if (verb$name != "") paste0(" in ", verb$name, "()")
  abort_backfill(
    "argument", "`{name}` is missing{where}.",
    i = "{about}",
    ">" = if (is.null(about) && verb$name != "") {
      "The help says what it takes: ?{verb$name}"
    }
  )
}

# What a command says of an argument, as a call has it: what stands there for
# its value is the argument, and what speaks of options is left out.
about_in_r <- function(argument, name) {
  said <- strsplit(argument$about %||% "", "(?<=[.;]) ", perl = TRUE)[[1]]
  said <- said[!grepl("--", said, fixed = TRUE)]
  if (length(said) == 0) {
    return(NULL)
  }
  said <- sub("[;,]?$", ".", sub("[.]$", "", paste(said, collapse = " ")))
  value <- argument$type$value
  if (is.null(value)) {
    return(said)
  }
  gsub(sprintf("\\b%s\\b", value), sprintf("`%s`", name), said)
}

# `verb()` is the declaration of the verb that a call is of, by the function and
# the call; of another function its name alone. The registry, in a room above,
# puts its own here.
declarations <- rlang::new_environment(list(
  verb = function(verb, call) list(name = name_of_call(call))
))
