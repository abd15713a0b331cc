# A figure as a picture in vectors, and where its points lie in it.

# The figure drawn once: list(svg, points), the text of its picture and what its
# points tell, at their places in it.
drawn_figure <- function(plot, width = 1280, height = 780) {
  file <- tempfile(fileext = ".svg")
  svglite::svglite(
    file, width / 130, height / 130, fix_text_size = TRUE,
    system_fonts = list(sans = "DejaVu Sans")
  )
  on.exit(unlink(file))
  # Texts are measured on the open device.
  panels <- tryCatch({
    built <- ggplot2::ggplot_build(plot)
    table <- ggplot2::ggplot_gtable(built)
    grid::grid.newpage()
    grid::grid.draw(table)
    places_of_panels(table, height / 130)
  }, finally = grDevices::dev.off())
  list(
    svg = readLines(file, encoding = "UTF-8"),
    points = points_of_figure(built, panels)
  )
}

# Where each panel lies in the open picture, in points (72 to an inch) from its
# upper left corner; a row for each panel.
places_of_panels <- function(table, height) {
  layout <- table$layout
  drawn <- !vapply(table$grobs, inherits, NA, "zeroGrob")
  panels <- layout[grepl("^panel", layout$name) & drawn, ]
  at <- function(panel) {
    grid::seekViewport(sprintf(
      "%s.%d-%d-%d-%d", panel$name, panel$t, panel$r, panel$b, panel$l
    ))
    on.exit(grid::upViewport(0))
    ends <- grid::unit(c(0, 1), "npc")
    corner <- grid::deviceLoc(ends, ends, valueOnly = TRUE)
    72 * c(corner$x[[1]], height - corner$y[[1]], diff(corner$x),
           diff(corner$y))
  }
  at <- vapply(split(panels, seq_len(nrow(panels))), at, numeric(4))
  data.frame(
    row = match(panels$t, sort(unique(panels$t))),
    column = match(panels$l, sort(unique(panels$l))), left = at[1, ],
    bottom = at[2, ], width = at[3, ], height = at[4, ]
  )
}

# What stands for a layer's points: the ends of a line, single points, boxes.
kinds_of_points <- c(
  GeomPath = "line", GeomPoint = "point", GeomRect = "box", GeomBoxplot = "box"
)

# list(told, marks): the texts, and the points of each layer, panel and group.
points_of_figure <- function(built, panels) {
  tells <- "text" %in% names(built$plot$mapping)
  marks <- Map(function(layer, data) {
    kind <- kinds_of_points[intersect(
      class(layer$geom), names(kinds_of_points)
    )]
    if (length(kind) == 0 || nrow(data) == 0) {
      return(NULL)
    }
    if (tells && is.null(data$text)) {
      return(NULL)
    }
    if (inherits(layer$geom, "GeomBoxplot")) data <- halves_of_boxes(data)
    if (inherits(layer$geom, "GeomBar")) data <- ends_of_bars(data)
    if (!tells) data$text <- told_by_axes(data, layer, built)
    marks_of_layer(data, kind[[1]], built, panels)
  }, built$plot$layers, built$data)
  marks <- thinned(without_repeats(unlist(marks, recursive = FALSE)))
  told <- unique(as.character(unlist(lapply(marks, `[[`, "t"))))
  list(told = I(told), marks = unname(lapply(marks, function(one) {
    one$t <- I(match(one$t, told) - 1L)
    one
  })))
}

marks_of_layer <- function(data, kind, built, panels) {
  data$text <- visible(as.character(data$text))
  by <- if (kind == "line") data$group else sub("\n.*", "", data$text)
  groups <- split(data, list(data$PANEL, by), drop = TRUE)
  lapply(unname(groups), function(data) {
    panel <- as.integer(data$PANEL[[1]])
    at <- built$layout$coord$transform(
      data, built$layout$panel_params[[panel]]
    )
    laid <- built$layout$layout[panel, ]
    place <- panels[panels$row == laid$ROW & panels$column == laid$COL, ]
    across <- function(x) round(place$left + x * place$width, 1)
    up <- function(y) round(place$bottom - y * place$height, 1)
    known <- !is.na(data$text) & !is.na(at$x %||% at$xmin)
    middle <- function(ends) (at[[ends[[1]]]] + at[[ends[[2]]]]) / 2
    colour <- if (kind == "box") data$fill else data$colour
    out <- list(
      k = kind, c = if (kind == "line") colour[[1]] else colour, t = data$text,
      x = across(if (kind == "box") middle(c("xmin", "xmax")) else at$x),
      y = up(if (kind == "box") middle(c("ymin", "ymax")) else at$y)
    )
    if (kind == "box") {
      out$w <- round((at$xmax - at$xmin) * place$width, 1)
      out$h <- round(abs(at$ymax - at$ymin) * place$height, 1)
    }
    several <- setdiff(names(out), c("k", if (kind == "line") "c"))
    out[several] <- lapply(out[several], function(part) I(part[known]))
    if (length(out$t) > 0) out
  })
}

# Of more points than a pointer can find, the lowest and the highest of each
# stretch.
thinned <- function(marks, most = 12000) {
  step <- 2 * sum(vapply(marks, function(one) length(one$x), 0L)) / most
  if (step <= 2) {
    return(marks)
  }
  lapply(marks, function(one) {
    stretch <- seq_along(one$y) %/% step
    order <- order(stretch, one$y, na.last = NA)
    ends <- !duplicated(stretch[order]) |
      !duplicated(stretch[order], fromLast = TRUE)
    # What is missing still breaks a line.
    kept <- sort(c(order[ends], which(is.na(one$y) & !duplicated(stretch))))
    each <- lengths(one) == length(one$x)
    one[each] <- lapply(one[each], function(part) I(part[kept]))
    one
  })
}

