#' How often a verdict is wrong
#'
#' Gives the simulated error rates of every verb that judges: how often it
#' reports something where there is nothing, and how often it finds what is
#' there.
#'
#' The rates come with the package, which makes them itself (`make rates`): each
#' is the share of some hundred series of one world and one length that get the
#' verdict. Worlds are kinds of series that users have, such as noise,
#' autocorrelated noise, random walks, slopes, seasons, long tails and holes, of
#' months or, where their names say so, of days or hours. Their sizes are given
#' in standard deviations of the noise (sd). Where many series are judged at
#' once, a case is a table of sixty of them.
#'
#' @param verb The name of a verb, such as `"trend_line"`. By default all.
#' @return A tibble with a row for each verdict, world and length: `verb`,
#'   `verdict`, `world`, `n` (periods of a series), `kind` (`"wrong"` where the
#'   verdict would be, `"right"` where it would not), `stated` (the share of
#'   wrong verdicts that the verb goes by), `rate` (the share of those judged
#'   that get the verdict), `given` (the share that is judged), `cases` (series,
#'   pairs or periods) and `date`.
#' @section Errors: `backfill_error_argument` for a verb that has no rates.
#' @examples
#' verdict_rates("trend_line")
#' @concept false alarms
#' @concept power
#' @export
verdict_rates <- function(verb = NULL) {
  all <- utils::read.csv(system.file("rates.csv", package = "backfill"))
  name <- sub("[(].*", "", all$verb)
  if (!is.null(verb)) {
    check_one_of(verb, unique(name), "verb")
    all <- all[name == verb, ]
  }
  new_result(new_rows(!!!all), "verdict_rates", list(verb = verb))
}

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
describe_wandering <- function(verb, thing, n) {
  rates <- plain_tibble(verdict_rates(verb))
  rates <- rates[
    rates$world %in% c("slow memory 0.95 and noise", "random walk and noise"),
  ]
  near <- rates$n[which.min(abs(rates$n - stats::median(n)))]
  worst <- max(rates$rate[rates$n == near])
  if (worst > 2 * rates$stated[[1]]) sprintf(
    paste(
      "A level that wanders slowly beneath its noise looks the same: up to",
      "%.0f%% of simulated series of %d periods were said to have %s."
    ),
    100 * worst, near, thing
  )
}
