# From the cells of the roll-up, a value for each series and period in a row (series by series), to columns of the
# periods table: values by their statistic, standings by their coverage, and sub-series put together.

# The cells of the records in `parts` (see src/parts.h), for the `use` that they are put to. `frame` is what a roll-up
# works on: `columns` (see roll_up_cpp()), the laid `calendar`, `cadences` and `surveys` with a row for each series, the
# `groups` that `by` makes of them, and the `scale` of the times.
roll_cells <- function(parts, frame, use = "sum") {
  roll_up_cpp(parts, frame$scale, frame$calendar, frame$columns, frame$cadences, frame$surveys,
              any(needs_statistics(use)), frame$groups$of, frame$groups$count)
}

# The groups that `by` makes of series: the `names` of each, the group `of` each series and their `count`, which is 0
# where each series is a group of its own.
group_series <- function(names, by) {
  index <- series_index(tibble::new_tibble(as.list(names), nrow = nrow(names)), by)
  if (nrow(index$names) == nrow(names)) {
    return(list(names = names[by], of = integer(), count = 0L))
  }
  list(names = index$names, of = index$index, count = nrow(index$names))
}

# The sum over the series of each group, of cells that lie series by series.
add_groups <- function(cells, frame) {
  if (frame$groups$count == 0) {
    return(cells)
  }
  as.vector(t(rowsum(t(matrix(as.double(cells), frame$columns$count)), frame$groups$of, reorder = TRUE)))
}

# The value of a planned measure in each group and period.
cell_values <- function(measure, cells, parts, frame, together) {
  share <- quantile_share(measure$use)
  found <- if (!is.na(share)) {
    cell_quantiles(parts, cells, share, frame)
  } else if (frame$groups$count == 0) {
    statistic_of(cells, measure$use)
  } else if (measure$kind %in% c("level", "return", "log return") && measure$use %in% averaged_uses) {
    average_groups(statistic_of(cells, measure$use), together[[measure$from]], frame)
  } else {
    statistic_of(cells$merged, measure$use)
  }
  if (measure$kind == "return" && identical(measure$unit, "%") && measure$use == "compound") found * 100 else found
}

# Of sub-series these are taken first, and averaged then.
averaged_uses <- c("mean", "first", "last", "compound", "sum")

cell_quantiles <- function(parts, cells, share, frame) {
  records <- if (frame$groups$count > 0) cells$merged$records else cells$records
  quantile_cpp(parts, frame$scale, frame$calendar, frame$columns, frame$groups$of, records, share)
}

# `how` is NULL for the mean, "sum", or the weights of the cells.
average_groups <- function(value, how, frame) {
  weight <- if (is.numeric(how)) how else 1
  known <- !is.na(value) & !is.na(weight)
  total <- add_groups(ifelse(known, value * weight, 0), frame)
  count <- add_groups(known * if (is.numeric(how)) ifelse(is.na(weight), 0, weight) else 1, frame)
  total[add_groups(known, frame) == 0] <- NA
  if (identical(how, "sum")) total else divided(total, count)
}

# A group is not whole where one of its series has a value and no weight.
lack_weights <- function(judged, measure, cells, frame, together) {
  weight <- together[[measure$from]]
  if (frame$groups$count > 0 && is.numeric(weight)) {
    lacking <- add_groups(cells$records > 0 & is.na(weight), frame) > 0
    judged$standing[lacking & judged$standing != 3L] <- 2L
  }
  judged
}

# How whole the cells of each group are: `standing` (code), `n` and `coverage`. `marks` says which cells hold more or
# less than their own (`partial`) and how many slots in them were `imputed`; `zero` that silence means zero.
judge_cells <- function(cells, frame, marks = NULL, zero = FALSE) {
  judged <- judge_cells_cpp(cells$slots, cells$records, as.double(frame$expected), frame$reached, frame$enough, zero)
  standing <- judged$standing
  if (!is.null(marks)) {
    short <- standing == 2L | standing == 3L
    filled <- (cells$slots + marks$imputed) / frame$expected >= frame$enough & marks$imputed > 0
    standing[standing == 3L & marks$imputed > 0] <- 2L
    standing[which(filled & short)] <- 4L
    standing[marks$partial & standing == 1L] <- 2L
  }
  join_judged(list(standing = standing, n = cells$records, coverage = judged$coverage, slots = cells$slots), frame)
}

# A group is whole where each of its series is; one without a record is not, unless it comes irregularly.
join_judged <- function(judged, frame) {
  if (frame$groups$count == 0) {
    return(judged)
  }
  of_standing <- function(codes) add_groups(judged$standing %in% codes, frame)
  regular <- rep(!frame$irregular, each = frame$columns$count)
  broken <- of_standing(2L) + add_groups(judged$standing == 3L & regular, frame)
  standing <- rep(1L, length(broken))
  standing[of_standing(4L) > 0] <- 4L
  standing[broken > 0] <- 2L
  standing[of_standing(3L) == add_groups(rep(1, length(judged$standing)), frame)] <- 3L
  slots <- add_groups(judged$slots, frame)
  expected <- add_groups(rep_len(frame$expected, length(judged$standing)), frame)
  list(standing = standing, n = as.integer(add_groups(judged$n, frame)), coverage = slots / expected, slots = slots)
}

# A ratio is as whole as the less whole of its parts.
join_parts <- function(of, per) {
  worse <- pmax(match(of$standing, whole_order), match(per$standing, whole_order))
  list(standing = whole_order[worse], n = of$n, coverage = pmin(of$coverage, per$coverage))
}

# Codes of standings from the most to the least whole: complete, imputed, partial, empty.
whole_order <- c(1L, 4L, 2L, 3L)

# A part of the table: the columns of one measure.
new_part <- function(value, judged) {
  vctrs::data_frame(
    value = value, standing = structure(judged$standing, levels = standings, class = "factor"), n = judged$n,
    coverage = as.double(judged$coverage)
  )
}

# The values of a ratio, of its parts' statistics in each series and period: of groups, both added up where both are
# known, whatever their kind.
ratio_values <- function(of, per, frame) {
  if (frame$groups$count == 0) {
    return(divided(of, per))
  }
  known <- !is.na(of) & !is.na(per)
  value <- divided(add_groups(ifelse(known, of, 0), frame), add_groups(ifelse(known, per, 0), frame))
  value[add_groups(known, frame) == 0] <- NA
  value
}

# First and last periods of a series that are partial: `partial` says what becomes of them. A part gets a column `keep`
# where they are dropped, with the empty periods beyond them. `reach` is the share of each period that the records reach
# over, for those whose coverage is not known.
settle_ends <- function(part, measure, partial, reach) {
  if (partial == "keep") {
    return(part)
  }
  periods <- length(reach)
  there <- which(part$standing != "empty")
  series <- (there - 1) %/% periods
  ends <- c(there[!duplicated(series)], there[!duplicated(series, fromLast = TRUE)])
  short <- unique(ends[part$standing[ends] == "partial"])
  if (partial == "scale") {
    if (measure$kind %in% c("flow", "counter") && measure$use == "sum") {
      share <- part$coverage[short]
      share[is.na(share)] <- reach[(short[is.na(share)] - 1) %% periods + 1]
      part$value[short] <- part$value[short] / share
    }
    return(part)
  }
  row <- seq_len(nrow(part))
  of_row <- (row - 1) %/% periods
  first <- there[!duplicated(series)][match(of_row, unique(series))]
  last <- rev(there)[!duplicated(rev(series))][match(of_row, unique(rev(series)))]
  part$keep <- !row %in% short & !is.na(first) & row >= first & row <= last
  part
}