# Several layers may show the same points.
without_repeats <- function(marks) {
  marks <- Filter(Negate(is.null), marks)
  lines <- vapply(marks, function(one) one$k == "line", NA)
  marks <- marks[order(!lines)]
  keys <- lapply(marks, function(one) paste(one$x, one$y, one$t))
  seen <- character()
  kept <- logical(length(marks))
  for (i in seq_along(marks)) {
    kept[[i]] <- !all(keys[[i]] %in% seen)
    seen <- c(seen, keys[[i]])
  }
  marks[kept]
}

# The middle half of the figures, along the axis that they lie on.
halves_of_boxes <- function(data) {
  along <- if ("xmiddle" %in% names(data)) "x" else "y"
  ends <- paste0(if (along == "x") "x", c("lower", "middle", "upper"))
  data[paste0(along, c("min", "", "max"))] <- data[ends]
  data$note <- sprintf(
    "half of all: %s to %s", four_digits(data[[ends[[1]]]]),
    four_digits(data[[ends[[3]]]])
  )
  data
}

# The end of each bar that is not at zero.
ends_of_bars <- function(data) {
  along <- if (any(data$flipped_aes)) "x" else "y"
  low <- data[[paste0(along, "min")]]
  high <- data[[paste0(along, "max")]]
  data[[along]] <- ifelse(abs(low) > abs(high), low, high)
  data
}

# What points tell that no text is given for: their panel, the name that their
# colour stands for, and what the axes say of them.
told_by_axes <- function(data, layer, built) {
  layout <- built$layout
  x <- data$x %||% ((data$xmin + data$xmax) / 2)
  y <- data$y %||% data$ymax
  of_panel <- layout$layout[data$PANEL, , drop = FALSE]
  panel <- names_of_panels(of_panel, layout$facet$params)
  name <- name_by_colour(data, built$plot)
  values <- list(
    value_by_scales(x, of_panel$SCALE_X, layout$panel_scales_x),
    value_by_scales(y, of_panel$SCALE_Y, layout$panel_scales_y)
  )
  # Names come before figures.
  figures <- !c(
    layout$panel_scales_x[[1]]$is_discrete(),
    layout$panel_scales_y[[1]]$is_discrete()
  )
  do.call(paste, c(Filter(Negate(is.null), c(
    list(panel, if (!identical(name, panel)) name), values[order(figures)],
    list(shade_of_points(data, layer, built$plot), data$note)
  )), sep = "\n"))
}

# What panels are of; nothing where there is but one.
names_of_panels <- function(laid, facets) {
  of <- names(facets$facets %||% facets$cols)
  if (length(of) > 0) do.call(paste, c(
    lapply(laid[of], function(name) trimws(as.character(name))), sep = ", "
  ))
}

name_by_colour <- function(data, plot) {
  for (aesthetic in c("colour", "fill")) {
    scale <- plot$scales$get_scales(aesthetic)
    named <- !is.null(scale) && scale$is_discrete()
    names <- if (named) names_of_shades(data[[aesthetic]], scale)
    if (!is.null(names)) {
      return(names)
    }
  }
}

# Names of sides, such as "above", say no more than the place of a point.
names_of_shades <- function(shade, scale) {
  limits <- as.character(scale$get_limits())
  at <- match(shade, scale$map(limits))
  sides <- limits %in% c("TRUE", "FALSE", "above", "below", "up", "down")
  if (length(limits) > 1 && !all(is.na(at)) && !any(sides)) limits[at]
}

# Panels may have scales of their own.
value_by_scales <- function(x, number, scales) {
  out <- character(length(x))
  for (one in unique(number)) {
    own <- number == one
    out[own] <- value_by_scale(x[own], scales[[one]])
  }
  out
}

# A value as the axis has it: a name, the label of a tick, a date or a figure.
value_by_scale <- function(x, scale) {
  names <- if (scale$is_discrete()) scale$get_limits() else scale$positions
  if (!is.null(names)) {
    return(as.character(names)[round(as.numeric(x))])
  }
  transformation <- scale$trans %||% scale$get_transformation()
  value <- transformation$inverse(as.numeric(x))
  if (inherits(value, "Date")) {
    days <- day_label(value)
    return(if (all(grepl("-01$", days))) substr(days, 1, 7) else days)
  }
  if (inherits(value, "POSIXct")) {
    return(plain_format(value, "%Y-%m-%d %H:%M"))
  }
  found <- names_of_ticks(x, scale)
  ifelse(is.na(found), four_digits(value), found)
}

# The ticks of positions have names, such as "2029" at the first; NA elsewhere.
names_of_ticks <- function(x, scale) {
  ticks <- scale$get_breaks()
  labels <- as.character(scale$get_labels(ticks))
  number <- suppressWarnings(as.numeric(gsub("[,%+]", "", labels)))
  labels[!is.na(number) & number == ticks] <- NA
  labels[match(round(x, 6), round(ticks, 6))]
}

four_digits <- function(x) {
  trimws(plain_formatC(x, digits = 4, format = "fg", big.mark = ","))
}

# The figure behind a shade that has no name: tiles keep the order of the data.
shade_of_points <- function(data, layer, plot) {
  scale <- plot$scales$get_scales("fill")
  fill <- plot$mapping$fill %||% layer$mapping$fill
  from <- if (is.data.frame(layer$data)) layer$data else plot$data
  if (is.null(scale) || scale$is_discrete() || is.null(fill)) {
    return(NULL)
  }
  value <- rlang::eval_tidy(fill, from)
  if (length(value) == nrow(data)) {
    ifelse(is.na(value), "", four_digits(value))
  }
}
