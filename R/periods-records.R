# Sources of records rolled up: the columns of each planned measure, of the
# cells that the source gives.

# The columns of each planned measure in a frame: list(parts, falls, days_off).
roll_parts <- function(x, planned, frame, absent, pool, counting) {
  UseMethod("roll_parts")
}

#' @export
roll_parts.default <- function(x, planned, frame, absent, pool, counting) {
  measures <- facts(x)$measures
  found <- cells_of_plan(x, measures, planned, frame, pool, counting)
  own_statistic <- function(name) {
    use <- use_of_kind[[measures[[name]]$kind]]
    statistic_of(found$of(name)$cells, use)
  }
  pooled <- weights_of(pool, own_statistic)
  parts <- lapply(planned, function(measure) {
    if (measure$use == "parts") {
      ratio_of_records(measure, measures, found, frame, absent, own_statistic)
    } else {
      part_of_records(measure, found, frame, absent, pooled)
    }
  })
  by_workdays <- frame$calendar$unit == "working day"
  list(
    parts = parts, falls = found$falls,
    days_off = if (by_workdays) days_off_of(x, frame)
  )
}

# How sub-series are put together: "sum", "mean", or the weights of the cells,
# which are a measure's own statistic.
weights_of <- function(pool, own_statistic) {
  lapply(pool, function(how) {
    if (how %in% c("sum", "mean")) how else own_statistic(how)
  })
}

# list(of, falls): `of(name, rises)` gives what source_cells() or, of a
# counter's rises, source_rises() gives for a measure, which is looked at once
# whatever is made of it.
cells_of_plan <- function(x, measures, planned, frame, pool, counting) {
  needed <- needed_cells(planned, pool)
  counted <- needed$rises &
    vapply(measures[needed$name], `[[`, "", "kind") == "counter"
  cells <- Map(function(name, rises) {
    use <- unlist(lapply(planned, function(one) if (one$from == name) one$use))
    frame <- frame_of_measure(frame, name)
    if (!rises) {
      return(source_cells(x, name, frame, use))
    }
    found <- source_rises(x, name, frame, use, counting[[name]])
    found$falls <- counter_falls(found$falls, name, frame$names)
    found
  }, needed$name, counted)
  falls <- unname(lapply(cells, `[[`, "falls"))
  list(
    of = function(name, rises = TRUE) {
      cells[[which(needed$name == name & needed$rises == rises)]]
    },
    falls = if (any(counted)) vctrs::vec_rbind(!!!falls)
  )
}

# The measures that a plan needs the cells of: each `name` with or without what
# counters rose by.
needed_cells <- function(planned, pool) {
  ratios <- Filter(function(one) one$use == "parts", planned)
  parts <- unlist(lapply(ratios, `[`, c("of", "per")))
  weights <- setdiff(unlist(pool), c("sum", "mean"))
  plain <- Filter(function(one) one$use != "parts", planned)
  vctrs::vec_unique(vctrs::data_frame(
    name = as.character(c(parts, weights, unlist(lapply(plain, `[[`, "from")))),
    rises = c(
      rep(TRUE, length(parts) + length(weights)),
      vapply(plain, takes_rises, NA)
    )
  ))
}

takes_rises <- function(measure) {
  measure$kind == "counter" && measure$use %in% rise_uses
}

# Of a counter these are of what it rose by, others of its readings.
rise_uses <- c("sum", "count", "slots")

ratio_of_records <- function(
  measure, measures, found, frame, absent, own_statistic
) {
  sides <- list(of = measure$of, per = measure$per)
  keys <- lapply(sides, function(name) measures[[name]]$key)
  value <- ratio_values(
    own_statistic(measure$of), own_statistic(measure$per), frame, keys
  )
  judged <- lapply(sides, function(name) {
    one <- found$of(name)
    judge_cells(
      one$cells, frame_of_measure(frame, name), measures[[name]], one$marks,
      identical(absent[[name]], "zero")
    )
  })
  new_part(value, join_parts(judged$of, judged$per))
}

part_of_records <- function(measure, found, frame, absent, pooled) {
  one <- found$of(measure$from, takes_rises(measure))
  frame <- frame_of_measure(frame, measure$from)
  made <- cell_values(measure, one$cells, one$quantiles, frame, pooled)
  # Silence adds nothing; of what was not recorded there is no highest or
  # median.
  zero <- identical(
    absent[[measure$from]], "zero"
  ) && measure$use %in% rise_uses
  if (zero) {
    made$value[is.na(made$value)] <- 0
  }
  judged <- judge_cells(one$cells, frame, measure, one$marks, zero)
  new_part(
    made$value,
    mark_lacking(judged, made$lacking, measure, one$cells, frame, pooled)
  )
}
