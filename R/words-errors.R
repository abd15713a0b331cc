# How this package fails: an error says what was wrong and where, what was
# expected, and what to do, and carries the class backfill_error_<class> beside
# backfill_error, so that a caller can catch one sort or all of them.

# `what` is a sentence; `...` are further ones, named "i" (what is the case) or
# ">" (what to do). The first name in backticks is the argument at fault, which
# the condition tells as `argument`.
abort_backfill <- function(class, what, ..., call = caller_env()) {
  rlang::abort(
    visible(c(what, ...)),
    class = c(paste0("backfill_error_", class), "backfill_error"),
    argument = argument_named(what),
    call = call
  )
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
    # What is no UTF-8 would have no codes, and pass.
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
