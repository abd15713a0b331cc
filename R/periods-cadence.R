# The cadences of a source. Rows without any value, such as the weekends of a
# file that has a row for each day, are no proof that something is expected.

found_cadences <- function(x, outline, survey, table, call = caller_env()) {
  kept <- facts(x)$kept
  cadences <- find_cadences(survey, kept, table)
  valued <- with_values(x, outline)
  if (is.null(valued)) {
    return(cadences)
  }
  own <- source_outline(valued, outline$by, call)
  proof <- source_survey(valued, own, table, TRUE)
  told <- which(proof$each$records > 0)
  proof$each[-told, ] <- survey$each[-told, ]
  series <- if (length(outline$names) == 0) 1L else
    vctrs::vec_match(own$names, outline$names)
  vctrs::vec_slice(cadences, series[told]) <- vctrs::vec_slice(
    find_cadences(proof, kept, table), told
  )
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

#' @export
with_values.backfill_records_at <- function(x, outline) {
  if (sum(outline$census$bare) == 0) {
    return(NULL)
  }
  attr(x, "backfill")$at$valued <- sprintf("NOT (%s)", bare_at(x))
  left <- ask_grouped(
    facts(x)$at$engine, timed_at(x, outline), NULL, c(n = "COUNT(*)")
  )$n
  if (left > 0) x
}

# The rule of a row that has none of the measures.
bare_at <- function(x) {
  lacks <- vapply(
    column_at(x, plain_names(x)), facts(x)$at$engine$lacks, ""
  )
  paste(sprintf("(%s)", lacks), collapse = " AND ")
}

has_value <- function(figures, rows) {
  Reduce(function(there, figure) {
    if (all(there)) there else there | !is.na(figure)
  }, as.list(figures), logical(rows))
}
