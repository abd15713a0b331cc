# Layout "series across": each column but those of the date is a series.

# Each column but those of the date is a series. One header row names the
# series; of two, one may name the measures.
series_down <- function(raw, when, measures, series) {
  header <- lapply(raw$header, function(row) replace(row, is.na(row), ""))
  upper <- seq_len(length(header) - 1)
  header[upper] <- lapply(header[upper], filled_across)
  lowest <- header[[length(header)]]
  is_when <- Reduce(`|`, lapply(raw$header, function(row) row %in% when))
  is_source <- lowest %in% raw$series
  if (sum(is_when) != length(when)) {
    columns <- stats::setNames(nm = lowest)
    check_columns(when, columns, basename(raw$sources$source[[1]]), "when")
  }
  wanted <- names(plain_measures(measures))
  measure_row <- row_of_measures(header, wanted)
  if (is.null(measure_row)) {
    one_measure(measures, "series across")
  }
  of_series <- setdiff(seq_along(header), measure_row)
  check_series_rows(series, of_series)
  used <- which(!is_when & !is_source)
  left <- character()
  if (!is.null(measure_row)) {
    measure <- header[[measure_row]]
    known <- measure[used] %in% names(measures)
    left <- unique(measure[used][!known])
    used <- used[known]
  }
  if (length(used) == 0) {
    abort_backfill("layout", "There is no column beside the date.")
  }
  key <- vctrs::new_data_frame(
    stats::setNames(lapply(header[of_series], `[`, used), series)
  )
  measure_of <- columns_of_measures(
    used, key, if (!is.null(measure_row)) header[[measure_row]], wanted
  )
  check_all_untaken(c(series, wanted), c(when, raw$series))
  names(raw$data)[is_when] <- when[
    match(header_of(raw$header, which(is_when), when), when)
  ]
  raw$notes <- c(
    raw$notes, across_note(raw, vctrs::vec_unique_count(key)), left_note(left)
  )
  stacked <- across(
    raw, which(is_when | is_source),
    new_blocks(used, measure_of, as.list(vctrs::vec_unique(key)), wanted)
  )
  with_roles(stacked, unname_single(when), c(series, raw$series))
}

check_all_untaken <- function(names, taken) {
  for (name in names) {
    check_untaken(name, taken, "series")
  }
}

# The row of the header that names the measures, or NULL.
row_of_measures <- function(header, wanted) {
  if (length(header) > 1) {
    holds <- vapply(header, function(row) all(wanted %in% row), NA)
    if (any(holds)) which(holds)[[1]]
  }
}

check_series_rows <- function(series, of_series) {
  if (length(series) != length(of_series)) {
    abort_backfill(
      "argument",
      "`series` gives {count_of(length(series), 'name')}; the header has",
      "{count_of(length(of_series), 'row')} that tell series apart.",
      ">" = "Give one name for each such row: what stands in it, such as",
      "\"species\"."
    )
  }
}

# For each measure, which of the columns in use holds it for each key.
columns_of_measures <- function(used, key, measure, wanted) {
  id <- as.integer(vctrs::vec_group_id(key))
  lapply(wanted, function(name) {
    here <- if (is.null(measure)) used else used[measure[used] == name]
    at <- id[match(here, used)]
    if (anyDuplicated(at)) {
      twice <- key[[1]][match(at[duplicated(at)][[1]], id)]
      abort_backfill(
        "column", "Two columns have the same header, {quoted(twice)}."
      )
    }
    match(here[match(seq_len(max(id, 0)), at)], used)
  })
}

across_note <- function(raw, count) {
  glue("Series stand across: {cells_in_words(raw, count, 'series', 'series')}.")
}

left_note <- function(left) {
  if (length(left) > 0) {
    sprintf(
      "Columns left out, as `measures` does not name them: %s.",
      in_words(quoted(left))
    )
  }
}

header_of <- function(header, columns, when) {
  vapply(columns, function(column) {
    names <- vapply(header, `[[`, "", column)
    names[names %in% when][[1]]
  }, "")
}
