# What simulated rates say: of each verdict where it is wrong most often.

#' @export
describe.backfill_verdict_rates <- function(x, ...) {
  rates <- plain_tibble(x)
  verdict <- paste0(rates$verb, ", \"", rates$verdict, "\"")
  vapply(unique(verdict), function(one) {
    own <- rates[verdict == one, ]
    wrong <- own[own$kind == "wrong" & own$given >= 0.05, ]
    worst <- wrong[which.max(wrong$rate), ]
    within <- tapply(wrong$rate <= 2 * wrong$stated, wrong$world, all)
    sprintf(
      "%s: stated as wrong in %g%%; no more than twice that in %d of %s%s.%s",
      one, 100 * own$stated[[1]], sum(within),
      count_of(length(within), "world"),
      if (all(within)) "" else sprintf(
        ", at worst \"%s\" of %d, %.0f%%", worst$world, worst$n,
        100 * worst$rate
      ),
      rates_found(own[own$kind == "right", ])
    )
  }, "", USE.NAMES = FALSE)
}

# Of worlds where there is something, the least and the best.
rates_found <- function(right) {
  if (nrow(right) == 0) {
    return("")
  }
  ends <- right[c(which.min(right$rate), which.max(right$rate)), ]
  found <- sprintf(
    "\"%s\" of %d in %.0f%%", ends$world, ends$n, 100 * ends$rate
  )
  sprintf(" It finds %s.", paste(found, collapse = ", "))
}

# What a verdict cannot rule out, where series of about that length are said to
# have a `thing` more than twice as often as stated.
describe_wandering <- function(verb, thing, n, noun) {
  rates <- plain_tibble(verdict_rates(verb))
  rates <- rates[
    rates$world %in% c("slow memory 0.95 and noise", "random walk and noise"),
  ]
  near <- rates$n[which.min(abs(rates$n - stats::median(n)))]
  worst <- max(rates$rate[rates$n == near])
  if (worst > 2 * rates$stated[[1]]) sprintf(
    paste(
      "A level that wanders slowly beneath its noise looks the same: simulated",
      "series of %d %s were said to have %s in up to %.0f%%."
    ),
    near, noun, thing, 100 * worst
  )
}
