#' Make a figure answer to the pointer
#'
#' The figure as a widget of the package plotly: its points tell their series,
#' period, figures and standing; it can be zoomed into; the legend turns series
#' off and on; an axis of positive figures can be made logarithmic. Title,
#' subtitle, labels, colours and caption are those of the still figure.
#'
#' @param plot A figure, from [autoplot()].
#' @return A plotly widget, which shows itself in a browser or a notebook.
#' @section Errors: `backfill_error_package` where plotly is not installed;
#'   `backfill_error_input` where `plot` is not a figure.
#' @examplesIf requireNamespace("plotly", quietly = TRUE)
#' nights <- read_records(
#'   demo_file("inns.csv"), "month", c(guest_nights = "flow"),
#'   series = "inn"
#' )
#' as_interactive(autoplot(roll_up(nights, every = "month")))
#' @export
as_interactive <- function(plot) {
  check_given()
  need_package("plotly", "to make a figure interactive")
  if (!inherits(plot, "ggplot")) {
    abort_backfill(
      "input",
      sprintf("`plot` is %s, not a figure.", value_in_words(plot)),
      ">" = "autoplot() draws one."
    )
  }
  built <- ggplot2::ggplot_build(plot)
  widget <- converted_figure(plot, built)
  widget$x$data <- lapply(named_traces(
    widget$x$data, "text" %in% names(plot$mapping)
  ), bars_in_milliseconds)
  axes <- axes_of_panels(built)
  labels <- c(
    bold_strips(widget$x$layout$annotations),
    labels_of_figure(built, axes, widget$x$layout)
  )
  widget$x$layout <- widget_layout(widget$x, plot, labels, built)
  plotly::config(
    widget, displaylogo = FALSE, responsive = TRUE,
    modeBarButtonsToRemove = list("select2d", "lasso2d", "autoScale2d")
  )
}

# Labels that keep apart are put in by us, of which the converter warns; layers
# without a row it does not take.
converted_figure <- function(plot, built) {
  plot$layers <- plot$layers[vapply(built$data, nrow, 0L) > 0]
  scale <- function(axis) built$layout[[paste0("panel_scales_", axis)]][[1]]
  dated <- inherits(scale("x"), c("ScaleContinuousDate",
                                  "ScaleContinuousDatetime"))
  # Places that are named one by one stay where they are.
  moving <- c(if (dated) "x", if (!is.numeric(scale("y")$breaks) &&
                                    !scale("y")$is_discrete()) "y")
  suppressWarnings(plotly::ggplotly(
    plot, tooltip = if ("text" %in% names(plot$mapping)) "text" else "all",
    dynamicTicks = if (length(moving) == 2) TRUE else moving %||% FALSE
  ))
}

# The lines of the figure by their names, which their points tell first; each
# stands in the legend once. What only makes room for others has no type.
named_traces <- function(traces, told) {
  traces <- Filter(function(trace) {
    !is.null(trace$type) && !all(is.na(unlist(trace$y)))
  }, traces)
  names <- vapply(traces, function(trace) {
    first <- c(as.character(trace$text), "")[[1]]
    if (told && grepl("<br>", first, fixed = TRUE)) {
      sub("<br>.*", "", first)
    } else {
      ""
    }
  }, "")
  drawn <- vapply(traces, function(trace) {
    identical(trace$mode, "lines") && !identical(trace$fill, "toself")
  }, NA)
  first <- drawn & !duplicated(ifelse(drawn, names, NA)) & nzchar(names)
  Map(function(trace, name, shown) {
    if (nzchar(name)) {
      trace$name <- name
      trace$legendgroup <- name
    } else if (identical(trace$mode, "text")) {
      # What is written on a tile says no more than the tile.
      trace$hoverinfo <- "skip"
      trace$hovertext <- NULL
    } else if (!told) {
      trace$text <- told_by_converter(trace$text)
    }
    trace$showlegend <- shown
    trace
  }, traces, names, first)
}

