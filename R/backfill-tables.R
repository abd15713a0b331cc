# What records and periods have in common: a tibble whose attribute "backfill"
# tells the roles of its columns.

# `what` is "records" or "periods"; `needed` are the columns without which the
# table is no longer that.
new_table <- function(data, what, needed, roles) {
  tibble::new_tibble(
    as.list(data), nrow = nrow(data), class = c(
      paste0("backfill_", what), "backfill_table"
    ),
    backfill = c(list(what = what, needed = needed), roles)
  )
}

roles <- function(x) attr(x, "backfill", exact = TRUE)

# Tables of this package stay what they are through `[`, dplyr verbs and the
# like as long as the columns that carry their roles are there; without those
# they become plain tibbles, and say so.
restore_roles <- function(data, template) {
  gone <- setdiff(roles(template)$needed, names(data))
  if (length(gone) == 0) {
    attr(data, "backfill") <- roles(template)
    class(data) <- class(template)
    return(data)
  }
  rlang::inform(
    sprintf("The result is a plain table, no longer %s: it lacks the %s %s.",
            roles(template)$what,
            if (length(gone) == 1) "column" else "columns",
            in_words(quoted(gone))),
    class = "backfill_message_roles_lost"
  )
  plain_tibble(data)
}

plain_tibble <- function(x) {
  attr(x, "backfill") <- NULL
  class(x) <- c("tbl_df", "tbl", "data.frame")
  x
}

#' @export
`[.backfill_table` <- function(x, ...) {
  out <- NextMethod()
  if (is.data.frame(out)) restore_roles(out, x) else out
}

#' @export
`names<-.backfill_table` <- function(x, value) {
  before <- names(x)
  added <- roles(x)$added
  out <- restore_roles(NextMethod(), x)
  if (
    length(added) > 0 && length(value) == length(before) && !is.null(roles(out))
  ) {
    # A note goes with its column, and what other notes say of that column does
    # too.
    named <- function(name) {
      if (name %in% before) {
        value[[match(name, before)]]
      } else {
        name
      }
    }
    added <- lapply(added, function(note) {
      note$of <- named(note$of)
      note
    })
    names(added) <- vapply(names(added), named, "")
    attr(out, "backfill")$added <- added
  }
  out
}

#' @export
`[<-.backfill_table` <- function(x, i, j, ..., value) {
  without_stale_notes(restore_roles(NextMethod(), x), x)
}

#' @export
`$<-.backfill_table` <- function(x, name, value) {
  without_stale_notes(restore_roles(NextMethod(), x), x)
}

#' @export
`[[<-.backfill_table` <- function(x, i, ..., value) {
  without_stale_notes(restore_roles(NextMethod(), x), x)
}

# A note tells how a column was calculated. It goes when the column is replaced
# by other figures.
without_stale_notes <- function(x, before) {
  noted <- intersect(names(roles(x)$added), names(x))
  stale <- Filter(
    function(name) !identical(.subset2(x, name), .subset2(before, name)), noted
  )
  if (length(stale) > 0) {
    attr(x, "backfill")$added[stale] <- NULL
  }
  x
}

# Registered for dplyr when that is loaded.
#' @exportS3Method dplyr::dplyr_reconstruct
dplyr_reconstruct.backfill_table <- function(data, template) {
  restore_roles(data, template)
}

# What mutate() and the like put in.
#' @exportS3Method dplyr::dplyr_col_modify
dplyr_col_modify.backfill_table <- function(data, cols) {
  without_stale_notes(NextMethod(), data)
}

# The files that a table, or a result, was made of. None of them is ever
# overwritten.
sources_of <- function(x) {
  c(
    roles(x)$sources, roles(x)$account$sources$source, roles(x)$beside,
    attr(x, "season")$sources, attr(x, "sources")
  )
}
