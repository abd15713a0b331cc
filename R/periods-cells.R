# From the cells of the roll-up, a value for each series and period in a row
# (series by series), to columns of the periods table.

# The cells of the records in `parts` (see src/parts.h), for the `use` that they
# are put to. `frame` is what a roll-up works on: `columns` (see roll_up_cpp()),
# the laid `calendar`, `cadences` and `surveys` with a row for each series, the
# `groups` that `by` makes of them, and the `scale` of the times.
roll_cells <- function(parts, frame, use = "sum") {
  roll <- function(parts) {
    roll_up_cpp(
      parts, frame$scale, frame$calendar, frame$columns, frame$cadences,
      frame$surveys, needs_order(use), frame$groups$of,
      frame$groups$count
    )
  }
  cells <- roll(parts)
  if (all(is.finite(cells$sum)) && all(is.finite(cells$merged$sum))) {
    return(cells)
  }
  # Beyond the largest number on the way to the sum, if not in the end: once
  # more in smaller units.
  small <- roll(lapply(parts, function(part) {
    function() {
      part <- fetched(part)
      part$value <- part$value * 2^-64
      part
    }
  }))
  within_range <- function(cells, small) {
    cells$mean <- ifelse(
      is.finite(cells$sum), cells$sum / cells$records,
      small$sum / small$records * 2^64
    )
    cells$sum <- ifelse(is.finite(cells$sum), cells$sum, small$sum * 2^64)
    cells
  }
  if (!is.null(cells$merged)) {
    cells$merged <- within_range(cells$merged, small$merged)
  }
  within_range(cells, small)
}

# Whether the cells need more than sums and counts.
needs_order <- function(use) {
  any(vapply(use, function(one) find_statistic(one)$ordered, NA))
}

# The statistic of each cell, NA where there are no records.
statistic_of <- function(cells, use) {
  value <- switch(
    use, sum = , compound = cells$sum,
    mean = cells$mean %||% (
      cells$sum / cells$records
    ),
    count = as.double(cells$records), slots = as.double(cells$slots),
    cells[[use]]
  )
  if (use == "compound") {
    value <- expm1(value)
  }
  value[(cells$known %||% cells$records) == 0] <- NA
  value
}

# The value of a planned measure in each group and period: list(value, lacking),
# where `lacking` says that a part of it is not known.
cell_values <- function(measure, cells, quantiles, frame, pooled) {
  share <- quantile_share(measure$use)
  found <- if (
    frame$groups$count > 0 && is_reading(measure) && !is.null(pooled_by(
      measure, pooled
    ))
  ) {
    pool_groups(measure, cells, quantiles, frame, pooled_by(measure, pooled))
  } else if (!is.na(share)) {
    list(value = quantiles(cells, share, frame))
  } else if (frame$groups$count == 0) {
    list(value = statistic_of(cells, measure$use))
  } else {
    list(value = statistic_of(cells$merged, measure$use))
  }
  if (
    measure$kind == "return" && identical(
      measure$unit, "%"
    ) && measure$use == "compound"
  ) {
    found$value <- found$value * 100
  }
  found
}

cell_quantiles <- function(parts, cells, share, frame) {
  records <- if (frame$groups$count > 0) cells$merged$records else cells$records
  quantile_cpp(
    parts, frame$scale, frame$calendar, frame$columns, frame$groups$of, records,
    share
  )
}

# Sums of complete periods with slots missing inside, enlarged by what is
# missing; they stand as imputed then.
scale_thin <- function(part, measure) {
  if (measure$kind != "flow" || measure$use != "sum") {
    return(part)
  }
  thin <- which(part$standing == "complete" & part$coverage < 1)
  part$standing[thin] <- "imputed"
  enlarged(part, thin, part$coverage[thin])
}

# `scaled` tells by which share a row's value was divided.
enlarged <- function(part, rows, share) {
  part$scaled <- part$scaled %||% rep(NA_real_, nrow(part))
  part$scaled[rows] <- share
  part$value[rows] <- part$value[rows] / share
  part
}

# First and last periods of a series that are partial: `partial` says what
# becomes of them. A part gets a column `keep` where they are dropped, with the
# empty periods beyond them. `reach` is the share of each period that the
# records reach over, for those whose coverage is not known.
settle_ends <- function(part, measure, partial, reach) {
  periods <- length(reach)
  there <- which(part$standing != "empty")
  series <- (there - 1) %/% periods
  ends <- c(
    there[!duplicated(series)], there[!duplicated(series, fromLast = TRUE)]
  )
  short <- unique(ends[part$standing[ends] == "partial"])
  if (partial == "scale") {
    if (measure$kind %in% c("flow", "counter") && measure$use == "sum") {
      share <- part$coverage[short]
      share[is.na(share)] <- reach[(short[is.na(share)] - 1) %% periods + 1]
      part <- enlarged(part, short[share > 0], share[share > 0])
    }
    return(part)
  }
  row <- seq_len(nrow(part))
  of_row <- (row - 1) %/% periods
  first <- there[!duplicated(series)][match(of_row, unique(series))]
  last <- rev(there)[!duplicated(rev(series))][
    match(of_row, unique(rev(series)))
  ]
  part$keep <- !row %in% short & !is.na(first) & row >= first & row <= last
  part
}
