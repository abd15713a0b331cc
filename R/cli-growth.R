# `backfill growth`: how much each period grew over earlier ones.

command_growth <- function() {
  list(
    name = "growth",
    inputs = "FILE...",
    run = run_growth,
    about = paste(
      "Roll the dated records of a file up to regular periods, and add",
      "their growth over one or several spans of time.",
      "A figure that means nothing, such as growth from zero, is not given,",
      "and the reason is counted."
    ),
    options = c(
      reading_options(), narrowing_options(), rolling_options(), options_of(
        "add_growth", growth_map
      ),
      options_of("add_returns", returns_map), options_of(
        "add_lagged", lagged_map
      ),
      options_of("add_running_total", running_map), options_of(
        "add_rebased", rebased_map
      ),
      options_of("add_share", share_map), options_of("basket", basket_map),
      options_of("add_bands", bands_map),
      options_of("count_bands", c("count-bands" = "")), options_of(
        "rank_changes", rank_map
      ),
      output_options(
        paste(
          "How the figure is drawn: bars (the default), lines, years or",
          "distribution."
        )
      )
    ),
    notes = c(
      input_note,
      "",
      "Examples:",
      paste(
        "  backfill growth nights.csv --when month --series island",
        "--measure guest_nights:flow --over \"1 year\" \\"
      ),
      "    --figure growth.png",
      paste(
        "  backfill growth prices.csv --when date --measure price:level",
        "--every day --over 1 --over \"30 days\" \\"
      ),
      "    --oldest 7"
    )
  )
}

growth_map <- c("over", "as", "ahead", "oldest")
returns_map <- c(returns = "type", total = "total", "max-age" = "max_age")
lagged_map <- c(lagged = "by")
running_map <- c("running-total" = "reset")
rebased_map <- c(rebased = "to", at = "at")
share_map <- c(share = "within")
basket_map <- c(basket = "weights", rebalance = "rebalance")
bands_map <- c(
  bands = "breaks", "band-names" = "labels", "bands-by" = "by",
  "bands-closed" = "closed"
)
rank_map <- c(
  rank = "n", order = "order", stretch = "stretch", "per-series" = "per_series"
)

run_growth <- function(options, inputs) {
  format <- check_outputs(options, inputs)
  check_growth_options(options)
  rolled <- roll_input(options, inputs)
  periods <- if (is_given(options$basket)) {
    run_verb("basket", rolled$periods, options, basket_map)
  } else {
    rolled$periods
  }
  before <- names(periods)
  periods <- with_changes(periods, options)
  added <- setdiff(names(periods), before)
  if (is_given(options$bands)) {
    periods <- run_verb(
      "add_bands", periods, options, bands_map, of = added[[1]]
    )
  }
  put_periods(
    periods, rolled$aside, format, options, of = added[[1]],
    instead = of_changes(periods, options)
  )
}

# Options that say how something is calculated need the one that asks for it.
check_growth_options <- function(options) {
  for (map in list(returns_map, rebased_map, basket_map, bands_map, rank_map)) {
    asked <- names(map)[[1]]
    if (!is_given(options[[asked]])) {
      refuse_options(
        options, names(map)[-1], sprintf("`--%s` is not", asked),
        sprintf("Give `--%s` too.", asked)
      )
    }
  }
  if (is.null(options$bands)) {
    refuse_options(
      options, "count-bands", "there are no bands", "Give `--bands` too."
    )
  }
  if (is_given(options$rank) && options[["count-bands"]]) {
    stop_usage(
      paste(
        "--rank and --count-bands are results of which one at a time can be",
        "given."
      )
    )
  }
  growth_only <- setdiff(given_options(options, growth_map), "over")
  if (other_changes(options) && is.null(options$over)) {
    refuse_options(
      options, growth_only, "no growth is asked for", "Give `--over` too."
    )
  }
}

other_changes <- function(options) {
  length(given_options(
    options, c(returns_map, lagged_map, running_map, rebased_map, share_map)
  )) > 0
}

with_changes <- function(x, options) {
  if (is.null(options$over) && !other_changes(options)) {
    options$over <- "1"
  }
  x <- run_verb_each("add_growth", x, options, growth_map, "over")
  x <- run_verb_each("add_lagged", x, options, lagged_map, "lagged")
  once <- list(
    add_returns = returns_map, add_running_total = running_map,
    add_rebased = rebased_map, add_share = share_map
  )
  for (verb in names(once)) {
    if (is_given(options[[names(once[[verb]])[[1]]]])) {
      x <- run_verb(verb, x, options, once[[verb]])
    }
  }
  x
}

# A result that is given instead of the periods, where one is asked for.
of_changes <- function(x, options) {
  if (options[["count-bands"]]) {
    return(count_bands(x))
  }
  if (is_given(options$rank)) {
    as <- if (identical(options$as, "difference")) "difference"
    run_verb("rank_changes", x, options, rank_map, as = as)
  }
}
