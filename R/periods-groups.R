# Series put together: what `by` makes of several, and how whole that is. Cells
# lie series by series.

# The groups that `by` makes of series: the `names` of each, the group `of` each
# series and their `count`, which is 0 where each series is a group of its own.
group_series <- function(names, by) {
  if (setequal(by, names(names))) {
    return(list(names = names[by], of = integer(), count = 0L))
  }
  index <- series_index(
    tibble::new_tibble(as.list(names), nrow = nrow(names)), by
  )
  if (nrow(index$names) == nrow(names)) {
    return(list(names = names[by], of = integer(), count = 0L))
  }
  list(names = index$names, of = index$index, count = nrow(index$names))
}

# The sum over the series of each group.
add_groups <- function(cells, frame) {
  if (frame$groups$count == 0) {
    return(cells)
  }
  as.vector(t(rowsum(
    t(matrix(as.double(cells), frame$columns$count)), frame$groups$of,
    reorder = TRUE
  )))
}

# Whether the figures of a period are readings, which several series do not
# simply add up to.
is_reading <- function(measure) {
  if (measure$kind == "counter") {
    return(!measure$use %in% rise_uses)
  }
  measure$kind %in% c("level", "return", "log return") &&
    !measure$use %in% c("count", "slots", "sd")
}

# How the readings of several series are put together: "mean", "sum", the
# weights of the cells; NULL where those of all records are ranked or compared
# as one.
pooled_by <- function(measure, pooled) {
  how <- pooled[[measure$from]]
  if (measure$kind == "counter") {
    return("sum")
  }
  if (measure$use %in% averaged_uses || identical(how, "sum")) how %||% "mean"
}

# Of sub-series these are taken first, and averaged then.
averaged_uses <- c("mean", "first", "last", "compound", "sum")

# Readings of counters are of one meter each. Added up is the last reading known
# of each, and nothing else.
check_readings <- function(planned) {
  for (name in names(planned)) {
    measure <- planned[[name]]
    if (
      measure$kind == "counter" && is_reading(measure) && measure$use != "last"
    ) {
      abort_backfill(
        "use",
        "`use` of {measure$from}, a counter, is {quoted(measure$use)}, and",
        "several series are put together.",
        i = "The readings of several meters are not the readings of one.",
        ">" = "Leave `use` out for what they rose by together, say \"last\"",
        "for the sum of the last readings known, or keep the series apart."
      )
    }
  }
}

# As cell_values().
pool_groups <- function(measure, cells, quantiles, frame, how) {
  single <- frame
  single$groups <- list(names = frame$names, of = integer(), count = 0L)
  share <- quantile_share(measure$use)
  value <- if (is.na(share)) {
    statistic_of(cells, measure$use)
  } else {
    quantiles(cells, share, single)
  }
  if (!identical(how, "sum")) {
    return(list(value = average_groups(value, how, frame, measure$key)))
  }
  recorded <- known <- !is.na(value)
  if (measure$use == "last") {
    # What comes after a series' last reading, nobody knows.
    ends <- rev(last_known(rev(value), frame))
    value <- last_known(value, frame)
    known <- !is.na(value) & !is.na(ends)
  }
  there <- !is.na(value)
  total <- add_groups(
    ifelse(there & counted_once(there, measure$key, frame), value, 0), frame
  )
  total[add_groups(recorded, frame) == 0] <- NA
  list(value = total, lacking = add_groups(!known, frame) > 0)
}

# Each series' latest reading up to each period: before its first nothing is
# known of it.
last_known <- function(value, frame) {
  place <- seq_along(value)
  first <- place - (place - 1) %% frame$columns$count
  up_to <- cummax(ifelse(is.na(value), 0, place))
  value[ifelse(up_to < first, NA, up_to)]
}

# The mean over the series of each group, or the one that the weights `how` of
# the cells give.
average_groups <- function(value, how, frame, key = NULL) {
  weight <- if (is.numeric(how)) how else rep(1, length(value))
  known <- !is.na(value) & !is.na(weight)
  counts <- known & counted_once(known, key, frame)
  total <- add_groups(ifelse(counts, value * weight, 0), frame)
  count <- add_groups(ifelse(counts, weight, 0), frame)
  total[add_groups(known, frame) == 0] <- NA
  divided(total, count)
}

# An attribute, such as the residents of an island, stands at each series of the
# key that it was joined by: in each group and period it counts for the first of
# them that is `known`.
counted_once <- function(known, key, frame) {
  out <- rep(TRUE, length(known))
  if (
    frame$groups$count == 0 || length(key) == 0 || !all(
      key %in% names(frame$names)
    )
  ) {
    return(out)
  }
  of <- vctrs::vec_group_id(
    vctrs::new_data_frame(c(
      list(group = frame$groups$of), as.list(frame$names)[key]
    ))
  )
  cell <- (rep(
    as.integer(of), each = frame$columns$count
  ) - 1) * frame$columns$count +
    seq_len(frame$columns$count)
  out[known] <- !duplicated(cell[known])
  out
}

# The values of a ratio, of its parts' statistics in each series and period: of
# groups, both added up where both are known, whatever their kind. `keys` are
# those of parts that are attributes.
ratio_values <- function(of, per, frame, keys = list()) {
  if (frame$groups$count == 0) {
    return(divided(of, per))
  }
  known <- !is.na(of) & !is.na(per)
  added <- function(part, key) {
    add_groups(
      ifelse(known & counted_once(known, key, frame), part, 0), frame
    )
  }
  value <- divided(added(of, keys$of), added(per, keys$per))
  value[add_groups(known, frame) == 0] <- NA
  value
}
