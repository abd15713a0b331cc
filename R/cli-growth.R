# `backfill growth`: how much each period grew over earlier ones.

command_growth <- function() {
  list(
    name = "growth",
    inputs = "FILE...",
    run = run_growth,
    about = paste(
      "See how much each period grew over earlier ones.",
      "Or add returns, shares, totals so far, earlier values or bands, and",
      "rank the changes. A figure that means nothing, such as growth from",
      "zero, is not given, and the reason is counted."
    ),
    options = c(
      input_options(), options_of_verbs(growth_verbs),
      output_options(paste(
        "How the figure is drawn: bars (the default), lines, years or",
        "distribution."
      ))
    ),
    examples = c(
      "backfill growth inns.csv --over \"1 year\" --figure growth.png",
      "backfill growth landings.csv --measure price:level --returns simple"
    ),
    wants = c(
      "See growth, returns, shares" = "growth FILE",
      "Rank the largest changes" = "growth FILE --rank 10"
    )
  )
}

growth_verbs <- list(
  add_growth = c("over", "as", "forward", "max_age"),
  add_returns = c(returns_verb$add_returns, total = "total"),
  add_lagged = c(lagged = "lag"),
  add_running_total = c("running-total" = "reset"),
  add_running = c(running = "stat", "running-reset" = "reset"),
  add_rebased = c(rebased = "start_value", at = "at"),
  add_share = c(share = "within"),
  basket = c(basket = "weights", rebalance = "rebalance"),
  add_bands = c(
    bands = "breaks", "band-names" = "labels", "bands-scale" = "scale",
    "bands-closed" = "closed"
  ),
  count_bands = c("count-bands" = ""),
  rank_changes = c(
    rank = "n", order = "order", stretch = "stretch",
    "per-series" = "per_series", "rank-within" = "within"
  )
)

# Those that add a column, beside growth.
other_changes <- growth_verbs[c(
  "add_lagged", "add_returns", "add_running_total", "add_running",
  "add_rebased", "add_share"
)]

run_growth <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  check_growth_options(options)
  rolled <- roll_input(options, inputs)
  periods <- rolled$periods
  if (is_given(options$basket)) {
    periods <- run_verb("basket", periods, options, growth_verbs$basket)
  }
  before <- names(periods)
  periods <- with_changes(periods, options)
  added <- setdiff(names(periods), before)
  if (is_given(options$bands)) {
    periods <- run_verb(
      "add_bands", periods, options, growth_verbs$add_bands, of = added[[1]]
    )
  }
  found <- of_changes(periods, options)
  if (is.null(found)) {
    return(put_periods(periods, rolled$aside, format, options, added[[1]]))
  }
  put_instead(found, periods, rolled$aside, format, options, added[[1]])
}

check_growth_options <- function(options) {
  refuse_unasked(options, c(
    growth_verbs[c(
      "add_returns", "add_running", "add_rebased", "basket", "add_bands",
      "rank_changes"
    )]
  ))
  one_result(options, c("rank", "count-bands"))
  if (is.null(options$bands)) {
    refuse_options(
      options, "count-bands", "there are no bands", "Give `--bands` too."
    )
  }
  if (is_given(options$rank)) {
    refuse_options(
      options, setdiff(names(added_by()), "as"),
      "--rank lists movements of the values from one period to the next"
    )
  } else if (length(asked_changes(options)) > 0) {
    refuse_unasked(options, list(growth_verbs$add_growth))
  }
}

# Every option of a column that is added, by its name.
added_by <- function() {
  option_map(c(growth_verbs$add_growth, unlist(unname(other_changes))))
}

asked_changes <- function(options) {
  Filter(function(map) is_given(options[[asked_by(map)]]), other_changes)
}

with_changes <- function(x, options) {
  asked <- asked_changes(options)
  if (is.null(options$over) && length(asked) == 0) {
    options$over <- default_spans(x)
  }
  x <- run_verb_each("add_growth", x, options, growth_verbs$add_growth)
  for (verb in names(asked)) {
    x <- run_verb_each(verb, x, options, asked[[verb]])
  }
  x
}

# A period and, where the table reaches over one, a year.
default_spans <- function(x) {
  ends <- as.Date(range(x$period))
  yearly <- !is.null(known_cycle(facts(x)$calendar)) && diff(ends) >= 365
  c("1", if (yearly) "1 year")
}

# A result that is given instead of the periods, where one is asked for.
of_changes <- function(x, options) {
  if (options[["count-bands"]]) {
    return(count_bands(x))
  }
  if (is_given(options$rank)) {
    run_verb(
      "rank_changes", x, options, c(growth_verbs$rank_changes, as = "as")
    )
  }
}
