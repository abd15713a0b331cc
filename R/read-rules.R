# The arguments that say how dates and figures are written and what becomes of
# rows, checked: what read_records() and as_records() have in common.
check_rules <- function(rules) {
  known <- list(
    date_order = names(date_orders), date_unit = names(date_units),
    repeated = c("order", "first", "second"), decimal_mark = c(".", ","),
    duplicates = names(duplicate_rules), spans = c("start", "end")
  )
  # Those that are not given are NULL.
  given <- Filter(Negate(is.null), rules)
  for (name in intersect(names(known), names(given))) {
    check_one_of(given[[name]], known[[name]], name)
  }
  for (name in intersect(c("strict", "hour_ending"), names(given))) {
    check_flag(given[[name]], name)
  }
  check_whole(
    rules$pivot_year, "pivot_year", 1, 9899,
    "the first of the hundred years that two digits can mean"
  )
  if (!is.null(rules$year_start)) {
    check_whole(
      rules$year_start, "year_start", 1, 12,
      "the month in which a fiscal year starts"
    )
    rules$year_start <- as.integer(rules$year_start)
  }
  missing <- rules$missing
  if (!is.null(missing) && !(is.atomic(missing) && length(missing) > 0)) {
    abort_backfill(
      "argument", "`missing` is {value_in_words(missing)}.",
      i = "It must be codes such as c(\"-99\", \"closed\")."
    )
  }
  rules$missing <- trimws(as.character(missing))
  rules$pivot_year <- as.integer(rules$pivot_year)
  rules
}
