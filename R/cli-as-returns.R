# Commands that look at the returns of periods instead of their values.

returns_verb <- list(
  add_returns = c(returns = "as", "longest-return" = "longest")
)

returns_options <- names(returns_verb$add_returns)

# What is looked at: the values, or the returns where these are asked for.
of_returns <- function(periods, options) {
  refuse_unasked(options, returns_verb)
  if (is.null(options$returns)) {
    return(list(periods = periods, of = "value"))
  }
  before <- names(periods)
  periods <- run_verb(
    "add_returns", periods, options, returns_verb$add_returns
  )
  list(periods = periods, of = setdiff(names(periods), before))
}
