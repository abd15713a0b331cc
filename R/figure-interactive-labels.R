# Labels of an interactive figure. Those of the still one were placed by the
# pixels of its device; these know the size of the widget only roughly.

# What a panel of the whole figure has in pixels, and a letter takes.
panel_pixels <- c(across = 900, up = 420)
letter_pixels <- c(across = 6.6, up = 15)

# The labels that were kept apart, at their points: names at the ends of lines
# to the right of these and off each other, others where least is in the way.
labels_of_figure <- function(built, axes, layout) {
  repelled <- vapply(built$plot$layers, function(layer) {
    inherits(layer$geom, "GeomTextRepel")
  }, NA)
  # Notes of events stand at the upper end of an axis, which is at infinity.
  notes <- vapply(built$data, function(data) {
    !is.null(data$label) && nrow(data) > 0 && all(is.infinite(data$y))
  }, NA)
  by_panel <- function(layers, labels) {
    unlist(lapply(built$data[layers], function(data) {
      panels <- split(data, data$PANEL, drop = TRUE)
      unlist(lapply(panels, function(data) {
        at <- axes[match(data$PANEL[[1]], axes$panel), ]
        labels(data, at, axis_of(layout, at$x), axis_of(layout, at$y))
      }), recursive = FALSE)
    }), recursive = FALSE, use.names = FALSE)
  }
  c(by_panel(repelled, labels_of_panel), by_panel(notes, notes_of_panel))
}

# In rows below each other from the upper end of the axis, beside their lines.
notes_of_panel <- function(data, at, across, up) {
  left <- data$hjust < 0.5
  Map(function(label, x, vjust, left) {
    list(
      text = as_markup(as.character(label)), x = on_axis(x, across), y = 1,
      xref = at$x, yref = paste(at$y, "domain"), showarrow = FALSE,
      xanchor = if (left) "left" else "right", yanchor = "top",
      xshift = if (left) 3 else -3, yshift = -10 * (vjust - 1.35),
      bgcolor = "rgba(255,255,255,0.8)",
      font = list(color = "#555555", size = 11)
    )
  }, data$label, data$x, data$vjust, left)
}

labels_of_panel <- function(data, at, across, up) {
  known <- data[!is.na(data$y), ]
  named <- known[nzchar(as.character(known$label)), ]
  if (nrow(named) == 0) {
    return(list())
  }
  ends <- all(data$hjust == 0)
  shift <- if (ends) {
    data.frame(x = 6, y = shifts_apart(named$y, up))
  } else {
    free_places(named, known, across, up)
  }
  Map(function(label, x, y, colour, right, higher) {
    list(
      text = as_markup(as.character(label)), x = on_axis(x, across), y = y,
      xref = at$x, yref = at$y, showarrow = FALSE,
      xanchor = if (ends) "left" else "center", xshift = right,
      yshift = higher, font = list(color = colour, size = 12)
    )
  }, named$label, named$x, named$y, named$colour, shift$x, shift$y)
}

# Dates and instants as the axis has them, by the clock of its zone.
on_axis <- function(x, axis) {
  if (!identical(axis$type, "date")) {
    x
  } else if (inherits(axis$range, "Date")) {
    day_label(.Date(x))
  } else {
    plain_format(.POSIXct(x, attr(axis$range, "tzone")))
  }
}

# How many pixels a unit of an axis takes.
pixels_per_unit <- function(axis, whole) {
  range <- as.numeric(axis$range)
  # Instants are in seconds, as in the data.
  whole * diff(as.numeric(axis$domain %||% c(0, 1))) / diff(range)
}

# By how many pixels texts at these heights are moved, so that none overlap: as
# far down as up.
shifts_apart <- function(y, axis) {
  at <- y * pixels_per_unit(axis, panel_pixels[["up"]])
  order <- order(at)
  out <- at[order]
  for (i in seq_along(out)[-1]) {
    out[[i]] <- max(out[[i]], out[[i - 1]] + letter_pixels[["up"]])
  }
  out <- out - mean(out - at[order])
  out[order(order)] - at
}

# Where each label of `named` stands from its point, in pixels: of the places
# around it the nearest that has fewest points of lines and other labels in it.
free_places <- function(named, known, across, up) {
  scale <- c(
    pixels_per_unit(across, panel_pixels[["across"]]),
    pixels_per_unit(up, panel_pixels[["up"]])
  )
  points <- cbind(known$x * scale[[1]], known$y * scale[[2]])
  taken <- matrix(0, 0, 2)
  out <- matrix(0, nrow(named), 2)
  for (i in seq_len(nrow(named))) {
    half <- c(nchar(as.character(named$label[[i]])) * letter_pixels[[1]],
              letter_pixels[[2]]) / 2
    own <- c(named$x[[i]] * scale[[1]], named$y[[i]] * scale[[2]])
    places <- as.matrix(expand.grid(
      c(0, -1, 1) * (half[[1]] + 8), c(1, -1, 0, 1.9, -1.9, 3, -3) * 13
    ))
    places <- places[places[, 1] != 0 | places[, 2] != 0, ]
    within <- function(points, place, reach) {
      sum(abs(points[, 1] - own[[1]] - place[[1]]) < half[[1]] * reach &
            abs(points[, 2] - own[[2]] - place[[2]]) < half[[2]] * reach)
    }
    cost <- apply(places, 1, function(place) {
      within(points, place, 1) + 10 * within(taken, place, 2) +
        sqrt(sum(place^2)) / 100
    })
    out[i, ] <- places[which.min(cost), ]
    taken <- rbind(taken, own + out[i, ])
  }
  data.frame(x = out[, 1], y = out[, 2])
}
