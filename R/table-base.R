# What every table of this package has in common: a tibble whose attribute
# "backfill", its facts, tells what the columns alone do not. All of them may
# hold
#   what      what the table is called
#   needed    the columns without which it is no longer that
#   series    the columns that tell its series apart
#   measures  each measure's kind, unit and statistic, by its name
#   calendar  the calendar of its periods
#   sources   the files, tables and addresses that it was made of
#   rows      of records, how many there were when a verb last made the table
# Records, periods and each sort of result add facts of their own, which are
# listed where they are made: new_records(), new_periods() and calls of
# new_result().

# `class` is what the table is, the most special first. The facts of another
# table may be given on, with or without what that was called and needed.
new_table <- function(data, class, needed, facts) {
  # What has other rows later than these was filtered, or joined.
  if (class[[1]] == "records") facts$rows <- nrow(data)
  own <- list(what = gsub("_", " ", class[[1]]), needed = needed)
  tibble::new_tibble(
    as.list(data), nrow = nrow(data),
    class = c(paste0("backfill_", class), "backfill_table"),
    backfill = c(own, facts[setdiff(names(facts), names(own))])
  )
}

facts <- function(x) attr(x, "backfill", exact = TRUE)

# Tables of this package stay what they are through `[`, dplyr verbs and the
# like as long as the columns that carry their facts are there; without those
# they become plain tibbles. Records and periods, which more can be made of, say
# so.
restore_facts <- function(data, template) {
  gone <- setdiff(facts(template)$needed, names(data))
  if (length(gone) == 0) {
    attr(data, "backfill") <- facts(template)
    class(data) <- class(template)
    return(data)
  }
  if (!inherits(template, "backfill_result")) {
    rlang::inform(
      sprintf("The result is a plain table, no longer %s: it lacks the %s %s.",
              facts(template)$what,
              if (length(gone) == 1) "column" else "columns",
              in_words(quoted(gone))),
      class = "backfill_message_roles_lost"
    )
  }
  plain_tibble(data)
}

plain_tibble <- function(x) {
  attr(x, "backfill") <- NULL
  class(x) <- c("tbl_df", "tbl", "data.frame")
  x
}

# Columns, and the columns of tables, beside each other as a tibble. None is
# looked up while another is worked out, as tibble() does: a column of a user's
# may be called as any name of ours.
new_rows <- function(..., unique = TRUE) {
  columns <- vctrs::data_frame(..., .name_repair = "minimal")
  twice <- names(columns)[duplicated(names(columns))]
  if (unique && length(twice) > 0) {
    abort_backfill(
      "column",
      "The series column {quoted(twice[[1]])} has the name of a column of the",
      "result.",
      ">" = "Rename it first, as in names(x)[names(x) == {quoted(twice[[1]])}]",
      "<- \"other\"."
    )
  }
  tibble::new_tibble(columns, nrow = nrow(columns))
}

# The columns that tell the lines of a table apart: its series and the measure.
keys_of <- function(x) plain_tibble(x)[c(facts(x)$series, "measure")]

# The rows as they are, without what the table knows of them.
#' @export
as.data.frame.backfill_table <- function(x, ...) {
  as.data.frame(plain_tibble(x), ...)
}

#' @export
`[.backfill_table` <- function(x, ...) {
  out <- NextMethod()
  if (is.data.frame(out)) restore_facts(out, x) else out
}

#' @export
`names<-.backfill_table` <- function(x, value) {
  template <- x
  if (length(value) == length(names(x))) {
    attr(template, "backfill") <- facts_renamed(facts(x), names(x), value)
  }
  restore_facts(NextMethod(), template)
}

#' @export
`[<-.backfill_table` <- function(x, i, j, ..., value) {
  without_stale_notes(restore_facts(NextMethod(), x), x)
}

#' @export
`$<-.backfill_table` <- function(x, name, value) {
  without_stale_notes(restore_facts(NextMethod(), x), x)
}

#' @export
`[[<-.backfill_table` <- function(x, i, ..., value) {
  without_stale_notes(restore_facts(NextMethod(), x), x)
}

# Registered for dplyr when that is loaded.
#' @exportS3Method dplyr::dplyr_reconstruct
dplyr_reconstruct.backfill_table <- function(data, template) {
  restore_facts(data, template)
}

# What mutate() and the like put in.
#' @exportS3Method dplyr::dplyr_col_modify
dplyr_col_modify.backfill_table <- function(data, cols) {
  without_stale_notes(NextMethod(), data)
}

# The files that a table was made of. None of them is ever overwritten.
sources_of <- function(x) {
  c(facts(x)$sources, facts(x)$account$sources$source, facts(x)$beside)
}

# Looking for doubled rows takes columns apart, which is no loss of theirs.
#' @export
duplicated.backfill_table <- function(x, incomparables = FALSE, ...) {
  duplicated(plain_tibble(x), incomparables, ...)
}

#' @exportS3Method vctrs::vec_cbind_frame_ptype
vec_cbind_frame_ptype.backfill_table <- function(x, ...) { # nolint
  tibble::new_tibble(list(), nrow = 0)
}
