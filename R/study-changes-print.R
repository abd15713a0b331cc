# What changed between two runs, in words.

# Flags first, then records, then figures, those that moved most before others;
# what goes beyond `most` sentences is counted.
#' @export
describe.backfill_run_changes <- function(x, ..., most = 5) {
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
  rows <- plain_tibble(x)
  off <- abs(rows$percent)
  said <- c(
    told_of_each(changed_flags, rows), told_of_each(changed_records, rows),
    told_of_each(changed_choices, rows),
    told_of_each(moved_figures, rows[order(-off, na.last = TRUE), ]),
    told_of_each(changed_rows, rows)
  )
  first <- seq_len(min(most, length(said)))
  c(
    unname(said[first]),
    if (length(said) > most) sprintf(
      "There are further changes in %s.", in_words(unique(names(said)[-first]))
    ),
    describe_rounded(x), apart
  )
}

# What is told of the rows of each table, by the tables' names.
told_of_each <- function(told, rows) {
  unlist(lapply(unique(rows$table), function(name) {
    said <- as.character(told(name, rows[rows$table == name, ]))
    stats::setNames(said, rep(name, length(said)))
  }))
}

# What differs in digits that nobody reads is not listed, but counted.
describe_rounded <- function(x) {
  n <- sum(is_rounded_away(x))
  if (n > 0) sprintf(
    "%s changed by less than is shown, and %s not listed.",
    count_of(n, "figure"), if (n > 1) "are" else "is"
  )
}

is_rounded_away <- function(x) {
  shown <- function(text) each_figure(suppressWarnings(as.numeric(text)))
  moved <- which(x$what == "moved" & !is.na(x$before) & !is.na(x$after))
  hidden <- shown(x$before[moved]) == shown(x$after[moved])
  seq_len(nrow(x)) %in% moved[hidden %in% TRUE]
}

#' @export
report_weight.backfill_run_changes <- function(x) if (nrow(x) > 0) 7 else 1

# Columns and steps say nothing to a colleague: of figures there is a count.
#' @export
headline.backfill_run_changes <- function(x) {
  rows <- plain_tibble(x)
  moved <- sum(rows$what == "moved")
  said <- c(
    told_of_each(changed_flags, rows), told_of_each(changed_records, rows),
    told_of_each(changed_choices, rows),
    if (moved > 0) sprintf("In all %s changed.", count_of(moved, "figure"))
  )
  if (length(said) > 0) unname(said) else describe(x)
}

#' @export
said_in_report.backfill_run_changes <- function(x) describe(x, most = Inf)

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
      "Rows of %s: %s.", name,
      in_words(paste(thousands(counts), names(counts))[counts > 0])
    ),
    if (any(grepl("^(table|source) ", rows$what))) {
      sprintf(
        "%s %s is %s.", sentence_case(sub(" .*", "", rows$what[[1]])), name,
        sub("added", "new", sub("^.* ", "", rows$what[[1]]))
      )
    },
    changed_columns(name, rows)
  )
}

# What the figures decided otherwise than before.
changed_choices <- function(name, rows) {
  rows <- rows[rows$what == "choice", ]
  sprintf(
    "The %s of %s%s is %s now; it was %s.", rows$column, name,
    ifelse(nzchar(rows$where), paste(" for", rows$where), ""),
    rows$after, rows$before
  )
}

# Columns that came or went, and texts such as standings that are others.
changed_columns <- function(name, rows) {
  apart <- rows[grepl("^column ", rows$what), ]
  texts <- rows[rows$what == "changed", ]
  first <- utils::head(texts, 1)
  c(
    if (nrow(apart) > 0) sprintf(
      "Column %s of %s is %s.", apart$column, name,
      sub("added", "new", sub("^column ", "", apart$what))
    ),
    if (nrow(texts) > 0) sprintf(
      "%s of %s changed%s the %s of %s, from %s to %s.",
      count_of(nrow(texts), "text"), name,
      if (nrow(texts) > 1) ", such as" else ":", first$column, first$where,
      or_nothing(first$before), or_nothing(first$after)
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
  said <- sprintf("%s of %s moved", count_of(nrow(moved), "figure"), name)
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
      sprintf("%s in %s: %s.", words, name, in_words(where, 6))
    }
  }
  c(
    of("flagged", "Newly flagged"), of("cleared", "No longer flagged")
  )
}

#' @export
column_units.backfill_run_changes <- function(x) c(percent = "%")

#' @export
table_cells.backfill_run_changes <- function(x, n = Inf) {
  shown <- first_rows_of(x[!is_rounded_away(x), ], n)
  for (side in c("before", "after")) {
    number <- suppressWarnings(as.numeric(shown[[side]]))
    shown[[side]] <- ifelse(
      is.na(number), shown[[side]], each_figure(number)
    )
  }
  text_cells(shown, column_units(x))
}
