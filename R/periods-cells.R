# From the cells of the roll-up, a value for each series and period in a row
# (series by series), to columns of the periods table: values by their
# statistic, standings by their coverage, and sub-series put together.

# The cells of the records in `parts` (see src/parts.h), for the `use` that they
# are put to. `frame` is what a roll-up works on: `columns` (see roll_up_cpp()),
# the laid `calendar`, `cadences` and `surveys` with a row for each series, the
# `groups` that `by` makes of them, and the `scale` of the times.
roll_cells <- function(parts, frame, use = "sum") {
  roll <- function(parts) {
    roll_up_cpp(
      parts, frame$scale, frame$calendar, frame$columns, frame$cadences,
      frame$surveys, any(needs_statistics(use)), frame$groups$of,
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

# How whole the cells of each group are: `standing` (code), `n` and `coverage`.
# `marks` says which cells hold more or less than their own (`partial`) and how
# many slots in them were `imputed`; `zero` that silence means zero.
judge_cells <- function(cells, frame, marks = NULL, zero = FALSE) {
  judged <- judge_cells_cpp(
    cells$slots, cells$records, as.double(frame$expected), frame$reached,
    frame$enough, zero
  )
  standing <- judged$standing
  if (!is.null(marks)) {
    short <- standing == 2L | standing == 3L
    filled <- (cells$slots + marks$imputed) / frame$expected >= frame$enough &
      marks$imputed > 0
    standing[standing == 3L & marks$imputed > 0] <- 2L
    standing[which(filled & short)] <- 4L
    standing[marks$partial & standing == 1L] <- 2L
  }
  join_judged(
    list(
      standing = standing, n = cells$records, coverage = judged$coverage,
      slots = cells$slots
    ),
    frame
  )
}

# A ratio is as whole as the less whole of its parts.
join_parts <- function(of, per) {
  worse <- pmax(
    match(of$standing, whole_order), match(per$standing, whole_order)
  )
  list(
    standing = whole_order[worse], n = of$n,
    coverage = pmin(of$coverage, per$coverage)
  )
}

# Codes of standings from the most to the least whole: complete, imputed,
# partial, empty.
whole_order <- c(1L, 4L, 2L, 3L)

# A part of the table: the columns of one measure.
new_part <- function(value, judged) {
  vctrs::data_frame(
    value = value, standing = structure(
      judged$standing, levels = standings, class = "factor"
    ), n = judged$n,
    coverage = as.double(judged$coverage)
  )
}

# First and last periods of a series that are partial: `partial` says what
# becomes of them. A part gets a column `keep` where they are dropped, with the
# empty periods beyond them; and `scaled`, by which share their values were
# divided, where they are. `reach` is the share of each period that the records
# reach over, for those whose coverage is not known.
settle_ends <- function(part, measure, partial, reach) {
  if (partial == "keep") {
    return(part)
  }
  periods <- length(reach)
  there <- which(part$standing != "empty")
  series <- (there - 1) %/% periods
  ends <- c(
    there[!duplicated(series)], there[!duplicated(series, fromLast = TRUE)]
  )
  short <- unique(ends[part$standing[ends] == "partial"])
  if (partial == "scale") {
    part$scaled <- NA_real_
    if (measure$kind %in% c("flow", "counter") && measure$use == "sum") {
      share <- part$coverage[short]
      share[is.na(share)] <- reach[(short[is.na(share)] - 1) %% periods + 1]
      short <- short[share > 0]
      part$scaled[short] <- share[share > 0]
      part$value[short] <- part$value[short] / part$scaled[short]
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
