# What tables know of the cadences of their records: list(names, cadences, from,
# to, spare), a row and an element for each series; for each series and measure,
# which `names` tell then, where measures come by cadences of their own.

# Of what is known the rows of one measure; all where measures have the same.
cadences_of_measure <- function(known, name) {
  if (is.null(known$names[["measure"]])) {
    return(known)
  }
  rows <- which(known$names[["measure"]] == name)
  known <- lapply(known, vctrs::vec_slice, rows)
  known$names[["measure"]] <- NULL
  known
}

# What is known of `each` measure, by its name, in one.
cadences_by_measure <- function(each) {
  each <- Map(function(known, name) {
    known$names[["measure"]] <- rep(name, nrow(known$cadences))
    known
  }, each, names(each))
  part <- function(of) unname(lapply(each, `[[`, of))
  list(
    names = vctrs::vec_rbind(!!!part("names")),
    cadences = vctrs::vec_rbind(!!!part("cadences")),
    from = unlist(part("from")), to = unlist(part("to")),
    spare = unlist(part("spare"))
  )
}

# Of two tables, each with its measures. Of a series that both have, that of the
# first.
cadences_of_both <- function(one, other, measures, others) {
  apart <- function(known) !is.null(known$names[["measure"]])
  if (apart(one) || apart(other)) {
    split <- function(known, measures) {
      cadences_by_measure(lapply(
        stats::setNames(nm = measures),
        function(name) cadences_of_measure(known, name)
      ))
    }
    one <- split(one, measures)
    other <- split(other, others)
  }
  names <- vctrs::vec_rbind(one$names, other$names)
  kept <- which(!vctrs::vec_duplicate_detect(names) |
                  seq_len(nrow(names)) <= nrow(one$names))
  list(
    names = vctrs::vec_slice(names, kept),
    cadences = vctrs::vec_slice(
      vctrs::vec_rbind(one$cadences, other$cadences), kept
    ),
    from = ends_of_both(one$from, other$from, names, min),
    to = ends_of_both(one$to, other$to, names, max),
    spare = ends_of_both(one$spare, other$spare, names, min)
  )
}

ends_of_both <- function(one, other, names, outer) {
  if (!is.null(one) && !is.null(other)) {
    as.vector(tapply(c(one, other), vctrs::vec_group_id(names), outer))
  }
}
