# Logs of events, whose rows are counted.

# With a column of ones for each measure that counts the rows.
with_counts <- function(raw, asked) {
  for (name in counted_names(asked$measures)) {
    if (asked$layout != "rows") {
      abort_backfill(
        "argument",
        "\"{name}\" counts the rows, but `layout` is \"{asked$layout}\".",
        i = "Rows are records only where `layout` is \"rows\"."
      )
    }
    if (name %in% names(raw$data)) {
      abort_backfill(
        "column",
        "\"{name}\" is to count the rows, but it is the name of a column.",
        ">" = "Name the count in another way, or say what kind of figures",
        "\"{name}\" holds, such as a flow."
      )
    }
    raw$data[[name]] <- rep(1, raw$rows)
  }
  raw
}

# Where nothing is measured, the rows themselves are counted.
rows_counted <- function(columns) {
  name <- setdiff(c("records", "rows", "row_count"), columns)[[1]]
  stats::setNames(list(list(
    kind = "count", reason = "no column holds figures: the rows are counted"
  )), name)
}

# By the first column of few texts, where no other tells rows apart.
series_of_events <- function(data, texts, parts, most = 12) {
  few <- Filter(function(name) {
    length(unique(data[[name]])) %in% 2:most
  }, texts)
  if (length(parts$series) > 0 || length(few) == 0) {
    return(parts)
  }
  list(series = few[[1]], reason = sprintf(
    "sorts the rows (%s)", count_of(length(unique(data[[few[[1]]]])), "value")
  ))
}
