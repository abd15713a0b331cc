# The arguments that say how dates and figures are written and what becomes of
# rows, checked: what read_records() and as_records() have in common.
check_rules <- function(
  date_order, date_unit, pivot_year, year_start, repeated, missing,
  decimal_mark, duplicates, strict, hour_ending = NULL, call = caller_env()
) {
  if (!is.null(date_order)) {
    check_one_of(date_order, names(date_orders), "date_order", call)
  }
  if (!is.null(date_unit)) {
    check_one_of(date_unit, names(date_units), "date_unit", call)
  }
  check_whole(
    pivot_year, "pivot_year", 1, 9899,
    "the first of the hundred years that two digits can mean", call
  )
  if (!is.null(year_start)) {
    check_whole(
      year_start, "year_start", 1, 12,
      "the month in which a fiscal year starts", call
    )
  }
  check_one_of(repeated, c("order", "first", "second"), "repeated", call)
  if (!is.null(missing) && !(is.atomic(missing) && length(missing) > 0)) {
    abort_backfill(
      "argument", sprintf("`missing` is %s.", value_in_words(missing)),
      i = "It must be codes such as c(\"-99\", \"closed\").", call = call
    )
  }
  if (!is.null(decimal_mark)) {
    check_one_of(decimal_mark, c(".", ","), "decimal_mark", call)
  }
  check_one_of(duplicates, names(duplicate_rules), "duplicates", call)
  check_flag(strict, "strict", call)
  if (!is.null(hour_ending)) {
    check_flag(hour_ending, "hour_ending", call)
  }
  list(
    date_order = date_order, date_unit = date_unit,
    pivot_year = as.integer(pivot_year),
    year_start = if (!is.null(year_start)) as.integer(year_start),
    repeated = repeated, missing = trimws(as.character(missing)),
    decimal_mark = decimal_mark, duplicates = duplicates, strict = strict,
    hour_ending = hour_ending
  )
}
