# Every verb is declared once: what it takes and gives, and the type and the
# meaning of each of its arguments. From this come the options of the command
# line, their help and their parsing; a test holds it against the verbs
# themselves.

# `...` are the verb's arguments but for the table that it works on, each made
# by verb_argument().
new_verb <- function(verb, takes, gives, about, ...) {
  list(
    name = verb, takes = takes, gives = gives, about = about,
    arguments = list(...)
  )
}

# `repeats` marks one whose value may be several, each given by the same option.
verb_argument <- function(type, about, repeats = FALSE) {
  list(
    type = type, about = about, repeats = repeats
  )
}

verbs <- function() {
  if (is.null(registry$verbs)) registry$verbs <- declared_verbs()
  registry$verbs
}

# Made when it is first asked for, and kept: each command asks for most of it.
registry <- new.env(parent = emptyenv())

declared_verbs <- function() {
  declared <- c(
    verbs_of_records(), verbs_of_periods(), verbs_of_change(),
    verbs_of_season(), verbs_of_memory()
  )
  stats::setNames(declared, vapply(declared, `[[`, "", "name"))
}
