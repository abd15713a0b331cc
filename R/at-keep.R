# keep_dates() of records elsewhere: rules that the query keeps to.

#' @export
source_keep.backfill_records_at <- function(
  x, from, to, weekdays, hours, workdays, holidays
) {
  role <- facts(x)
  dates <- role$at$moments$kind == "date"
  off <- check_days_off(workdays, holidays)
  rules <- list(
    if (!is.null(from)) {
      bound_sql(bound(from, "from", FALSE, role$zone), ">=", dates)
    },
    if (!is.null(to)) {
      bound_sql(bound(to, "to", TRUE, role$zone), "<", dates)
    },
    if (!is.null(weekdays)) {
      kept <- check_weekdays(weekdays, "weekdays")
      sprintf("%s IN (%s)", weekday_sql("zd"), listed(kept - 1))
    },
    if (!is.null(hours)) {
      check_hours(hours, dates)
      hour <- role$at$engine$div("zs - zd * 86400", "3600")
      sprintf("%s IN (%s)", hour, listed(hours))
    },
    if (!is.null(workdays)) {
      working <- open_sql("zd", list(weekdays = 31, holidays = c(off)))
      if (workdays) working else sprintf("NOT (%s)", working)
    }
  )
  role$at$keep <- c(role$at$keep, unlist(rules))
  attr(x, "backfill") <- with_kept(
    role, from, to, weekdays, hours, workdays, holidays
  )
  x
}

# Instants as such, other bounds by the clock; see side_of().
bound_sql <- function(bound, sign, dates) {
  sprintf(
    "%s %s %s", if (bound$instant && !dates) "e" else "zs + e - own", sign,
    as_digits(bound$second)
  )
}

kept_at <- function(x) unlist(facts(x)$at$keep)
