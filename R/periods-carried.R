# What a table of shorter periods carries over to longer ones: its values, as
# the records gave them.

# The values of the table's rows as its records gave them: not scaled to full
# periods, and of working days without the readings of days off.
values_to_carry <- function(x, frame) {
  value <- as.double(x$value)
  share <- share_scaled(x)
  value <- value * ifelse(is.na(share), 1, share)
  left_out <- !vapply(facts(x)$measures, joins_next_day, NA)
  value[is_day_off(x, frame) & x$measure %in% names(left_out)[left_out]] <- NA
  value
}

# By which share the value of each row was enlarged, NA where it was not.
share_scaled <- function(x) {
  scaled <- facts(x)$scaled
  if (is.null(scaled)) {
    return(rep(NA_real_, nrow(x)))
  }
  keys <- setdiff(names(scaled), "scaled")
  scaled$scaled[vctrs::vec_match(plain_tibble(x)[keys], scaled[keys])]
}

# A sum that was enlarged by a few missing slots is recorded, not made up.
standing_recorded <- function(x) {
  recorded <- x$standing == "imputed" & !is.na(share_scaled(x))
  replace(x$standing, recorded, "complete")
}

# The cells of a value for each row of the frame.
roll_values <- function(value, frame, use = "sum") {
  roll_cells(
    one_part(frame$when, frame$series, value), frame, use
  )
}

# list(cells, use): cells of the periods' values whose statistic `use` is what
# the records would give.
carried_cells <- function(measure, value, table, frame) {
  use <- measure$use
  if (use == "mean") {
    weight <- weight_of_means(table, frame)
    weight[is.na(value)] <- NA
    cells <- roll_values(value * weight, frame)
    weights <- roll_values(weight, frame)
    cells$records <- weights$sum
    cells$merged$records <- weights$merged$sum
    return(list(cells = cells, use = use))
  }
  if (use == "compound") {
    value <- logged(measure)(value)
  }
  list(
    cells = roll_values(value, frame, use),
    use = if (use %in% c("count", "slots")) {
      "sum"
    } else {
      use
    }
  )
}

# Each mean counts as often as it has records; one that was filled in, as often
# as it should have had, or as periods of its series mostly have where that is
# not known.
weight_of_means <- function(table, frame) {
  n <- as.double(table$n)
  filled <- which(table$standing == "imputed")
  if (length(filled) > 0) {
    recorded <- n > 0
    mean <- as.vector(
      rowsum(n, frame$series) / pmax(
        rowsum(as.double(recorded), frame$series), 1
      )
    )
    typical <- mean[match(frame$series, sort(unique(frame$series)))]
    slots <- frame$expected_before
    n[filled] <- pmax(n, ifelse(is.na(slots) | slots == 0, typical, slots))[
      filled
    ]
  }
  pmax(n, 1)
}

# A ratio of longer periods is made of the sums of its parts. Where the table
# holds another statistic of one part, its sum is the ratio times the other
# part, or the other part divided by it.
carried_ratio <- function(measure, name, carry) {
  measures <- carry$measures
  has_sum <- function(part) {
    part %in% names(carry$rows) && identical(
      measures[[part]]$use, unname(use_of_kind[measures[[part]]$kind])
    )
  }
  sides <- c(of = measure$of, per = measure$per)
  there <- vapply(sides, has_sum, NA)
  known <- all(sides %in% names(carry$rows))
  if (!any(there) || !known && !all(there)) {
    stop_ratio(measure, name)
  }
  statistic <- Map(function(side, part) {
    if (there[[side]]) own_statistic(carry, part) else
      recovered_part(side, measure, name, carry)
  }, names(sides), sides)
  keys <- lapply(sides, function(part) measures[[part]]$key)
  new_part(
    ratio_values(statistic$of, statistic$per, carry$frame, as.list(keys)),
    join_parts(
      judged_part(carry, measure$of), judged_part(carry, measure$per)
    )
  )
}

# A column of the same statistic carried on, or of another made of the periods'
# values as they are.
carried_part <- function(measure, name, carry, pooled) {
  from <- measure$from
  own <- carry$measures[[from]]
  frame <- frame_of(carry, from)
  value <- carry$values[carry$rows[[from]]]
  if (identical(measure$use, own$use)) {
    check_carried(measure, name)
    carried <- carried_cells(own, value, table_of(carry, from), frame)
    measure$use <- carried$use
  } else {
    carried <- list(cells = roll_values(value, frame, measure$use))
  }
  made <- cell_values(
    measure, carried$cells,
    quantiles_of_parts(one_part(frame$when, frame$series, value)),
    carry$frame, pooled
  )
  judged <- judged_part(carry, from, measure$use)
  new_part(made$value, mark_lacking(
    judged, made$lacking, measure, carried$cells, carry$frame, pooled
  ))
}

# What a roll-up of periods works on: the table with the values to carry, the
# rows of each measure, the measures, the frame, and which of them say that
# silence means zero.
new_carry <- function(x, frame, absent) {
  table <- plain_tibble(x)
  table$value <- values_to_carry(x, frame)
  table$standing <- standing_recorded(x)
  list(
    table = table, values = table$value,
    rows = split(seq_len(nrow(x)), x$measure), measures = facts(x)$measures,
    series = facts(x)$series, frame = frame, absent = absent
  )
}

table_of <- function(carry, name) {
  vctrs::vec_slice(carry$table, carry$rows[[name]])
}

# The frame, narrowed to the rows of one measure.
frame_of <- function(carry, name) {
  frame <- frame_of_measure(carry$frame, name)
  for (part in c("when", "series", "expected_before")) {
    frame[[part]] <- frame[[part]][carry$rows[[name]]]
  }
  frame
}

own_statistic <- function(carry, name) {
  carried <- carried_cells(
    carry$measures[[name]], carry$values[carry$rows[[name]]],
    table_of(carry, name), frame_of(carry, name)
  )
  statistic_of(carried$cells, carried$use)
}

judged_part <- function(carry, name, use = "sum") {
  zero <- identical(carry$absent[[name]], "zero") &&
    use %in% c("sum", "count", "slots")
  judge_periods(
    table_of(carry, name), frame_of(carry, name), carry$measures[[name]], zero
  )
}

recovered_part <- function(side, measure, name, carry) {
  other <- if (side == "of") measure$per else measure$of
  keys <- carry$table[c(carry$series, "period")]
  rows <- carry$rows
  at <- vctrs::vec_match(
    vctrs::vec_slice(keys, rows[[name]]), vctrs::vec_slice(keys, rows[[other]])
  )
  other_value <- carry$values[rows[[other]]][at]
  ratio <- carry$values[rows[[name]]]
  value <- if (side == "of") ratio * other_value else
    divided(other_value, ratio)
  statistic_of(roll_values(value, frame_of(carry, name)), "sum")
}

stop_ratio <- function(measure, name) {
  abort_backfill(
    "input",
    "The ratio {quoted(name)} is made of {quoted(measure$of)} and",
    "{quoted(measure$per)}, of which the table has no sums.",
    ">" = "Keep the rows of both parts, or roll the records up again."
  )
}

check_carried <- function(measure, name) {
  if (measure$use == "sd" || !is.na(quantile_share(measure$use))) {
    use <- if (measure$use == "sd") "standard deviation" else measure$use
    abort_backfill(
      "input",
      "{quoted(name)} holds the {use} of records, which cannot be made of",
      "those of shorter periods.",
      ">" = "Roll the records up again, or leave these rows out."
    )
  }
}
