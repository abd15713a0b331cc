# Records of which it is known when each was published. A period may have
# several versions; the later one wins from its own publication on.

#' The records as they stood on a day
#'
#' Keeps the rows that had been published by then, and of each series and time
#' the latest version of those.
#'
#' @param x A records table that was read with `known`.
#' @param date A `Date`, or text such as `"2031-04-09"`; what was published on
#'   that day counts.
#' @return The records table as it stood then.
#' @section Errors: `backfill_error_input` where `x` is not a records table, or
#'   does not say when its rows were known; `backfill_error_argument`.
#' @seealso [align_as_of()] for every day of a calendar at once.
#' @examples
#' ledger <- read_records(demo_file("ledger.csv"), when = "period",
#'   series = "item", known = "entered", measures = c(value = "level")
#' )
#' as_known_on(ledger, "2030-01-15")
#' @export
as_known_on <- function(x, date) {
  check_records(x)
  day <- as_moments(date, "date")
  if (length(day) != 1 || is.na(day)) {
    abort_backfill(
      "argument", "`date` is {value_in_words(date)}; it must be one date."
    )
  }
  if (is.null(facts(x)$known)) {
    abort_backfill(
      "input", "The records do not say when each was known.",
      ">" = "Name the column with the day of publication when you read them:",
      "`known`."
    )
  }
  by_then <- known_days(x) <= as.numeric(as.Date(day))
  last_versions(vctrs::vec_slice(x, which(by_then)))
}

# The day on which each row was known, by the clock of the records.
known_days <- function(x) {
  known <- x[[facts(x)$known]]
  if (inherits(known, "Date")) {
    return(floor(as.numeric(known)))
  }
  table <- zone_table_of(known, facts(x)$zone)
  floor(instant_to_local(as.numeric(known), table) / 86400)
}

# Of each series and time the version that was known last; all records where
# none says when it was.
last_versions <- function(x) {
  role <- facts(x)
  if (is.null(role$known) || nrow(x) == 0) {
    return(x)
  }
  plain <- plain_tibble(x)
  of <- vctrs::vec_group_id(plain[c(role$series, role$when)])
  order <- order(of, as.numeric(plain[[role$known]]), method = "radix")
  last <- order[!duplicated(of[order], fromLast = TRUE)]
  vctrs::vec_slice(x, sort(last))
}
