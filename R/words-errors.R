# How this package fails: an error says what was wrong and where, what was
# expected, and what to do, and carries the class backfill_error_<class> beside
# backfill_error, so that a caller can catch one sort or all of them.

# `what` is a sentence; `...` are further ones, named "i" (what is the case) or
# ">" (what to do). A name in backticks is that of an argument. The first one is
# the argument at fault, which the condition tells as `argument`; `choices` are
# arguments that would answer a question, if that is one.
abort_backfill <- function(
  class, what, ..., choices = NULL, call = caller_env()
) {
  argument <- argument_named(what)
  said <- c(what, ..., if (is.null(argument)) said_by_option())
  rlang::abort(
    visible(spelled(said)),
    class = c(paste0("backfill_error_", class), "backfill_error"),
    argument = argument, choices = choices, call = call
  )
}

# What arguments are called where they are not given in R: options, by the names
# of the arguments. One without a name gives all that no argument is named for.
spelling <- rlang::new_environment(list(options = character()))

with_spelling <- function(options, code) {
  before <- spelling$options
  on.exit(spelling$options <- before)
  spelling$options <- c(options, before)
  code
}

# Sentences with their arguments called as they were given.
spelled <- function(text) {
  if (length(spelling$options) == 0) {
    return(text)
  }
  found <- gregexpr("`[a-z_.]+`", text)
  out <- text
  regmatches(out, found) <- lapply(regmatches(text, found), function(marked) {
    at <- match(gsub("`", "", marked), names(spelling$options))
    ifelse(is.na(at), marked, sprintf("`--%s`", spelling$options[at]))
  })
  stats::setNames(out, names(text))
}

said_by_option <- function() {
  unnamed <- spelling$options[rlang::names2(spelling$options) == ""]
  if (length(unnamed) > 0) {
    c(i = sprintf("It is named by `--%s`.", unnamed[[1]]))
  }
}

# Text that may hold names and values from data, with its control characters
# written out, so that none reaches a terminal. Line ends are left to those who
# break lines.
visible <- function(x) {
  odd <- grep(
    "[\\x01-\\x09\\x0b-\\x1f\\x7f]|\\xc2[\\x80-\\x9f]", x, perl = TRUE,
    useBytes = TRUE
  )
  for (i in odd) {
    # What is not UTF-8 would have no codes, and pass.
    codes <- utf8ToInt(iconv(enc2utf8(x[[i]]), "UTF-8", "UTF-8", sub = "byte"))
    control <- codes < 32 & codes != 10 | codes >= 127 & codes < 160
    if (any(control)) {
      parts <- vapply(codes, intToUtf8, "")
      parts[control] <- sprintf("\\x%02x", codes[control])
      x[[i]] <- paste(parts, collapse = "")
    }
  }
  x
}

argument_named <- function(what) {
  found <- regmatches(what, regexpr("`[a-z_.]+`", what))
  if (length(found) > 0) gsub("`", "", found[[1]], fixed = TRUE)
}
