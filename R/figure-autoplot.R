#' Draw a result
#'
#' The generic function of ggplot2, which every result of this package has a
#' method for; see [autoplot.backfill_periods()].
#'
#' @param object A result, such as a periods table.
#' @param ... Passed on to the method.
#' @return A ggplot2 plot.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), "month", c(guest_nights = "flow"),
#'   series = "inn"
#' )
#' autoplot(roll_up(nights, every = "quarter"))
#' @export
autoplot <- function(object, ...) {
  # Not ggplot2's function itself, as importing that would load ggplot2, and
  # with it double the time in which the command line starts, where nothing is
  # drawn.
  left_out <- NULL
  plot <- withCallingHandlers(
    ggplot2::autoplot(object, ...),
    backfill_message_highlight = function(told) left_out <<- told$drawn
  )
  if (!is.null(left_out)) {
    caption <- paste(c(left_out, plot$labels$caption), collapse = "\n")
    plot <- plot + ggplot2::labs(caption = caption)
  }
  plot <- with_panels_in_words(plot, object)
  # What it was made of, for write_figure() never to replace.
  attr(plot, "sources") <- sources_of(object)
  plot
}

# Panels of a series and a measure, or of a measure, are called as people say
# it.
with_panels_in_words <- function(plot, x) {
  facet <- plot$facet
  labeller <- facet$params$labeller
  if (is.null(labeller) || !is_of_lines(x)) {
    return(plot)
  }
  measures <- names(facts(x)$measures)
  words <- c(words_of_lines(x), stats::setNames(
    measures_in_words(measures, facts(x)), measures
  ))
  called <- stats::setNames(sentence_case(words), names(words))
  params <- facet$params
  params$labeller <- function(labels) {
    labels[] <- lapply(labels, function(name) {
      name <- as.character(name)
      ifelse(name %in% names(called), called[name], name)
    })
    rlang::as_function(labeller)(labels)
  }
  plot + ggplot2::ggproto(NULL, facet, params = params)
}

# Where nobody chooses what is drawn of many series, the caption alone tells it.
without_drawn <- function(code) {
  suppressMessages(code, classes = "backfill_message_highlight")
}

# An argument that a figure does not have is a slip of the pen, or one of
# another figure; what is not said is NULL.
refuse_further <- function(...) {
  figure <- rlang::caller_fn()
  given <- Filter(Negate(is.null), list(...))
  if (length(given) > 0) {
    name <- rlang::names2(given)[[1]]
    abort_backfill(
      "argument",
      if (nzchar(name)) {
        "This figure has no `{name}`."
      } else {
        "This figure takes only arguments by their names."
      },
      ">" = "{further_in_words(name, figure)}"
    )
  }
}

# What the figure takes instead; a column is `of`.
further_in_words <- function(name, figure) {
  takes <- setdiff(names(formals(figure)), c("object", "x", "..."))
  if (length(takes) == 0) {
    return("It takes the table alone.")
  }
  column <- name %in% c("column", "y", "value", "measure")
  own <- if (column && "of" %in% takes) "of" else takes
  sprintf(
    if (length(own) < length(takes)) "Name a column by %s." else "It takes %s.",
    in_words(sprintf("`%s`", own), last = " or ")
  )
}
