# The cadences of a source. Rows without any value, such as the weekends of a
# file that has a row for each day, are no proof that something is expected.

found_cadences <- function(x, outline, survey, table) {
  kept <- facts(x)$kept
  valued <- with_values(x, outline, plain_names(x))
  if (is.null(valued)) {
    return(find_cadences(survey, kept, table))
  }
  own <- source_outline(valued, outline$by)
  proof <- source_survey(valued, own, table, TRUE)
  if (nrow(own$names) == nrow(outline$names)) {
    return(proven_cadences(survey, proof, kept, table))
  }
  # Series without any value are not there.
  cadences <- find_cadences(survey, kept, table)
  series <- vctrs::vec_match(own$names, outline$names)
  vctrs::vec_slice(cadences, series) <- find_cadences(proof, kept, table)
  cadences
}

# For measures with values at a regular step of their own, such as a target of
# each month beside daily sales, list(cadences, surveys) in place of those of
# the table. A series of which less than a tenth lacks is complete by that.
cadences_apart <- function(x, outline, survey, cadences, table) {
  names <- plain_names(x)
  if (length(names) < 2) {
    return(NULL)
  }
  apart <- lapply(stats::setNames(nm = names), function(name) {
    valued <- with_values(x, outline, name, most = lacks_little)
    if (!is.null(valued)) {
      own <- source_outline(valued, outline$by)
      proof <- source_survey(valued, own, table, TRUE)
      series <- if (length(own$names) == 0) 1L else
        vctrs::vec_match(own$names, outline$names)
      own_cadences(proof, series, survey, cadences, facts(x)$kept, table)
    }
  })
  Filter(Negate(is.null), apart)
}

lacks_little <- 0.1

# `proof` is of some of the series alone. Each is judged by itself; fewer than
# four records prove nothing.
own_cadences <- function(proof, series, survey, cadences, kept, table) {
  found <- find_cadences(proof, kept, table)
  records <- proof$each$records
  told <- records >= 4 & !is_irregular(found) &
    records < (1 - lacks_little) * survey$each$records[series]
  own <- cadences
  own[series[told], ] <- found[told, ]
  if (!identical(own, cadences)) {
    surveys <- survey$each
    surveys[series[told], ] <- proof$each[told, ]
    list(cadences = own, surveys = surveys)
  }
}

# The source without the rows that have no value of `names`; NULL where of each
# series at most a share, or of all every one, have none, or where the source
# cannot tell.
with_values <- function(x, outline, names, most = 0) UseMethod("with_values")

#' @export
with_values.default <- function(x, outline, names, most = 0) NULL

#' @export
with_values.backfill_records <- function(x, outline, names, most = 0) {
  lacks <- !has_value(plain_tibble(x)[names], nrow(x))
  count <- function(series) tabulate(series, nrow(outline$names))
  some <- any(count(outline$series[lacks]) > most * count(outline$series))
  if (some && !all(lacks)) x[!lacks, ]
}

#' @export
with_values.backfill_chunked <- function(x, outline, names, most = 0) {
  found <- collected(x)
  missing <- found$account$missing
  each <- vapply(
    names, function(name) sum(missing$count[missing$measure == name]), 0
  )
  rows <- found$account$rows_used
  # How many of each series lack is not known before they are looked at.
  if (min(each) %in% c(0, rows)) {
    return(NULL)
  }
  chunk <- found$chunk
  found$chunk <- function(i, name) {
    figures <- lapply(
      stats::setNames(nm = names), function(one) chunk(i, one)$value
    )
    part <- chunk(i, name)
    lapply(part, `[`, has_value(figures, length(part$when)))
  }
  source <- new.env(parent = emptyenv())
  source$found <- found
  attr(x, "backfill")$source <- source
  x
}
