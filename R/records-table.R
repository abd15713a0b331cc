# The records table: a tibble of the rows that were used, whose attribute "backfill" tells the roles of its columns
# (`when`, `series`, `measures`), the zone of its times, and the account of the intake.

new_records <- function(data, when, series, measures, zone, account) {
  tibble::new_tibble(
    as.list(data), nrow = nrow(data), class = "backfill_records",
    backfill = list(when = when, series = series, measures = measures, zone = zone, account = account)
  )
}

is_records <- function(x) inherits(x, "backfill_records")

roles <- function(x) attr(x, "backfill", exact = TRUE)

check_records <- function(x, call = caller_env()) {
  if (!is_records(x)) {
    abort_backfill(
      "input",
      sprintf("`x` is %s, not a records table.", value_in_words(x)),
      ">" = "Make one with read_records() from a file, or with as_records() from a data frame.",
      call = call
    )
  }
  when <- x[[roles(x)$when]]
  if (!is.numeric(unclass(when)) || anyNA(when)) {
    abort_backfill("input", sprintf("Column \"%s\" must hold a date or a time in every row.", roles(x)$when),
                   call = call)
  }
  x
}

# Tables of this package stay what they are through `[`, dplyr verbs and the like as long as the columns that carry
# their roles are there; without those they become plain tibbles, and say so.
restore_roles <- function(data, template, needed) {
  gone <- setdiff(needed, names(data))
  if (length(gone) == 0) {
    attr(data, "backfill") <- roles(template)
    class(data) <- class(template)
    return(data)
  }
  rlang::inform(
    sprintf("The result is a plain table, no longer %s: it lacks the %s %s.",
            if (is_records(template)) "records" else "periods", if (length(gone) == 1) "column" else "columns",
            in_words(encodeString(gone, quote = "\""))),
    class = "backfill_message_roles_lost"
  )
  plain_tibble(data)
}

plain_tibble <- function(x) {
  attr(x, "backfill") <- NULL
  class(x) <- c("tbl_df", "tbl", "data.frame")
  x
}

records_columns <- function(x) c(roles(x)$when, roles(x)$series, names(roles(x)$measures))

#' @export
`[.backfill_records` <- function(x, ...) {
  out <- NextMethod()
  if (is.data.frame(out)) restore_roles(out, x, records_columns(x)) else out
}

#' @export
`names<-.backfill_records` <- function(x, value) {
  out <- NextMethod()
  restore_roles(out, x, records_columns(x))
}

# Registered for dplyr when that is loaded.
#' @exportS3Method dplyr::dplyr_reconstruct
dplyr_reconstruct.backfill_records <- function(data, template) {
  restore_roles(data, template, records_columns(template))
}
