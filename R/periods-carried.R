# What a table of shorter periods carries over to longer ones: its values, as
# the records gave them.

# The values of the table's rows as its records gave them: not scaled to full
# periods, and of working days without the readings of days off.
values_to_carry <- function(x, frame) {
  value <- as.double(x$value)
  scaled <- facts(x)$scaled
  if (!is.null(scaled)) {
    keys <- setdiff(names(scaled), "scaled")
    at <- vctrs::vec_match(plain_tibble(x)[keys], scaled[keys])
    value <- ifelse(is.na(at), value, value * scaled$scaled[at])
  }
  left_out <- !vapply(facts(x)$measures, joins_next_day, NA)
  value[is_day_off(x, frame) & x$measure %in% names(left_out)[left_out]] <- NA
  value
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
carried_ratio <- function(
  measure, name, x, values, rows, narrowed, own_statistic, judged, frame, call
) {
  measures <- facts(x)$measures
  has_sum <- function(part) {
    part %in% names(rows) && identical(
      measures[[part]]$use, unname(use_of_kind[measures[[part]]$kind])
    )
  }
  there <- c(of = has_sum(measure$of), per = has_sum(measure$per))
  if (
    !any(there) || !all(c(measure$of, measure$per) %in% names(rows)) &&
      !all(there)
  ) {
    stop_ratio(measure, name, call)
  }
  statistic <- list(of = NULL, per = NULL)
  for (side in names(there)) {
    statistic[[side]] <- if (there[[side]]) own_statistic(measure[[side]]) else
      recovered_part(side, measure, x, values, rows, narrowed, name)
  }
  keys <- lapply(
    list(of = measure$of, per = measure$per),
    function(part) measures[[part]]$key
  )
  value <- ratio_values(statistic$of, statistic$per, frame, keys)
  new_part(value, join_parts(judged(measure$of), judged(measure$per)))
}

recovered_part <- function(side, measure, x, values, rows, narrowed, name) {
  other <- if (side == "of") measure$per else measure$of
  keys <- c(facts(x)$series, "period")
  plain <- plain_tibble(x)
  at <- vctrs::vec_match(plain[rows[[name]], keys], plain[rows[[other]], keys])
  other_value <- values[rows[[other]]][at]
  ratio <- values[rows[[name]]]
  value <- if (side == "of") {
    ratio * other_value
  } else {
    divided(other_value, ratio)
  }
  statistic_of(roll_values(value, narrowed(name)), "sum")
}

stop_ratio <- function(measure, name, call) {
  abort_backfill(
    "input", sprintf(
      "The ratio %s is made of %s and %s, of which the table has no sums.",
      quoted(name), quoted(measure$of), quoted(measure$per)
    ),
    ">" = "Keep the rows of both parts, or roll the records up anew.",
    call = call
  )
}

check_carried <- function(measure, name, call) {
  if (measure$use == "sd" || !is.na(quantile_share(measure$use))) {
    abort_backfill(
      "input",
      sprintf(
        paste(
          "%s holds the %s of records, which cannot be made of those of",
          "shorter periods."
        ),
        quoted(name),
        if (measure$use == "sd") "standard deviation" else measure$use
      ),
      ">" = "Roll the records up anew, or leave these rows out.", call = call
    )
  }
}
