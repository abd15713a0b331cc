# What changed between two runs, in words.

#' @export
describe.backfill_run_changes <- function(x, ...) {
  lacking <- unique(facts(x)$lacking)
  apart <- c(
    if (!all(facts(x)$kept)) "Records that are not in memory are not compared.",
    if (length(lacking) > 0) sprintf(
      "Records of %s are not compared: their file is gone from a run.",
      in_words(lacking)
    )
  )
  if (nrow(x) == 0) {
    return(c(sprintf(
      "Nothing%s changed between the two runs.",
      if (length(apart) > 0) " that is compared" else ""
    ), apart))
  }
  said <- unlist(lapply(unique(x$table), function(name) {
    rows <- plain_tibble(x)[x$table == name, ]
    c(
      changed_records(name, rows), changed_rows(name, rows),
      moved_figures(name, rows), changed_flags(name, rows)
    )
  }))
  c(said, apart)
}

changed_records <- function(name, rows) {
  counts <- vapply(c("added", "revised", "gone"), function(what) {
    sum(rows$what == paste("record", what))
  }, 0L)
  if (sum(counts) > 0) {
    sprintf(
      "Records of %s: %s.", name,
      in_words(paste(thousands(counts), names(counts))[counts > 0])
    )
  }
}

changed_rows <- function(name, rows) {
  counts <- c(
    added = sum(rows$what == "row added"), gone = sum(rows$what == "row gone")
  )
  c(
    if (sum(counts) > 0) sprintf(
      "%s: %s.", name,
      in_words(paste(
        vapply(counts, count_of, "", "row"), names(counts)
      )[counts > 0])
    ),
    if (any(grepl("^(table|source) ", rows$what))) {
      sprintf("%s: %s.", name, sub("^.* ", "", rows$what[[1]]))
    },
    changed_columns(name, rows)
  )
}

# Columns that came or went, and texts such as standings that are others.
changed_columns <- function(name, rows) {
  apart <- rows[grepl("^column ", rows$what), ]
  texts <- rows[rows$what == "changed", ]
  first <- utils::head(texts, 1)
  c(
    if (nrow(apart) > 0) sprintf(
      "%s: column %s %s.", name, apart$column, sub("^column ", "", apart$what)
    ),
    if (nrow(texts) > 0) sprintf(
      "%s: %s changed%s the %s of %s, from %s to %s.", name,
      count_of(nrow(texts), "text"), if (nrow(texts) > 1) ", such as" else ":",
      first$column, first$where, or_nothing(first$before), or_nothing(
        first$after
      )
    )
  )
}

or_nothing <- function(text) {
  if (is.na(text) || !nzchar(text)) "nothing" else text
}

# The largest move in percent is named.
moved_figures <- function(name, rows) {
  moved <- rows[rows$what == "moved", ]
  if (nrow(moved) == 0) {
    return(NULL)
  }
  said <- sprintf("%s: %s moved", name, count_of(nrow(moved), "figure"))
  if (all(is.na(moved$percent))) {
    return(paste0(said, "."))
  }
  first <- moved[which.max(abs(moved$percent)), ]
  figure <- function(text) trimws(format_figures(as.numeric(text)))
  sprintf(
    "%s%s the %s of %s, from %s to %s (%s).", said,
    if (nrow(moved) > 1) ", most of all" else ":", first$column, first$where,
    figure(first$before), figure(first$after), format_cells(first$percent, "%")
  )
}

changed_flags <- function(name, rows) {
  of <- function(what, words) {
    where <- rows$where[rows$what == what]
    if (length(where) > 0) {
      sprintf("%s: %s: %s.", name, words, in_words(where, 6))
    }
  }
  c(
    of("flagged", "flagged now and not before"),
    of("cleared", "not flagged any more")
  )
}

#' @export
column_units.backfill_run_changes <- function(x) c(percent = "%")

#' @export
table_cells.backfill_run_changes <- function(x, n = Inf) {
  shown <- first_rows_of(x, n)
  for (side in c("before", "after")) {
    number <- suppressWarnings(as.numeric(shown[[side]]))
    shown[[side]] <- ifelse(
      is.na(number), shown[[side]], each_figure(number)
    )
  }
  text_cells(shown, column_units(x))
}
