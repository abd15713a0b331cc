# Notes: what a column is that a calculation added. They are kept in the facts
# of a periods table as `added`, by the names of their columns.

# `words` say what the column is, with "{of}" for what it was calculated of, as
# in "growth of {of} over 1 year". `unit` is that of format_cells().
#   withheld  how many figures were not given, by reason
#   change    TRUE where it is a change, which lies around zero
#   drifts    FALSE where it has no level that could drift, as changes have none
#   target    TRUE where it tells of the future: it explains nothing
#   enlarged  of totals, how many were made larger for what they lack (n) and
#             by what share at most (most)
#   unlike    how many changes are between periods of unlike coverage (n), and
#             by what share that moves them at most (most)
#   longer    how many figures span more than one period
#   form_said why it was made by ratios or by differences, in words
#   made      the arguments that it was made with, for trace_value()
# What a verb must know of its own columns comes with it.
new_note <- function(
  verb, of, words, unit = NULL, withheld = NULL, change = FALSE, drifts = TRUE,
  target = FALSE, ...
) {
  list(
    verb = verb, of = of, words = words, unit = unit, withheld = withheld,
    change = change, drifts = drifts, target = target, ...
  )
}

# The note of a column, calculated or not.
note_of <- function(x, name) {
  facts(x)$added[[name]] %||% new_note("value", name, "{of}")
}

# "growth of value over 1 year"
note_in_words <- function(note, of = note$of) {
  sub("{of}", of, note$words, fixed = TRUE)
}

# A note goes with its column, and what other notes say of that column does too.
renamed_notes <- function(added, before, after) {
  named <- function(name) {
    if (name %in% before) after[[match(name, before)]] else name
  }
  added <- lapply(added, function(note) {
    note$of <- named(note$of)
    within <- note$made$within
    if (is.character(within)) note$made$within <- vapply(within, named, "")
    note
  })
  names(added) <- vapply(names(added), named, "")
  added
}

# It goes when its column is replaced by other figures.
without_stale_notes <- function(x, before) {
  noted <- intersect(names(facts(x)$added), names(x))
  stale <- Filter(
    function(name) !identical(.subset2(x, name), .subset2(before, name)), noted
  )
  if (length(stale) > 0) {
    attr(x, "backfill")$added[stale] <- NULL
  }
  x
}
