# Columns of a table renamed: what is known of them goes with them.

# `new` has the new names by the old ones.
renamed <- function(names, new) {
  at <- names %in% names(new)
  replace(names, at, new[names[at]])
}

# The facts of a table whose columns were called `before` and are `after` now.
# Columns that every table of its sort has, such as `value`, keep their meaning
# by their names alone.
facts_renamed <- function(role, before, after) {
  free <- c(
    role$series, role$when, role$known, if (!is.null(role$when)) names(
      role$measures
    )
  )
  changed <- before != after & before %in% free
  new <- stats::setNames(after[changed], before[changed])
  if (length(role$added) > 0) {
    role$added <- renamed_notes(role$added, before, after)
  }
  if (length(new) == 0) {
    return(role)
  }
  role$layout <- NULL
  for (
    name in intersect(
      c("needed", "series", "when", "apart", "known"), names(role)
    )
  ) {
    role[[name]] <- renamed(role[[name]], new)
  }
  if (!is.null(role$when)) {
    role$measures <- renamed_measures(role$measures, new)
    role$account$missing$measure <- renamed(role$account$missing$measure, new)
  }
  role$measures <- lapply(role$measures, function(one) {
    if (!is.null(one$key)) one$key <- renamed(one$key, new)
    one
  })
  columns_renamed(role, new)
}

# The same of the columns of every table in a list, and in lists within it.
columns_renamed <- function(known, new) {
  lapply(known, function(one) {
    if (is.data.frame(one)) {
      names(one) <- renamed(names(one), new)
      one
    } else if (is.list(one) && !is.object(one)) {
      columns_renamed(one, new)
    } else {
      one
    }
  })
}

renamed_measures <- function(measures, new) {
  names(measures) <- renamed(names(measures), new)
  lapply(measures, function(one) {
    for (part in c("of", "per")) {
      if (!is.null(one[[part]])) one[[part]] <- renamed(one[[part]], new)
    }
    one
  })
}
