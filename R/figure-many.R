# Of more lines than can be named: which are brought out, and where the middle
# of all lies.

# More than these are drawn as a band alone.
most_drawn <- 100

# Of more lines than can be named list(lifted, middle, band, said): those that
# are brought out, where the middle lies, whether the others are a band alone,
# and what a subtitle says of it; else NULL.
many_lines <- function(data, of) {
  if (nlevels(data$line) <= most_labelled) {
    return(NULL)
  }
  data <- whole_figures(data, of)
  matter <- lines_that_matter(data)
  band <- nlevels(data$line) > most_drawn
  list(
    lifted = matter$line, middle = middle_of_lines(data), band = band,
    said = matter_in_words(matter, nlevels(data$line), band)
  )
}

# The lines of each panel that a reader looks for, a row each: the highest, the
# one that changed most from its first to its last quarter, and the one that is
# once furthest from the course of the others. `figure` is NA where it does not
# count.
lines_that_matter <- function(data) {
  found <- lapply(split(data, data$panel, drop = TRUE), function(data) {
    lines <- unique(data$line)
    periods <- sort(unique(data$period))
    figures <- matrix(NA_real_, length(periods), length(lines))
    figures[cbind(match(data$period, periods), match(data$line, lines))] <-
      data$figure
    weights <- list(
      "highest on average" = colMeans(figures, na.rm = TRUE),
      "changed most" = changes_over(figures),
      "furthest from the course of the others" = departures_from(figures)
    )
    left <- seq_along(lines)
    chosen <- integer()
    for (weight in weights) {
      fit <- left[is.finite(weight[left])]
      one <- fit[which.max(weight[fit])]
      chosen <- c(chosen, c(one, NA)[[1]])
      left <- setdiff(left, one)
    }
    out <- new_rows(
      panel = as.character(data$panel[[1]]), line = lines[chosen],
      why = names(weights)
    )
    out[!is.na(chosen), ]
  })
  vctrs::vec_rbind(!!!unname(found))
}

# By how much of itself each column changed, from its first quarter to its last;
# of figures below zero that says nothing.
changes_over <- function(figures) {
  if (any(figures < 0, na.rm = TRUE)) {
    return(rep(NA_real_, ncol(figures)))
  }
  figures <- figures[rowSums(!is.na(figures)) > 0, , drop = FALSE]
  quarter <- max(1, nrow(figures) %/% 4)
  first <- colMeans(utils::head(figures, quarter), na.rm = TRUE)
  last <- colMeans(utils::tail(figures, quarter), na.rm = TRUE)
  abs(last - first) / abs(first)
}

# How far each column is at most from the middle of all, each by its own mean
# and spread.
departures_from <- function(figures) {
  own <- scale(figures)
  away <- abs(own - apply(own, 1, function(row) {
    known <- row[!is.na(row)]
    if (length(known) > 0) quantiles_of(known, 0.5) else NA
  }))
  apply(away, 2, function(one) max(c(one, -Inf), na.rm = TRUE))
}

# The ends of all lines in each period, of their middle half, and their middle.
middle_of_lines <- function(data) {
  known <- data[!is.na(data$figure), ]
  at <- vctrs::vec_group_loc(known[c("panel", "period")])
  ends <- vapply(vctrs::vec_chop(known$figure, at$loc), function(figures) {
    quantiles_of(figures, c(0, 0.25, 0.5, 0.75, 1))
  }, numeric(5))
  data.frame(
    at$key, lowest = ends[1, ], lower = ends[2, ], middle = ends[3, ],
    upper = ends[4, ], highest = ends[5, ]
  )
}

# What is shaded lies under the lines, the middle over those in grey.
middle_half_layers <- function(many) {
  band <- function(low, high, alpha) {
    ggplot2::geom_ribbon(
      ggplot2::aes(.data$period, ymin = .data[[low]], ymax = .data[[high]]),
      many$middle, inherit.aes = FALSE, fill = "#C4CBCB", alpha = alpha
    )
  }
  if (!is.null(many)) list(
    if (many$band) band("lowest", "highest", 0.35), band("lower", "upper", 0.5)
  )
}

middle_layer <- function(middle) {
  # One period makes no line.
  several <- middle$panel %in% middle$panel[duplicated(middle$panel)]
  if (any(several)) ggplot2::geom_line(
    ggplot2::aes(.data$period, .data$middle), middle[several, ],
    inherit.aes = FALSE, colour = "#444444", linetype = "dashed",
    linewidth = 0.6
  )
}

# What is brought out and why; names of panels' lines stand at their ends.
matter_in_words <- function(matter, lines, band) {
  named <- if (length(unique(matter$panel)) > 1) {
    paste("in each panel", in_words(unique(matter$why)))
  } else {
    in_words(sprintf("%s (%s)", short_in_middle(as.character(matter$line)),
                     matter$why))
  }
  said <- sprintf(
    "In colour: %s. %s: all %s. %s: their middle half, dashed: the middle.",
    named, if (band) "Light" else "Grey", count_of(lines, "series", "series"),
    if (band) "Darker" else "Shaded"
  )
  paste(strwrap(said, 112), collapse = "\n")
}
