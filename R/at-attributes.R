# add_attributes() of records elsewhere: a small table becomes cases of the key,
# so that nothing is written there.

#' @export
source_columns.backfill_records_at <- function(x) columns_at(x)

#' @export
source_joined.backfill_records_at <- function(x, table, keys) {
  engine <- facts(x)$at$engine
  texts <- vapply(
    column_at(x, there_as(x, names(keys))), engine$key_text, ""
  )
  found <- ask_grouped(
    engine, new_steps(
      keyed(texts), facts(x)$at$from, there = facts(x)$at$there
    ),
    key_names(texts), c(n = "COUNT(*)")
  )
  there <- vctrs::new_data_frame(stats::setNames(
    lapply(as.list(found)[key_names(texts)], as.character), names(keys)
  ), nrow(found))
  cases <- do.call(paste, c(
    Map(function(text, key) sprintf("%s = %s", text, engine$text(key)),
        unname(texts), unname(as.list(keys))),
    sep = " AND "
  ))
  attr(x, "backfill")$at$attributes <- c(
    facts(x)$at$attributes,
    lapply(table, function(column) {
      cases_of(engine, cases, column)
    })
  )
  list(
    x = x, said = unmatched(there, found$n, vctrs::vec_match(there, keys), keys)
  )
}

cases_of <- function(engine, cases, column) {
  number <- is.numeric(column) && !is.object(column)
  values <- if (number) as_digits(column) else engine$text(as.character(column))
  known <- !is.na(column)
  if (!any(known)) {
    return("NULL")
  }
  sprintf("CASE %s END", paste(
    sprintf("WHEN %s THEN %s", cases[known], values[known]), collapse = " "
  ))
}

#' @export
with_joined.backfill_records_at <- function(x, declared, said, beside) {
  attr(x, "backfill")$measures <- c(facts(x)$measures, declared)
  attr(x, "backfill")$notes <- c(facts(x)$notes, said)
  attr(x, "backfill")$beside <- c(facts(x)$beside, beside)
  x
}

# Columns as SQL: those of the table by their names, attributes as what they
# are.
column_at <- function(x, names) {
  at <- facts(x)$at
  found <- at$attributes[names]
  joined <- names %in% names(at$attributes)
  out <- character(length(names))
  out[!joined] <- at$engine$name(names[!joined])
  out[joined] <- unlist(found[joined])
  out
}
