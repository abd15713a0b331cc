# The columns of all measures, below each other, as a periods table.

# The periods table of the stacked columns, with what is `known` of it.
periods_of <- function(data, frame, known, start) {
  if (known$partial == "drop") {
    data <- vctrs::vec_slice(data[names(data) != "keep"], data$keep)
  }
  # Withheld, and told.
  beyond <- which(is.infinite(data$value))
  data$value[beyond] <- NA
  data$standing[beyond] <- "partial"
  known$too_large <- length(beyond)
  series <- names(frame$groups$names)
  scaled <- if ("scaled" %in% names(data)) which(!is.na(data$scaled))
  if (length(scaled) > 0) {
    known$scaled <- data[scaled, c(series, "measure", "period", "scaled")]
  }
  out <- new_periods(data[names(data) != "scaled"], c(known, list(
    calendar = frame$calendar, series = series,
    cadences = cadences_of_plan(frame$known_cadences, known$measures),
    enough = frame$enough, span = frame$span,
    sources = frame$sources
  )))
  if (known$partial == "drop") {
    return(out)
  }
  lines <- nrow(data) / length(start)
  with_layout(
    out, rep(length(start), lines), rep(frame$columns$first, lines),
    frame$calendar
  )
}

stack_measures <- function(parts, measures, series, period) {
  blocks <- length(measures) * nrow(series)
  stacked <- parts[[1]]
  if (length(measures) > 1) {
    stacked <- vctrs::vec_rbind(!!!parts)
    # From measure by series by period to series by measure by period.
    block <- as.vector(matrix(
      seq_len(blocks), nrow = length(measures), byrow = TRUE
    ))
    stacked <- vctrs::vec_slice(
      stacked,
      rep((block - 1) * length(period), each = length(period)) +
        seq_along(period)
    )
  }
  tibble::new_tibble(c(
    as.list(vctrs::vec_rep_each(series, length(measures) * length(period))),
    list(
      measure = rep(rep(measures, each = length(period)), nrow(series)),
      period = rep(period, blocks)
    ),
    as.list(stacked)
  ), nrow = blocks * length(period))
}
