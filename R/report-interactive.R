#' Make a figure respond to the pointer
#'
#' The figure as a picture in vectors, with a script of a few kilobytes:
#' pointing at it, or the arrow keys, show the series, the period and the
#' figures of the nearest point; dragging over a part enlarges it, and a double
#' click or the Escape key goes back; choosing a series brings it to the front.
#'
#' @param plot A figure, from [autoplot()].
#' @return A tag of the package htmltools, which shows itself in a browser or a
#'   notebook.
#' @section Errors: `backfill_error_package` where htmltools or svglite is not
#'   installed; `backfill_error_input` where `plot` is not a figure.
#' @examplesIf requireNamespace("svglite", quietly = TRUE)
#' nights <- read_records(
#'   demo_file("inns.csv"), "month", c(guest_nights = "flow"),
#'   series = "inn"
#' )
#' as_interactive(autoplot(roll_up(nights, every = "month")))
#' @export
as_interactive <- function(plot) {
  check_given()
  need_live_figures("to make a figure interactive")
  if (!inherits(plot, "ggplot")) {
    abort_backfill(
      "input", "`plot` is {value_in_words(plot)}, not a figure.",
      ">" = "autoplot() draws one."
    )
  }
  htmltools::browsable(htmltools::tagList(
    htmltools::HTML(html_of_figure(plot, NULL, plot$labels$title)),
    section_dependencies()
  ))
}

need_live_figures <- function(purpose) {
  need_package("htmltools", purpose)
  need_package("svglite", purpose)
}
