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

# "a, b and c"; at most `most` are named.
in_words <- function(x, most = 12, last = " and ") {
  x <- as.character(x)
  if (length(x) > most) {
    x <- c(x[seq_len(most - 1)], paste(length(x) - most + 1, "more"))
  }
  if (length(x) < 2) {
    return(paste(x))
  }
  paste0(paste(x[-length(x)], collapse = ", "), last, x[length(x)])
}

# "1 row", "2 rows"
count_of <- function(n, noun, nouns = paste0(noun, "s")) {
  paste(thousands(n), if (n == 1) noun else nouns)
}

first_few <- function(x, n = 3) x[seq_len(min(n, length(x)))]

check_one_of <- function(x, choices, argument, call = caller_env()) {
  if (!rlang::is_string(x) || !x %in% choices) {
    abort_backfill(
      "argument",
      sprintf("`%s` is %s.", argument, value_in_words(x)),
      i = sprintf("It must be %s.", in_words(quoted(choices), last = " or ")),
      call = call
    )
  }
  x
}

# Up to all of it, or `below` that.
check_share <- function(x, argument, below = FALSE, call = caller_env()) {
  if (
    !is.numeric(x) || length(x) != 1 || is.na(x) || x <= 0 || x > 1 || below &&
      x == 1
  ) {
    abort_backfill(
      "argument", sprintf("`%s` is %s.", argument, value_in_words(x)),
      i = sprintf(
        "It must be a share above 0 and %s 1, such as 0.95.",
        if (below) {
          "below"
        } else {
          "up to"
        }
      ),
      call = call
    )
  }
}

check_whole <- function(
  x, argument, least, most, meaning, call = caller_env()
) {
  if (
    !is.numeric(x) || length(x) != 1 || is.na(x) || x != floor(x) ||
      x < least || x > most
  ) {
    abort_backfill(
      "argument", sprintf("`%s` is %s.", argument, value_in_words(x)),
      i = sprintf(
        "It must be a whole number from %d to %d: %s.", least, most, meaning
      ),
      call = call
    )
  }
}

check_flag <- function(x, argument, call = caller_env()) {
  if (!is.logical(x) || length(x) != 1 || is.na(x)) {
    abort_backfill(
      "argument",
      sprintf(
        "`%s` is %s; it must be TRUE or FALSE.", argument, value_in_words(x)
      ),
      call = call
    )
  }
}

check_columns <- function(columns, data, where, argument, call = caller_env()) {
  absent <- setdiff(columns, names(data))
  if (length(absent) > 0) {
    abort_backfill(
      "column",
      sprintf(
        "%s has no column %s, which `%s` names.", where,
        in_words(quoted(absent)), argument
      ),
      i = sprintf("Its columns are %s.", in_words(quoted(names(data)))),
      call = call
    )
  }
}

# In quotes, and no longer than a line can take.
quoted <- function(x, most = 80) {
  long <- nchar(x, type = "chars", allowNA = TRUE) > most
  long <- is.na(long) | long
  x[long] <- paste0(
    substr(iconv(x[long], "UTF-8", "UTF-8", sub = "?"), 1, most - 3), "..."
  )
  encodeString(x, quote = "\"", na.encode = TRUE)
}

value_in_words <- function(x) {
  if (is.null(x)) {
    "not given"
  } else if (is.atomic(x) && length(x) == 1) {
    if (is.character(x)) quoted(x) else plain_format(x)
  } else {
    sprintf("%s of length %d", class(x)[[1]], length(x))
  }
}

# For packages outside the daily path, which may not be there.
need_package <- function(package, purpose, call = caller_env()) {
  if (!requireNamespace(package, quietly = TRUE)) {
    abort_backfill(
      "package",
      sprintf(
        "The package %s is needed %s, and is not installed.", package, purpose
      ),
      ">" = sprintf("Install it in R with install.packages(\"%s\").", package),
      call = call
    )
  }
}
