# How this package fails: an error says what was wrong and where, what was
# expected, and what to do, and carries the class backfill_error_<class> beside
# backfill_error, so that a caller can catch one sort or all of them.

# `...` are templates: the first is a sentence that says what is wrong; others
# are named "i" (what is the case), ">" (what to do) or "x" (an instance), and
# those without a name go on with the one before. A name in backticks is that of
# an argument. The first one is the argument at fault, which the condition tells
# as `argument`; `choices` are arguments that would answer a question, if that
# is one.
abort_backfill <- function(
  class, ..., choices = NULL, .envir = parent.frame()
) {
  said <- with_bytes_spelled(bullets(c(...), .envir))
  argument <- argument_named(said[[1]])
  if (is.null(argument)) said <- c(said, said_by_option())
  rlang::abort(
    visible(without_secrets(spelled(said))),
    class = c(paste0("backfill_error_", class), "backfill_error"),
    argument = argument, choices = choices, call = entry_call()
  )
}

# A warning, said by templates as an error is.
warn_backfill <- function(class, ..., .envir = parent.frame()) {
  rlang::warn(
    bullets(c(...), .envir),
    class = c(paste0("backfill_warning_", class), "backfill_warning")
  )
}

# Templates filled, of which some go on with the one before. What comes to
# nothing is left out.
bullets <- function(templates, envir) {
  starts <- replace(rlang::names2(templates) != "", 1, TRUE)
  said <- lapply(
    split(templates, cumsum(starts)),
    function(parts) do.call(glue, c(as.list(unname(parts)), .envir = envir))
  )
  named <- rep(rlang::names2(templates)[starts], lengths(said))
  said <- trimws(unlist(said, use.names = FALSE), "right")
  names(said) <- named
  said[said != ""]
}

# The call that an error is told of.
entry_call <- function() {
  entry <- entry_frame()
  if (!is.null(entry)) {
    call <- sys.call(entry$frame)
    # By do.call() a function itself can stand there.
    if (is.function(call[[1]])) call[[1]] <- as.name(entry$name)
    call
  }
}

# list(frame, name): the frame, by its number, of the exported function that was
# called last, and what it is called. It may go by another name, such as FUN.
entry_frame <- function() {
  home <- topenv()
  exports <- getNamespaceExports(home)
  for (i in rev(seq_len(sys.nframe()))) {
    verb <- sys.function(i)
    if (!identical(environment(verb), home)) next
    is_it <- function(name) identical(get0(name, home), verb)
    name <- Filter(nzchar, name_of_call(sys.call(i)))
    if (length(name) == 0 || !is_it(name)) name <- Find(is_it, exports)
    if (length(name) > 0 && name %in% exports) {
      return(list(frame = i, name = name))
    }
  }
}

name_of_call <- function(call) {
  called <- call[[1]]
  if (is.call(called)) called <- called[[length(called)]]
  if (is.symbol(called)) as.character(called) else ""
}

# Bytes of a damaged file that are no text are written out.
with_bytes_spelled <- function(text) {
  stats::setNames(
    iconv(enc2utf8(text), "UTF-8", "UTF-8", sub = "byte"), names(text)
  )
}

# What arguments are called where they are not given in R: options, by the names
# of the arguments. One without a name gives all that no argument is named for.
# `line_of` gives the shell line that does what a function does, or NULL.
spelling <- rlang::new_environment(list(options = character()))

with_spelling <- function(options, code) {
  before <- spelling$options
  on.exit(spelling$options <- before)
  spelling$options <- c(options, before)
  code
}

# Sentences with their arguments and functions called as they are given.
spelled <- function(text) {
  if (!is.null(spelling$line_of)) {
    text <- with_replaced(text, "\\b[a-z_]+\\(\\)", function(called) {
      lines <- lapply(sub("()", "", called, fixed = TRUE), spelling$line_of)
      ifelse(lengths(lines) == 0, called, sprintf("`%s`", lines))
    })
  }
  if (length(spelling$options) == 0) {
    return(text)
  }
  with_replaced(text, "`[a-z_.]+`", function(marked) {
    at <- match(gsub("`", "", marked), names(spelling$options))
    ifelse(is.na(at), marked, sprintf("`--%s`", spelling$options[at]))
  })
}

with_replaced <- function(text, pattern, by) {
  found <- gregexpr(pattern, text)
  out <- text
  regmatches(out, found) <- lapply(regmatches(text, found), by)
  stats::setNames(out, names(text))
}

said_by_option <- function() {
  unnamed <- spelling$options[rlang::names2(spelling$options) == ""]
  if (length(unnamed) > 0) {
    c(i = sprintf("It is named by `--%s`.", unnamed[[1]]))
  }
}

# Text that may hold names and values from data, with what no reader sees
# written out, so that none of it reaches a terminal or turns the rest around:
# control characters, and marks without width or of the direction of writing.
# Line ends are left to those who break lines.
visible <- function(x) {
  odd <- grep(
    paste0(
      "[\\x01-\\x09\\x0b-\\x1f\\x7f]|\\xc2[\\x80-\\x9f]|\\xd8\\x9c|",
      "\\xef\\xbb\\xbf|\\xe2\\x80[\\x8b\\x8e\\x8f\\xa8-\\xae]|",
      "\\xe2\\x81[\\xa0-\\xaf]"
    ),
    x, perl = TRUE, useBytes = TRUE
  )
  for (i in odd) {
    # What is not UTF-8 would have no codes, and pass.
    codes <- utf8ToInt(with_bytes_spelled(x[[i]]))
    hidden <- codes < 32 & codes != 10 | codes >= 127 & codes < 160 |
      codes %in% unseen_codes
    if (any(hidden)) {
      parts <- vapply(codes, intToUtf8, "")
      form <- ifelse(codes < 256, "\\x%02x", "\\u%04x")
      parts[hidden] <- sprintf(form[hidden], codes[hidden])
      x[[i]] <- paste(parts, collapse = "")
    }
  }
  x
}

unseen_codes <- c(
  0x61c, 0x200b, 0x200e, 0x200f, 0x2028:0x202e, 0x2060:0x206f, 0xfeff
)

# The name of a series or a column, which is one line: line ends are written
# out.
one_line <- function(x) {
  gsub("\r\n|[\r\n\f\v\u0085\u2028\u2029]", "\\\\n", x)
}

argument_named <- function(what) {
  found <- regmatches(what, regexpr("`[a-z_.]+`", what))
  if (length(found) > 0) gsub("`", "", found[[1]], fixed = TRUE)
}
