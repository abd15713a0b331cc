#' Write a figure to a file
#'
#' @param plot A ggplot2 plot, such as [autoplot()] gives.
#' @param file Where to: a name that ends in `.png`, `.svg` or `.pdf`.
#' @param preset What it is for, which sets its size and that of its text:
#'   `"page"` (1280 by 800 pixels), `"slide"` (1920 by 1080, with large text),
#'   `"column"` of a printed page (1000 by 750, with large text) or `"poster"`
#'   (3600 by 2250).
#' @param width,height Size in pixels, where it is not that of the preset.
#' @param sources Files that must not be overwritten, beside those that the
#'   result was made of.
#' @return `file`, invisibly. It is written beside its place and renamed into
#'   it, so that nothing half-written stays.
#' @section Errors: `backfill_error_file` for another ending, a folder that is
#'   not there, and a file of `sources`; `backfill_error_argument` for a size,
#'   or where `plot` is not a figure.
#' @examples
#' nights <- read_records(
#'   demo_file("inns.csv"), "month", c(guest_nights = "flow"),
#'   series = "inn"
#' )
#' file <- file.path(tempdir(), "nights.png")
#' write_figure(
#'   autoplot(roll_up(nights, every = "quarter")), file, width = 960,
#'   height = 600
#' )
#' @export
write_figure <- function(
  plot, file, width = NULL, height = NULL, preset = "page",
  sources = character()
) {
  check_given()
  check_one_of(preset, names(figure_presets), "preset")
  size <- figure_presets[[preset]]
  width <- width %||% size[["width"]]
  height <- height %||% size[["height"]]
  if (!inherits(plot, "ggplot")) {
    abort_backfill(
      "argument", "`plot` is {value_in_words(plot)}, not a figure.",
      ">" = "Draw it first: write_figure(autoplot(x), \"figure.png\")."
    )
  }
  check_output(file, c(sources, attr(plot, "sources")))
  check_figure_type(file)
  check_pixels(c(width = width, height = height))
  write_beside(file, function(path) {
    # A device takes a percent sign for the number of a page.
    path <- gsub("%", "%%", path, fixed = TRUE)
    inch <- size[["inch"]]
    switch(file_type(file),
      png = grDevices::png(path, width = width, height = height, res = inch),
      svg = grDevices::svg(path, width = width / inch, height = height / inch),
      # The plain pdf device knows no letters beyond Latin-1.
      pdf = grDevices::cairo_pdf(
        path, width = width / inch, height = height / inch
      )
    )
    on.exit(grDevices::dev.off())
    print(plot)
  })
  invisible(file)
}

# In pixels; the more of them make an inch, the larger is the text.
figure_presets <- list(
  page = c(width = 1280, height = 800, inch = 130),
  slide = c(width = 1920, height = 1080, inch = 210),
  column = c(width = 1000, height = 750, inch = 160),
  poster = c(width = 3600, height = 2250, inch = 330)
)

check_figure_type <- function(file) {
  if (!file_type(file) %in% c("png", "svg", "pdf")) {
    abort_backfill(
      "file", "{file} is not a name for a figure.",
      i = "Figures are written as .png, .svg or .pdf."
    )
  }
}

check_pixels <- function(size) {
  for (side in names(size)) {
    check_whole(size[[side]], side, 200, 10000, "pixels")
  }
}
