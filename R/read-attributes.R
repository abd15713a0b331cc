#' Add attributes from a small table
#'
#' Joins a table with a row per key (islands and their residents, inns and
#' their harbours) to records. Keys without a match on either side are reported,
#' never dropped: records without one are kept, with missing values.
#'
#' @param x A records table, from [read_records()] or [as_records()].
#' @param table A data frame, or the path of a file in a format that
#'   [read_records()] reads, with one row per key.
#' @param key Names of the columns that hold the key, in both tables; `NULL` for
#'   all that both have.
#' @param measures Kinds of the columns that become measures, as in
#'   [read_records()], such as `c(residents = "level")`, so that ratios can be
#'   made of them; `NULL` where they are attributes only.
#' @return `x` with the other columns of `table`. What did not match is said in
#'   a message of class `backfill_message_unmatched` and in the account, see
#'   [account()].
#' @section Errors: `backfill_error_input`, `backfill_error_column` (a key that
#'   is not there, a column that is already), `backfill_error_duplicates` (a key
#'   with several rows in `table`), `backfill_error_number` (a measure that
#'   holds no numbers).
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), when = "month", series = "inn",
#'   measures = c(guest_nights = "flow")
#' )
#' nights <- add_attributes(
#'   nights, demo_file("islands.csv"), key = "island",
#'   measures = c(residents = "level")
#' )
#' add_measures(nights, per_resident = guest_nights / residents)
#' @export
add_attributes <- function(x, table, key = NULL, measures = NULL) {
  check_given()
  columns <- source_columns(x)
  beside <- side_file(table)
  table <- read_small_table(table)
  names(table) <- as_in_records(names(table), columns)
  key <- if (is.null(key)) shared_key(table, columns) else
    as_in_records(key, columns)
  keys_there <- check_key(table, key, columns)
  new <- setdiff(names(table), key)
  taken <- intersect(new, columns)
  if (length(taken) > 0) {
    abort_backfill(
      "column", "The records have a column {in_words(quoted(taken))} already.",
      ">" = "Rename it in the table of attributes."
    )
  }
  declared <- if (is.null(measures)) list() else check_measures(measures)
  table <- with_declared(table, new, declared)[new]
  # They may tell series apart later, as `by`.
  telling <- setdiff(new, names(declared))
  names(table) <- ifelse(new %in% telling, renamed_series(new), new)
  joined <- source_joined(x, table, keys_there)
  if (length(joined$said) > 0) {
    rlang::inform(joined$said, class = "backfill_message_unmatched")
  }
  # An attribute belongs to its key, and is one figure however many series have
  # that.
  declared <- lapply(declared, function(measure) {
    measure$key <- key
    measure
  })
  with_joined(
    joined$x, declared, c(renamed_note(telling), joined$said), beside
  )
}

# The names of the columns of a source.
source_columns <- function(x) UseMethod("source_columns")

#' @export
source_columns.default <- function(x) {
  check_records(x)
  names(x)
}

# list(x, said): a source with the columns of a table, by the `keys` of its
# rows, and what did not match.
source_joined <- function(x, table, keys) UseMethod("source_joined")

#' @export
source_joined.backfill_records <- function(x, table, keys) {
  key <- names(keys)
  # The keys of the records, each once.
  there <- series_index(
    vctrs::new_data_frame(lapply(as.list(x)[key], as.character)), key
  )
  found <- vctrs::vec_match(there$names, keys)
  role <- facts(x)
  data <- plain_tibble(x)
  for (name in names(table)) {
    data[[name]] <- table[[name]][found[there$index]]
  }
  counts <- tabulate(there$index, nrow(there$names))
  list(
    x = new_table(data, "records", role$needed, role),
    said = unmatched(there$names, counts, found, keys)
  )
}

# With the measures among the columns that were joined.
with_joined <- function(x, declared, said, beside) {
  UseMethod("with_joined")
}

