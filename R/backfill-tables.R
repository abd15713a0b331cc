# What records and periods have in common: a tibble whose attribute "backfill" tells the roles of its columns.

# `what` is "records" or "periods"; `needed` are the columns without which the table is no longer that.
new_table <- function(data, what, needed, roles) {
  tibble::new_tibble(
    as.list(data), nrow = nrow(data), class = c(paste0("backfill_", what), "backfill_table"),
    backfill = c(list(what = what, needed = needed), roles)
  )
}

roles <- function(x) attr(x, "backfill", exact = TRUE)

# Tables of this package stay what they are through `[`, dplyr verbs and the like as long as the columns that carry
# their roles are there; without those they become plain tibbles, and say so.
restore_roles <- function(data, template) {
  gone <- setdiff(roles(template)$needed, names(data))
  if (length(gone) == 0) {
    attr(data, "backfill") <- roles(template)
    class(data) <- class(template)
    return(data)
  }
  rlang::inform(
    sprintf("The result is a plain table, no longer %s: it lacks the %s %s.",
            roles(template)$what, if (length(gone) == 1) "column" else "columns",
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
  restore_roles(NextMethod(), x)
}

#' @export
`[<-.backfill_table` <- function(x, i, j, ..., value) {
  restore_roles(NextMethod(), x)
}

#' @export
`$<-.backfill_table` <- function(x, name, value) {
  restore_roles(NextMethod(), x)
}

#' @export
`[[<-.backfill_table` <- function(x, i, ..., value) {
  restore_roles(NextMethod(), x)
}

# Registered for dplyr when that is loaded.
#' @exportS3Method dplyr::dplyr_reconstruct
dplyr_reconstruct.backfill_table <- function(data, template) {
  restore_roles(data, template)
}
