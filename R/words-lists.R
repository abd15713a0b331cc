# Sentences, lists, counts and values in words.

# The text of templates, one going on with the other, in which the value of the
# code in braces is put: numbers in full, NULL as nothing. A template is always
# written out where it is used, as data would be run as code.
glue <- function(..., .envir = parent.frame()) {
  as.character(glue::glue(
    ..., .sep = " ", .envir = .envir, .transformer = value_in_text,
    .trim = FALSE
  ))
}

value_in_text <- function(code, envir) {
  value <- eval(parse(text = code, keep.source = FALSE), envir)
  if (is.null(value)) {
    return("")
  }
  text <- as.character(value)
  if (is.double(value) && !is.object(value)) {
    whole <- is.finite(value) & value == round(value)
    text[whole] <- sprintf("%.0f", value[whole])
  }
  text
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

# What several series have together is said to be theirs.
of_series <- function(said, series) {
  if (series > 1) sprintf("%s of %d series", said, series) else said
}

# How many of several series are of each verdict; `words` says it of several.
counted_verdicts <- function(verdict, words, noun = c("series", "series")) {
  counts <- table(verdict)
  words <- words[names(counts)]
  one <- counts == 1
  agreeing <- c(
    "have has", "are is", "differ differs", "share shares", "show shows"
  )
  for (verb in agreeing) {
    forms <- strsplit(verb, " ")[[1]]
    words[one] <- sub(sprintf("^%s\\b", forms[[1]]), forms[[2]], words[one])
  }
  sprintf(
    "Of %s, %s.", count_of(length(verdict), noun[[1]], noun[[2]]),
    in_words(sprintf("%d %s", counts, words))
  )
}

first_few <- function(x, n = 3) x[seq_len(min(n, length(x)))]

# In quotes, and no longer than a line can take.
quoted <- function(x, most = 80) {
  long <- nchar(x, type = "chars", allowNA = TRUE) > most
  long <- !is.na(x) & (is.na(long) | long)
  x[long] <- paste0(
    substr(iconv(x[long], "UTF-8", "UTF-8", sub = "?"), 1, most - 3), "..."
  )
  encodeString(x, quote = "\"", na.encode = TRUE)
}

# What was given for an argument, for whoever is told that it is something else.
value_in_words <- function(x) {
  if (is.null(x)) {
    "not given"
  } else if (is.atomic(x) && (!is.object(x) || length(x) == 1)) {
    values_in_words(x)
  } else {
    thing_in_words(x)
  }
}

values_in_words <- function(x, most = 4) {
  if (length(x) == 0) {
    return("empty")
  }
  shown <- first_few(x, most)
  said <- if (is.character(x) || is.factor(x)) quoted(as.character(shown)) else
    vapply(shown, plain_format, "")
  more <- length(x) - length(said)
  in_words(c(said, if (more > 0) paste(more, "more")))
}

thing_in_words <- function(x) {
  if (inherits(x, "backfill_table")) {
    sprintf("a table of another kind (%s)", attr(x, "backfill")$what)
  } else if (is.data.frame(x)) {
    sprintf("a data frame of %s", count_of(length(x), "column"))
  } else if (is.function(x)) {
    "a function"
  } else {
    sprintf("a %s of length %d", class(x)[[1]], length(x))
  }
}
