# Dated events as fine lines with their notes at the top, in as many rows as
# keep the notes apart.

# Rows of `events` within the periods drawn, with the `label` of each: its note,
# or in several panels, where there is no room for notes, a letter, which the
# caption explains; the `lane` that it has, from 1 at the top, and whether it
# stands to the left of its line (`before`).
place_events <- function(events, x, panels) {
  if (is.null(events)) {
    return(NULL)
  }
  if (!is.data.frame(events) || !all(c("date", "note") %in% names(events))) {
    abort_backfill(
      "argument",
      "`events` must be a table with the columns \"date\" and \"note\"."
    )
  }
  clock <- by_clock(facts(x)$calendar)
  at <- as_moments(events$date, "events$date", facts(x)$calendar$zone)
  if (clock && inherits(at, "Date")) {
    at <- as.POSIXct(plain_format(at), tz = facts(x)$calendar$zone)
  } else if (!clock) {
    at <- as.Date(at, tz = zone_of(at))
  }
  ends <- range(x$period)
  within <- !is.na(at) & at >= ends[[1]] & at <= ends[[2]]
  placed <- data.frame(
    at = at[within], note = as.character(events$note)[within]
  )
  placed <- placed[order(placed$at), ]
  placed$label <- if (panels > 1) {
    make.unique(rep_len(letters, nrow(placed)), sep = "")
  } else {
    placed$note
  }
  in_lanes(placed, as.numeric(ends), if (panels > 4) 55 else 110)
}

# At about `across` letters for the width of a panel.
in_lanes <- function(placed, ends, across) {
  span <- diff(ends)
  width <- (nchar(placed$label) + 2) / across * span
  from <- as.numeric(placed$at)
  placed$before <- from + width > ends[[2]] + 0.02 * span
  from <- ifelse(placed$before, from - width, from)
  placed$lane <- rep(1L, nrow(placed))
  taken <- numeric()
  for (i in order(from)) {
    free <- which(taken <= from[[i]])
    lane <- if (length(free) > 0) free[[1]] else length(taken) + 1L
    placed$lane[[i]] <- lane
    taken[[lane]] <- from[[i]] + width[[i]]
  }
  placed
}

# The share of the axis that labels need above the values, and the more the
# lower a panel is; of more than four, two stand side by side.
events_headroom <- function(placed, panels) {
  if (NROW(placed) == 0) {
    return(0.06)
  }
  rows <- if (panels > 4) ceiling(panels / 2) else panels
  0.06 + 0.05 * rows * max(placed$lane)
}

events_caption <- function(placed, panels) {
  if (NROW(placed) > 0 && panels > 1) {
    told <- paste0(paste(placed$label, placed$note, collapse = "; "), ".")
    paste(strwrap(told, 150), collapse = "\n")
  }
}

events_layer <- function(placed) {
  if (NROW(placed) == 0) {
    return(NULL)
  }
  list(
    ggplot2::geom_vline(
      data = placed, ggplot2::aes(xintercept = .data$at), colour = "#9A9A9A",
      linewidth = 0.35, linetype = "dotted"
    ),
    ggplot2::geom_text(
      data = placed, ggplot2::aes(
        x = .data$at, y = Inf, label = .data$label,
        vjust = 0.2 + 1.35 * .data$lane,
        hjust = ifelse(.data$before, 1.02, -0.02)
      ),
      inherit.aes = FALSE, size = 3, colour = "#555555"
    )
  )
}
