# The cadences of a source. Rows without any value, such as the weekends of a
# file that has a row for each day, are no proof that something is expected.

found_cadences <- function(x, outline, survey, table) {
  kept <- facts(x)$kept
  valued <- with_values(x, outline)
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

# The source without the rows that have no value at all; NULL where there are
# none, or no others, or where the source cannot tell.
with_values <- function(x, outline) UseMethod("with_values")

#' @export
with_values.default <- function(x, outline) NULL

#' @export
with_values.backfill_records <- function(x, outline) {
  lacks <- !has_value(plain_tibble(x)[plain_names(x)], nrow(x))
  if (any(lacks) && !all(lacks)) x[!lacks, ]
}

#' @export
with_values.backfill_chunked <- function(x, outline) {
  found <- collected(x)
  if (!all(plain_names(x) %in% found$account$missing$measure)) {
    return(NULL)
  }
  chunk <- found$chunk
  found$chunk <- function(i, name) {
    figures <- lapply(
      stats::setNames(nm = plain_names(x)), function(one) chunk(i, one)$value
    )
    part <- chunk(i, name)
    lapply(part, `[`, has_value(figures, length(part$when)))
  }
  source <- new.env(parent = emptyenv())
  source$found <- found
  attr(x, "backfill")$source <- source
  x
}
