# What a study and its run say.

#' @export
print.backfill_study <- function(x, ...) {
  title <- x$title %||% sprintf("The study %s", basename(x$file))
  cat(wrapped(c(
    paste0(sub("[.]$", "", title), "."),
    sprintf(
      "%s, %s and %s.", count_of(length(x$sources), "source"),
      count_of(length(x$steps), "step"), count_of(length(x$figures), "figure")
    )
  )), sep = "\n")
  cat("\n")
  cat(unlist(lapply(c(x$sources, x$steps), function(step) {
    assigned(step$name, step$call)
  })), sep = "\n")
  invisible(x)
}

#' @export
describe.backfill_study_run <- function(x, ...) {
  about <- facts(x)
  stored <- sum(x$stored)
  c(
    if (!is.null(about$title)) paste0(sub("[.]$", "", about$title), "."),
    if (stored == 0) {
      sprintf("%s, recomputed.", count_of(nrow(x), "result"))
    } else {
      sprintf(
        "%s; %s as before, and %s taken from the store.",
        count_of(nrow(x), "result"),
        if (stored == nrow(x)) {
          "all are"
        } else {
          paste(stored, if (stored == 1) "is" else "are")
        },
        if (stored == 1) "was" else "were"
      )
    },
    if (!is.null(about$out)) sprintf("Written to %s.", about$out)
  )
}

#' @export
columns_left.backfill_study_run <- function(x) "finding"