# The converter takes the widths of bars for moments, which a browser ignores.
bars_in_milliseconds <- function(trace) {
  if (identical(trace$type, "bar") && inherits(trace$x, c("Date", "POSIXct"))) {
    unit <- if (inherits(trace$width, "POSIXct")) 1e3 else 864e5
    trace$width <- as.numeric(trace$width) * unit
  }
  trace
}

# The lines that the converter makes of names and figures from data; the breaks
# between them are its own.
told_by_converter <- function(text) {
  if (is.null(text)) {
    return(NULL)
  }
  text[] <- gsub("&lt;br /&gt;", "<br />", as_markup(text), fixed = TRUE)
  text
}

# The names of the axes of each panel.
axes_of_panels <- function(built) {
  panels <- built$layout$layout
  numbered <- function(letter, number) {
    paste0(letter, ifelse(number == 1, "", number))
  }
  own <- function(scale, place) {
    if (max(panels[[scale]]) > 1) as.integer(panels$PANEL) else panels[[place]]
  }
  data.frame(
    panel = panels$PANEL, x = numbered("x", own("SCALE_X", "COL")),
    y = numbered("y", own("SCALE_Y", "ROW"))
  )
}

axis_of <- function(layout, name) {
  layout[[sub("^(x|y)", "\\1axis", name)]]
}

# Names of panels are bold, names of axes are not. Both may come from data.
bold_strips <- function(annotations) {
  lapply(annotations, function(one) {
    one$text <- as_markup(one$text)
    if (is.null(one$annotationType)) {
      one$text <- paste0("<b>", one$text, "</b>")
    }
    one
  })
}

# What stands around the panels.
widget_layout <- function(x, plot, labels, built) {
  layout <- x$layout
  said <- plot$labels
  axes <- grep("^[xy]axis", names(layout), value = TRUE)
  layout[axes] <- lapply(layout[axes], still_axis)
  layout[axes] <- Map(function(axis, letter) {
    blank <- is.null(said[[letter]]) || is_blank_title(built, letter)
    title <- if (is.list(axis$title)) axis$title$text else axis$title
    axis$title <- list(
      text = if (blank) "" else as_markup(title %||% ""), font = list(size = 12)
    )
    axis
  }, layout[axes], substr(axes, 1, 1))
  head <- head_of_widget(said)
  layout$title <- head$title
  layout$margin$t <- head$pixels
  many <- has_choice(x$data)
  caption <- caption_below(said$caption, layout$margin$b + 8 + 30 * many)
  layout$showlegend <- many
  layout$legend <- list(
    orientation = "h", x = 0, xanchor = "left", y = -0.07, yanchor = "top"
  )
  layout$margin$b <- layout$margin$b + 30 + 30 * many + 15 * length(caption)
  layout$annotations <- c(labels, caption)
  layout$updatemenus <- scale_menu(layout, x$data)
  layout$hoverlabel <- list(align = "left")
  layout
}

# The title with the subtitle below it, and the pixels that they and what
# stands above the panels take. A page has the title as a heading.
head_of_widget <- function(said) {
  subtitle <- in_lines(said$subtitle, 130)
  lines <- c(
    if (length(said$title) > 0) sprintf("<b>%s</b>", as_markup(said$title)),
    if (length(subtitle) > 0) sprintf(
      "<span style=\"font-size:13px;color:#555555\">%s</span>", subtitle
    )
  )
  rows <- sum(lengths(strsplit(subtitle, "<br>", fixed = TRUE)))
  list(
    title = list(
      text = paste(lines, collapse = "<br>"),
      x = 0, xref = "paper", xanchor = "left", y = 1, yref = "container",
      yanchor = "top", pad = list(t = 14), font = list(size = 18)
    ),
    pixels = 48 + 24 * (length(said$title) > 0) + 16 * rows
  )
}

