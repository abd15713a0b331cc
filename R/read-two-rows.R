# Two rows of headers: what inspect_file() makes of them.

# The upper row has names over several columns each, filled once or in every
# column, and no pair of names is there twice.
is_two_row_header <- function(raw) {
  upper <- filled_across(raw$header[[1]])
  lower <- raw$header[[2]]
  named <- nzchar(upper) & nzchar(lower)
  sum(named) >= 2 && length(unique(upper[named])) >= 2 && !any(is_date_text(
    upper[named]
  )) &&
    anyDuplicated(paste(upper, lower, sep = "\r")[named]) == 0 && raw$rows > 0
}

# An upper name stands over all columns up to the next one, as a merged cell
# does.
filled_across <- function(row) {
  row[is.na(row)] <- ""
  filled <- cummax(seq_along(row) * (row != ""))
  ifelse(filled == 0, "", row[pmax(filled, 1)])
}

is_date_text <- function(text) {
  rowSums(
    read_dates_cpp(text, 1969L, 1L)$outcome == 0L
  ) > 0
}

# Which of the two rows names measures cannot be seen for sure: the upper one is
# taken where each of its names stands over the same lower ones.
guess_two_rows <- function(raw) {
  lower <- raw$header[[2]]
  share <- vapply(raw$data, share_of_dates, 0)
  date <- which(share >= 0.8)[1]
  if (is.na(date)) {
    abort_backfill(
      "when", "No column of {basename(raw$sources$source[[1]])} holds dates.",
      i = "Its columns are {in_words(quoted(lower))}."
    )
  }
  when <- if (nzchar(lower[[date]])) lower[[date]] else raw$header[[1]][[date]]
  upper <- filled_across(raw$header[[1]])
  cells <- setdiff(which(nzchar(upper) & nzchar(lower)), date)
  kinds <- kinds_across(raw, split(cells, factor(
    upper[cells], unique(upper[cells])
  )))
  kind <- vapply(kinds, `[[`, "", "kind")
  reason <- vapply(kinds, `[[`, "", "reason")
  list(
    columns = new_rows(
      column = c(when, names(kinds), in_words(unique(lower[cells]), 6)),
      role = c("date", rep("measure", length(kinds)), "series across"),
      kind = c("", unname(kind), ""),
      reason = c(
        dates_in_words(share[[date]]),
        unname(reason), "stand in the second row of the header"
      )
    ),
    arguments = list(
      when = when, measures = as.list(kind), layout = "series across",
      header_rows = 2
    ),
    notes = c(
      rows_to_decide(names(kinds)), kinds = kinds_to_decide(kinds)
    )
  )
}

# The kind of each measure, of which several columns stand side by side.
kinds_across <- function(raw, columns) {
  lapply(stats::setNames(nm = names(columns)), function(name) {
    values <- stack_columns(unname(raw$data[columns[[name]]]))
    guess_kind(
      name, read_number(values, guess_mark(values))$value,
      rep(seq_along(columns[[name]]), each = raw$rows)
    )
  })
}

rows_to_decide <- function(names) {
  glue(
    "For you to decide: the upper row of the header is taken for the names of",
    "measures ({in_words(quoted(names), 4)}) and the lower one for those of",
    "series. If it is the other way round, name those of the lower row in",
    "`measures`."
  )
}
