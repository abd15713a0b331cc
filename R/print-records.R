#' @export
print.backfill_records <- function(x, n = 10, ...) {
  role <- roles(x)
  measures <- sprintf("%s (%s)", names(role$measures), vapply(role$measures, format, ""))
  writeLines(c(wrapped(c(describe_intake(role$account), sprintf("Measures: %s.", in_words(measures)))), ""))
  print(plain_tibble(x), n = n)
  invisible(x)
}

#' @export
print.backfill_intake <- function(x, n = 10, ...) {
  writeLines(intake_text(x, n, "set_aside() gives all."))
  invisible(x)
}

# The account as lines of text: sentences, then the first `n` rows set aside; `rest` says how to get the others.
intake_text <- function(x, n, rest) {
  aside <- x$set_aside
  more <- nrow(aside) - n
  c(
    wrapped(describe_intake(x, reasons = more > 0)),
    if (nrow(aside) > 0) c("", format_table(utils::head(aside, n)[c("line", "column", "text", "reason")])),
    if (more > 0) sprintf("... %s; %s", count_of(more, "more row"), rest)
  )
}

# The account in sentences, with the `reasons` for which rows were set aside unless these are shown themselves.
describe_intake <- function(x, reasons = TRUE) {
  aside <- nrow(x$set_aside)
  counts <- sort(table(x$set_aside$reason), decreasing = TRUE)
  missing <- x$missing[x$missing > 0]
  span <- if (x$rows_used > 0) {
    sprintf(", from %s to %s", moment_in_words(x$first), moment_in_words(x$last))
  }
  c(
    sprintf("%s: %s read, %s used%s, %s set aside.", basename(x$source), count_of(x$rows_read, "row"),
            format(x$rows_used, big.mark = ","), paste0(span, ""), if (aside == 0) "none" else
              format(aside, big.mark = ",")),
    if (reasons && aside > 0) {
      sprintf("Set aside: %s.", in_words(sprintf("%s (%d)", names(counts), as.integer(counts))))
    },
    if (length(missing) > 0) {
      sprintf("Blank values, kept as missing: %s.", in_words(sprintf("%s (%d)", names(missing), missing)))
    }
  )
}

#' @export
print.backfill_measure <- function(x, ...) {
  writeLines(paste("A measure:", format(x)))
  invisible(x)
}

# "2031-04-09", "2031-04-09 07:30 WET"
moment_in_words <- function(when) {
  if (inherits(when, "Date")) {
    return(period_label(when, "day"))
  }
  paste(period_label(as.Date(when, tz = attr(when, "tzone")), "day"), format(when, "%H:%M %Z"))
}
