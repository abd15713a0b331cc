# Names of series that may be one, written in several ways: alike but for
# capitals, and for blanks and marks between words, or, of a rare name, by one
# letter. Short names, and marks beside digits or at an end, may be codes.

# What is said of a series column, which has these `names` in its rows `x`.
names_alike_note <- function(column, names, x) {
  found <- names_alike(names, x)
  groups <- vapply(first_few(found, 5), or_in_words, "")
  if (length(found) > 0) glue(
    "Names in {quoted(column)} that may be one series:",
    "{paste(groups, collapse = '; ')}. `recode` makes them one."
  )
}

or_in_words <- function(names) in_words(quoted(names), last = " or ")

# Groups of names, the most frequent of each first; `x` are those of the rows.
names_alike <- function(names, x) {
  names <- names[!is.na(names) & nzchar(names)]
  plain <- trimws(names)
  folded <- gsub(
    "(?<=[[:alpha:]])[-_. ]+(?=[[:alpha:]])", "", tolower(plain), perl = TRUE
  )
  plain <- ifelse(nchar(folded) < 3, plain, folded)
  groups <- unname(split(names, factor(plain, unique(plain))))
  count <- NULL
  counted <- function(names) {
    if (is.null(count)) count <<- table(x)
    as.vector(count[names])
  }
  groups <- with_misspelt(groups, unique(plain), counted)
  lapply(groups[lengths(groups) > 1], function(group) {
    group[order(-counted(group))]
  })
}

# A name of five letters or more joins one that has one letter otherwise, the
# same digits and twenty times as many rows. Of very many names none is sought.
with_misspelt <- function(groups, plain, counted) {
  long <- which(nchar(plain) >= 5)
  if (length(long) < 2 || length(long) > 300) {
    return(groups)
  }
  digits <- gsub("[^0-9]+", " ", plain[long])
  near <- utils::adist(plain[long]) == 1 & outer(digits, digits, "==")
  pairs <- which(near & upper.tri(near), arr.ind = TRUE)
  for (i in seq_len(nrow(pairs))) {
    two <- long[pairs[i, ]]
    rows <- vapply(two, function(one) sum(counted(groups[[one]])), 0)
    if (min(rows) > 0 && max(rows) >= 20 * min(rows)) {
      two <- two[order(-rows)]
      groups[[two[[1]]]] <- c(groups[[two[[1]]]], groups[[two[[2]]]])
      groups[[two[[2]]]] <- character()
    }
  }
  groups
}
