# The steps of a study as calls of R: what each makes, and of what.

# A call, the name of what it makes, the names of what it takes, and the files
# that it reads, besides whether the result is written out (`named`), where in
# the study it stands (`path`), and the `note` of whoever wrote it.
new_step <- function(
  name, call, uses, files, path, named = TRUE, note = NULL
) {
  list(
    name = name, call = call, uses = uses, files = files, path = path,
    named = named, note = note
  )
}

# Names are those of variables in the script that does the same.
check_study_name <- function(name, path, taken, faults) {
  if (!rlang::is_string(name) ||
        !grepl("^[A-Za-z][A-Za-z0-9_]*$", name) ||
        make.names(name) != name) {
    faults$add(path, paste(
      "A name must start with a letter, and have letters, figures and _ alone."
    ))
    return(FALSE)
  }
  if (name %in% taken) {
    faults$add(path, sprintf("The name \"%s\" is given twice.", name))
  }
  !name %in% taken
}

# list(values, uses): the arguments of a verb, and the other results among them,
# which are there as their names.
study_arguments <- function(found, declared, path, known, allowed) {
  dots <- declared[["..."]]
  own <- setdiff(names(declared), "...")
  if (is.null(dots)) {
    check_keys(found, own, path, allowed$faults)
  }
  values <- lapply(intersect(names(found), own), function(name) {
    study_value(
      found[[name]], name, declared[[name]], c(path, name), known, allowed
    )
  })
  names(values) <- intersect(names(found), own)
  further <- found[setdiff(names(found), own)]
  if (!is.null(dots) && length(further) > 0) {
    spliced <- study_value(further, "...", dots, path, known, allowed)
    values <- c(spliced, values)
  }
  symbols <- Filter(is.symbol, values)
  list(
    values = Filter(Negate(is.null), values),
    uses = vapply(symbols, as.character, "", USE.NAMES = FALSE)
  )
}

# Verbs that a step may call: those of the registry but for what `records` and
# `calendar` say, and the summary of a result.
step_verbs <- function() {
  declared <- verbs()
  declared$summary <- new_verb(
    "summary", "a result", "a result", "The summary of a result.",
    type = verb_argument(type_text("TYPE"), "Which one, where it has several.")
  )
  declared[
    setdiff(names(declared), c("read_records", "records_at", "calendar"))
  ]
}

planned_steps <- function(found, sources, calendar, allowed) {
  if (is.null(found)) {
    return(list())
  }
  if (!is.list(found) || !is.null(names(found))) {
    allowed$faults$add(
      list("steps"), "\"steps\" must be a list, each step after a dash."
    )
    return(list())
  }
  known <- sources
  # What a step without `from` works on: what the step before gave.
  last <- if (length(sources) == 1) sources else NULL
  steps <- list()
  for (at in seq_along(found)) {
    step <- planned_step(found[[at]], at, last, known, calendar, allowed)
    if (!is.null(step)) {
      steps[[step$name]] <- step
      known <- c(known, step$name)
      last <- step$name
    }
  }
  steps
}

planned_step <- function(found, at, last, known, calendar, allowed) {
  path <- list("steps", at)
  verb <- verb_of_step(found, path, allowed)
  if (is.null(verb)) {
    return(NULL)
  }
  name <- found$name %||% sprintf("step_%d", at)
  if (!check_study_name(name, c(path, "name"), known, allowed$faults)) {
    return(NULL)
  }
  allowed$seen$files <- character()
  from <- step_inputs(found$from %||% last, verb, path, known, allowed)
  inside <- c(path, verb$name)
  given <- step_arguments(found[[verb$name]], inside, allowed)
  arguments <- study_arguments(given, verb$arguments, inside, known, allowed)
  every <- list()
  if (verb$name == "roll_up" && is.null(given$every) && !is.null(calendar)) {
    every <- list(every = calendar$call)
    allowed$seen$files <- c(allowed$seen$files, calendar$files)
  }
  values <- c(from$values, every, arguments$values)
  new_step(
    name, rlang::call2(verb$name, !!!values),
    unique(c(from$uses, arguments$uses)), allowed$seen$files, path,
    named = !is.null(found$name), note = text_of_study(
      found$note, c(path, "note"), allowed$faults
    )
  )
}

# The verb that a step names, or NULL after a fault.
verb_of_step <- function(found, path, allowed) {
  keys <- setdiff(names(found), c("name", "from", "note"))
  if (!is.list(found) || length(keys) != 1) {
    allowed$faults$add(path, paste(
      "A step must be one verb with its arguments, such as",
      "roll_up: {every: month}, and may have `name`, `from` and `note` beside."
    ))
    return(NULL)
  }
  declared <- step_verbs()
  if (!keys %in% names(declared)) {
    allowed$faults$add(
      c(path, keys), sprintf("There is no verb \"%s\".", keys),
      nearest_known(keys, names(declared))
    )
  }
  declared[[keys]]
}

step_arguments <- function(found, path, allowed) {
  if (is.null(found) || length(found) == 0) {
    return(list())
  }
  if (is.null(names(found))) {
    allowed$faults$add(path, paste(
      "The arguments of a verb must be a map, such as {every: month}."
    ))
    return(list())
  }
  as.list(found)
}

# Whether its tables are arguments each, and not a list.
several_apart <- function(verb) {
  verb$takes %in% c("several periods", "several records")
}

# list(values, uses): what a step works on.
step_inputs <- function(from, verb, path, known, allowed) {
  from <- unlist(from)
  several <- grepl("several", verb$takes)
  if (length(from) == 0) {
    allowed$faults$add(path, sprintf(
      "It is not said what %s works on: name it with `from`.", verb$name
    ))
  }
  for (one in setdiff(from, known)) {
    allowed$faults$add(
      c(path, "from"),
      sprintf("\"%s\" is not the name of records or an earlier step.", one),
      nearest_known(one, known)
    )
  }
  if (length(from) > 1 && !several) {
    allowed$faults$add(
      c(path, "from"), sprintf("%s works on one table.", verb$name)
    )
  }
  symbols <- lapply(from, as.symbol)
  list(
    values = if (several_apart(verb) || length(from) == 1) {
      symbols
    } else {
      list(rlang::call2("list", !!!symbols))
    },
    uses = from
  )
}