is_blank_title <- function(built, letter) {
  scale <- built$layout[[paste0("panel_scales_", letter)]][[1]]
  titles <- built$plot$theme[c("axis.title", paste0("axis.title.", letter))]
  is.null(scale$name) || any(vapply(titles, inherits, NA, "element_blank"))
}

# Whether there are series to choose from: several in one panel.
has_choice <- function(traces) {
  listed <- Filter(function(trace) trace$showlegend, traces)
  panel <- vapply(listed, function(trace) {
    paste(trace$xaxis, trace$yaxis)
  }, "")
  anyDuplicated(panel) > 0
}

# As in the still figure, until it is zoomed into.
still_axis <- function(axis) {
  axis$autorange <- FALSE
  if (identical(axis$tickmode, "auto")) {
    percent <- any(grepl("%$", axis$ticktext))
    axis[c("ticktext", "tickvals", "categoryorder", "categoryarray")] <- NULL
    if (identical(axis$type, "date")) {
      axis$tickformatstops <- iso_ticks
    } else {
      # With a plus sign zero would have one, too.
      axis$tickformat <- ",.10~g"
      axis$ticksuffix <- if (percent) "%" else ""
    }
  } else {
    axis$ticktext <- as_markup(as.character(axis$ticktext))
  }
  axis
}

# By the distance of the ticks, in milliseconds or months.
iso_ticks <- list(
  list(dtickrange = list(NULL, 36e5 * 23), value = "%H:%M\n%Y-%m-%d"),
  list(dtickrange = list(36e5 * 23, "M1"), value = "%Y-%m-%d"),
  list(dtickrange = list("M1", "M12"), value = "%Y-%m"),
  list(dtickrange = list("M12", NULL), value = "%Y")
)

in_lines <- function(text, width) {
  if (length(text) == 0 || !nzchar(text)) {
    return(character())
  }
  paste(as_markup(strwrap(text, width)), collapse = "<br>")
}

caption_below <- function(caption, pixels) {
  text <- in_lines(caption, 150)
  if (length(text) > 0) list(list(
    text = text, x = 0, y = 0, xref = "paper", yref = "paper",
    xanchor = "left", yanchor = "top", yshift = -pixels, align = "left",
    showarrow = FALSE, font = list(size = 11, color = "#6B6B6B")
  ))
}

# Lines of positive figures over time; an axis of names has none.
may_be_logarithmic <- function(layout, traces) {
  figures <- suppressWarnings(as.numeric(unlist(lapply(traces, `[[`, "y"))))
  lines <- all(vapply(traces, function(trace) trace$type == "scatter", NA))
  named <- any(grepl("[[:alpha:]]", unlist(layout$yaxis$ticktext)))
  lines && !named && identical(layout$xaxis$type, "date") &&
    length(figures) > 0 && !any(figures <= 0, na.rm = TRUE)
}

# Buttons to and from a logarithmic axis, where all figures are positive.
scale_menu <- function(layout, traces) {
  if (!may_be_logarithmic(layout, traces)) {
    return(NULL)
  }
  up <- grep("^yaxis", names(layout), value = TRUE)
  set <- function(key, value) {
    stats::setNames(rep(list(value), length(up)), paste0(up, key))
  }
  from <- vapply(layout[up], function(axis) as.numeric(axis$range)[[1]], 0)
  modes <- as.list(ifelse(from <= 0, "tozero", "normal"))
  button <- function(label, type) {
    list(label = label, method = "relayout", args = list(c(
      set(".type", type), set(".autorange", TRUE),
      stats::setNames(modes, paste0(up, ".rangemode"))
    )))
  }
  # Above the titles of panels, where there are several.
  above <- if (length(up) > 1) 32 else 16
  list(list(
    type = "buttons", direction = "right", x = 1, xanchor = "right", y = 1,
    yanchor = "bottom", pad = list(b = above), font = list(size = 11),
    buttons = list(button("Linear", "linear"), button("Log", "log"))
  ))
}
