#' Give measures other names
#'
#' The table stays what it is: kinds, units, what is known of each measure and
#' calculated columns go along. Ratios find their parts under the new names.
#'
#' @param x A records table, from [read_records()] or [as_records()], or a
#'   periods table, from [roll_up()].
#' @param ... New names with the old ones, as in `nights = "guest_nights"`.
#' @return `x` with its measures renamed; of records the columns are too.
#' @section Errors: `backfill_error_input` where `x` is neither,
#'   `backfill_error_argument` where an old name is not that of a measure,
#'   `backfill_error_column` where a new one is taken.
#' @examples
#' records <- read_records(
#'   demo_file("inns.csv"), when = "month", series = "inn",
#'   measures = c(guest_nights = "flow")
#' )
#' rename_measures(records, nights = "guest_nights")
#' rename_measures(roll_up(records, "quarter"), nights = "guest_nights")
#' @export
rename_measures <- function(x, ...) {
  check_given()
  rename_by(x, list(...))
}

# Records with names of their own for measures, as they are read: `rename` is a
# named character vector, or NULL.
rename_as_read <- function(records, rename) {
  if (is.null(rename)) {
    return(records)
  }
  rename_by(records, as.list(rename), "rename")
}

# The same of names in a list, which may be any.
rename_by <- function(x, asked, argument = "...") {
  if (!is_records(x)) x <- check_periods(x)
  role <- facts(x)
  new <- check_new_measures(
    asked, role$measures, names(x), is_records(x), argument
  )
  if (is_records(x)) {
    names(x) <- renamed(names(x), new)
    return(x)
  }
  x$measure <- renamed(x$measure, new)
  role$measures <- renamed_measures(role$measures, new)
  attr(x, "backfill") <- rows_renamed(role, new)
  x
}

# What a periods table knows of some rows, such as falls of counters, names
# their measures too; so does what is said of measures one by one.
rows_renamed <- function(role, new) {
  role <- lapply(role, function(known) {
    if (is.data.frame(known) && "measure" %in% names(known)) {
      known$measure <- renamed(known$measure, new)
    }
    known
  })
  known <- role$cadences$names[["measure"]]
  if (!is.null(known)) role$cadences$names[["measure"]] <- renamed(known, new)
  names(role$absent) <- renamed(names(role$absent), new)
  how <- role$joined$how
  if (length(how) > 0) {
    role$joined$how <- lapply(how, renamed, new)
    names(role$joined$how) <- renamed(names(how), new)
  }
  role
}

# The new names by the old ones.
check_new_measures <- function(asked, measures, columns, of_records, argument) {
  sound <- length(asked) > 0 && rlang::is_named(asked) && all(vapply(
    asked, rlang::is_string, NA
  ))
  if (!sound) {
    abort_backfill(
      "argument", "`{argument}` must name new names with the old ones.",
      ">" = "Write them as nights = \"guest_nights\"."
    )
  }
  old <- unlist(asked)
  unknown <- setdiff(old, names(measures))
  if (length(unknown) > 0) {
    abort_backfill(
      "argument",
      "There is no measure {in_words(quoted(unknown))}, which `{argument}`",
      "names.",
      i = "The measures are {in_words(quoted(names(measures)))}."
    )
  }
  after <- c(
    setdiff(if (of_records) columns else names(measures), old), names(asked)
  )
  if (anyDuplicated(after) > 0 || anyDuplicated(old) > 0) {
    twice <- c(after[duplicated(after)], old[duplicated(old)])
    abort_backfill(
      "column",
      "The name {quoted(twice[[1]])}, which `{argument}` gives, would stand",
      "for two.",
      ">" = "Choose another one."
    )
  }
  stats::setNames(names(asked), old)
}
