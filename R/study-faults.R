# What is wrong with a study: all of it at once, each with its line.

# A list to which faults are added; `add(path, what, hint)`.
new_faults <- function(text) {
  found <- new.env(parent = emptyenv())
  found$lines <- integer()
  found$said <- character()
  list(
    add = function(path, what, hint = NULL) {
      # Only the first few are shown; to look for the lines of thousands would
      # take minutes.
      line <- if (length(found$said) < 100) line_of(text, path) else NA
      found$lines <- c(found$lines, line)
      # What is an argument elsewhere is a key here.
      said <- gsub("`([a-z_.]+)`", "\"\\1\"", c(what, hint))
      found$said <- c(found$said, paste(said, collapse = " "))
    },
    all = function() {
      order <- order(found$lines)
      list(lines = found$lines[order], said = found$said[order])
    }
  )
}

stop_faults <- function(faults, shown) {
  found <- faults$all()
  count <- length(found$said)
  if (count == 0) {
    return(invisible())
  }
  where <- ifelse(
    is.na(found$lines), "", sprintf("line %d: ", found$lines)
  )
  first <- first_few(seq_len(count), 20)
  said <- stats::setNames(
    paste0(where, found$said)[first], rep("x", length(first))
  )
  abort_backfill(
    "study", "{shown} has {count_of(count, 'mistake')}.",
    "{said}",
    if (count > 20) "{c(i = sprintf('%d more are not shown.', count - 20))}"
  )
}

# "Did you mean roll_up?", or what is known.
nearest_known <- function(word, known) {
  far <- utils::adist(word, known)[1, ]
  near <- known[far <= max(1, nchar(word) / 2) & far == min(far, Inf)]
  if (length(near) > 0) {
    glue("Did you mean {in_words(quoted(first_few(near)), last = ' or ')}?")
  } else {
    sprintf("Known are %s.", in_words(quoted(known), 12))
  }
}