#' @export
with_joined.backfill_records <- function(x, declared, said, beside) {
  role <- facts(x)
  role$measures <- c(role$measures, declared)
  role$account$notes <- c(role$account$notes, said)
  role$beside <- c(role$beside, beside)
  needed <- c(role$when, role$series, names(role$measures))
  new_table(plain_tibble(x), "records", needed, role)
}

# A series that was renamed, as results have columns of its name, is found by
# the name that the table still has.
as_in_records <- function(names, columns) {
  renamed <- !names %in% columns & renamed_series(names) %in% columns
  replace(names, renamed, renamed_series(names)[renamed])
}

shared_key <- function(table, columns) {
  key <- intersect(names(table), columns)
  if (length(key) == 0) {
    abort_backfill(
      "column",
      "The table of attributes has no column that the records have:",
      "{in_words(quoted(names(table)))}.",
      i = "The records have {in_words(quoted(columns))}.",
      ">" = "Name the column that holds the key alike in both."
    )
  }
  key
}

# The key of each row of the table of attributes, as text.
check_key <- function(table, key, columns) {
  if (!is.character(key) || length(key) == 0) {
    abort_backfill(
      "argument",
      "`key` is {value_in_words(key)}; it must name the columns that hold it."
    )
  }
  there <- stats::setNames(columns, columns)
  check_columns(key, there, "The records table", "key")
  check_columns(key, table, "The table of attributes", "key")
  key <- vctrs::new_data_frame(lapply(as.list(table)[key], as.character))
  if (vctrs::vec_duplicate_any(key)) {
    twice <- vctrs::vec_slice(key, which(vctrs::vec_duplicate_detect(key))[[1]])
    abort_backfill(
      "duplicates",
      "The table of attributes has several rows for",
      "{in_words(paste(unlist(twice), collapse = ' / '))}.",
      ">" = "Give it one row per key."
    )
  }
  key
}

# The table with its declared measures as numbers.
with_declared <- function(table, new, declared) {
  check_columns(
    names(declared), table[new], "The table of attributes", "measures"
  )
  for (name in names(declared)) {
    column <- table[[name]]
    read <- read_number(
      if (is.factor(column)) as.character(column) else column,
      guess_mark(column)
    )
    if (length(read$bad) > 0 || all(is.na(read$value))) {
      abort_backfill(
        "number",
        "Column \"{name}\" of the table of attributes holds no numbers.",
        i = if (length(read$bad) > 0) {
          paste(
            "Row {read$bad[[1]]} has",
            "{quoted(as.character(column[[read$bad[[1]]]]))}."
          )
        }
      )
    }
    table[[name]] <- read$value
  }
  table
}

# The path of a file that was read beside the records, whole, so that it is
# known again.
side_file <- function(file) {
  if (is.character(file)) normalizePath(
    file, mustWork = FALSE
  )
}

read_small_table <- function(table) {
  if (is.data.frame(table)) {
    return(vctrs::new_data_frame(as.list(table)))
  }
  scratch <- tempfile("backfill-")
  dir.create(scratch)
  on.exit(unlink(scratch, recursive = TRUE))
  raw <- read_sources(table, plain_form(), NULL, scratch)
  vctrs::new_data_frame(raw$data)
}

# `counts` says how many rows have each of the keys there.
unmatched <- function(there, counts, found, key) {
  named <- function(table) {
    in_words(
      quoted(do.call(paste, c(unname(as.list(table)), sep = " / "))), 6
    )
  }
  lost <- is.na(found)
  unused <- setdiff(seq_len(nrow(key)), found)
  c(
    if (any(lost)) {
      glue(
        "No attributes for {named(vctrs::vec_slice(there, lost))}:",
        "{count_of(sum(counts[lost]), 'row is', 'rows are')} without."
      )
    },
    if (length(unused) > 0) {
      sprintf(
        "Attributes without a record: %s.", named(vctrs::vec_slice(key, unused))
      )
    }
  )
}
