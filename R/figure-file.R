# Figures to files: PNG, SVG or PDF by the name's ending, at 1280 by 800 pixels or the like.
write_figure <- function(plot, file, sources = character(), call = caller_env()) {
  check_output(file, sources, call)
  check_figure_type(file, call)
  write_beside(file, function(path) {
    open <- switch(file_type(file),
      png = function() grDevices::png(path, width = 1280, height = 800, res = 130),
      svg = function() grDevices::svg(path, width = 1280 / 130, height = 800 / 130),
      # The plain pdf device knows no letters beyond Latin-1.
      pdf = function() grDevices::cairo_pdf(path, width = 1280 / 130, height = 800 / 130)
    )
    open()
    on.exit(grDevices::dev.off())
    print(plot)
  })
}

check_figure_type <- function(file, call = caller_env()) {
  if (!file_type(file) %in% c("png", "svg", "pdf")) {
    abort_backfill("file", sprintf("%s is no name for a figure.", file),
                   i = "Figures are written as .png, .svg or .pdf.", call = call)
  }
}
