# Sections that show the same by unlike periods, such as months and quarters:
# on a page one of them is seen at a time, with a choice between them.

# Those that show the same stand behind the first of them, whose id they have as
# `alike`; what they are called is their `length`.
with_lengths <- function(sections) {
  shows <- vapply(sections, function(section) {
    section$shows %||% section$id
  }, "")
  first <- match(shows, shows)
  lengths <- vapply(sections, function(one) one$length %||% NA_character_, "")
  chosen <- vapply(split(lengths, first), function(own) {
    length(own) > 1 && !anyDuplicated(own)
  }, NA)
  alike <- first %in% as.integer(names(which(chosen)))
  order <- order(ifelse(alike, first, seq_along(sections)))
  ids <- vapply(sections, `[[`, "", "id")
  Map(function(section, alike, of) {
    if (alike) section$alike <- of
    section
  }, sections, alike, ids[first])[order]
}

# What a result shows, whatever the length of its periods, and what these are
# called; NULL of one that has none.
shown_by_length <- function(x) {
  about <- facts(x)
  if (is_read(x) || is.null(about$calendar)) {
    return(NULL)
  }
  list(
    shows = rlang::hash(list(
      class(x), about$what, about$series, names(about$measures), about$sources,
      vapply(about$added, `[[`, "", "verb"), about[c("against", "beyond", "of")]
    )),
    length = period_noun(about$calendar)
  )
}
