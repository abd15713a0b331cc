#' A part of a report
#'
#' What a result says, its figure and its table, for a document of your own: in
#' a chunk of R Markdown it becomes part of the page, with a figure that answers
#' to the pointer and a table that sorts and filters; in other formats a still
#' picture and a plain table.
#'
#' @param x A result, such as a periods table, a seasonal index or flags; or
#'   records, of which their account is given.
#' @param title The heading; `NULL` for the title of the figure, or what the
#'   result is.
#' @param note Text of your own, which stands before what was found.
#' @param figures A figure, or a list of several or none. By default the one
#'   that [autoplot()] draws, if there is one.
#' @return A section, which prints what it says.
#' @section Errors: `backfill_error_input` where `x` is not a result.
#' @seealso [write_report()] for a whole report.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), "month", c(guest_nights = "flow"),
#'   series = "inn"
#' )
#' flags <- flag_periods(
#'   roll_up(nights, every = "month"), "a cycle before", c(percent = 12)
#' )
#' report_section(flags, note = "What departs from the year before.")
#' @export
report_section <- function(
  x, title = NULL, note = NULL, figures = own_figures(x)
) {
  check_given()
  if (!inherits(x, "backfill_table")) {
    abort_backfill(
      "input", "`x` is {value_in_words(x)}, not a result.",
      ">" = "roll_up() makes a periods table."
    )
  }
  if (inherits(figures, "ggplot")) {
    figures <- list(figures)
  }
  new_section(x, title, note, figures)
}

# `id` is what links lead to, which has no hyphen, as those of the page's own
# parts have one; `file` is where the whole table lies; what it `shows` may be
# shown by periods of another `length`, too.
new_section <- function(x, title, note, figures, id = NULL, file = NULL) {
  title <- title %||% title_of_section(x, figures)
  shown <- if (is_read(x)) rows_set_aside(x) else x
  structure(
    c(list(
      title = title, id = gsub("[^A-Za-z0-9]+", "_", id %||% title),
      note = note, said = said_in_report(x),
      found = if (!is_read(x)) sentences_of_finding(x),
      figures = figures,
      cells = cells_of_section(x), rows = nrow(shown), file = file,
      counts = if (is_read(x)) counts_of_read(x), weight = report_weight(x)
    ), shown_by_length(x)),
    class = "backfill_section"
  )
}

# The first sentence of what was found is the `large` heading, with what the
# section is of as a `small` one above; the other sentences go `further`. Where
# nothing was sought the title is the heading.
heading_of_section <- function(section) {
  found <- section$found
  if (section$weight <= 1 || length(found) == 0) {
    return(list(large = section$title, further = paste(found, collapse = " ")))
  }
  list(
    small = section$title, large = sub("[.]$", "", found[[1]]),
    further = paste(found[-1], collapse = " ")
  )
}

title_of_section <- function(x, figures) {
  figure <- if (length(figures) > 0) figures[[1]]$labels$title
  plain_words(figure %||% sentence_case(facts(x)$what), x)
}

# Where there is room for more sentences than on a terminal.
said_in_report <- function(x) UseMethod("said_in_report")

#' @export
said_in_report.default <- function(x) describe(x)

#' @export
said_in_report.backfill_flags <- function(x) {
  describe(x, most = 12, hint = FALSE)
}

#' @export
said_in_report.backfill_records <- function(x) {
  account <- account(x)
  c(
    describe_intake(account),
    if (!is.null(account$cadence)) describe_look(account)
  )
}

#' @export
said_in_report.backfill_chunked <- said_in_report.backfill_records

#' @export
said_in_report.backfill_records_at <- said_in_report.backfill_records

counts_of_read <- function(x) {
  account <- account(x)
  c(read = account$rows_read, aside = nrow(account$set_aside))
}

# What a figure shows, for those who do not see it.
said_of_figure <- function(plot, section) {
  paste(c(
    sub("[.]?$", ".", plot$labels$title %||% section$title),
    utils::head(section$said, 3)
  ), collapse = " ")
}

# More rows than these would make a page that nobody reads.
most_reported <- 400

# Of records those that were set aside.
cells_of_section <- function(x) {
  if (!is_read(x)) {
    return(if (nrow(x) > 0) table_cells(x, most_reported))
  }
  aside <- rows_set_aside(x)
  if (nrow(aside) > 0) {
    aside$source <- basename(aside$source)
    text_cells(utils::head(aside, most_reported))
  }
}

# The figure of a result as a list; none where there is nothing to draw.
own_figures <- function(x) {
  if (!inherits(x, "backfill_table") || is_records(x)) {
    return(list())
  }
  tryCatch(
    if (has_figure(x)) list(without_drawn(autoplot(x))) else list(),
    backfill_error = function(cnd) list()
  )
}

has_figure <- function(x) {
  any(vapply(class(x), function(class) {
    grepl("^backfill_", class) && !is.null(utils::getS3method(
      "autoplot", class, optional = TRUE, envir = asNamespace("ggplot2")
    ))
  }, NA))
}

#' @export
print.backfill_section <- function(x, ...) {
  writeLines(c(cli::style_bold(x$title), "", wrapped(c(x$note, x$said))))
  invisible(x)
}

# How early in a report a result stands: what departs from the past before what
# changed, that before what is usual, and tables of periods last.
report_weight <- function(x) UseMethod("report_weight")

#' @export
report_weight.default <- function(x) 2

#' @export
report_weight.backfill_flags <- function(x) if (any(x$flag %in% TRUE)) 6 else 2

#' @export
report_weight.backfill_latest <- function(x) 1

#' @export
report_weight.backfill_ranking <- function(x) 5

#' @export
report_weight.backfill_shifts <- function(x) if (nrow(x) > 0) 6 else 2

#' @export
report_weight.backfill_group_differences <- function(x) {
  if (any(summary(x)$verdict == "differ")) 4 else 2
}

#' @export
report_weight.backfill_correlations <- function(x) 3

#' @export
report_weight.backfill_projection <- function(x) 4

#' @export
report_weight.backfill_seasonal_index <- function(x) 4

#' @export
report_weight.backfill_trends <- function(x) {
  if (any(x[["p"]] < 0.05, na.rm = TRUE)) 4 else 2
}

#' @export
report_weight.backfill_periods <- function(x) {
  if (length(facts(x)$added) > 0) 5 else 1
}
