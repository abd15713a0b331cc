# Every verb is declared once: what it takes and gives, and the type and the
# meaning of each of its arguments. From this come the options of the command
# line, their help and their parsing; a test holds it against the verbs
# themselves.

# `...` are the verb's arguments but for the table that it works on, each made
# by verb_argument().
new_verb <- function(verb, takes, gives, about, ...) {
  list(
    name = verb, takes = takes, gives = gives, about = about,
    arguments = rlang::list2(...)
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

# Every function called declare_... declares the verb of that name.
declared_verbs <- function() {
  home <- topenv()
  declared <- lapply(
    unname(mget(ls(home, pattern = "^declare_"), home)),
    function(declare) declare()
  )
  stats::setNames(declared, vapply(declared, `[[`, "", "name"))
}

# A call may be by another name than the verb's, such as FUN.
verb_called <- function(verb, call) {
  name <- name_of_call(call)
  home <- topenv()
  is_it <- function(name) nzchar(name) && identical(get0(name, home), verb)
  if (!is_it(name)) name <- Find(is_it, names(verbs())) %||% name
  verbs()[[name]] %||% list(name = name)
}

assign("verb", verb_called, declarations)
