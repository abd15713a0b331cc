# What chance alone gives where many series are judged, each by itself, and
# which verdicts stand when that is counted in.

# Of values `p`, the verdicts `yes` and the names of their series. Each verdict
# by itself is wrong in a share of `limit`. How often one stands out in tables
# of noise is simulated, see verdict_rates().
chance_of_many <- function(p, yes, name, limit = 0.05) {
  judged <- sum(!is.na(p))
  yes <- yes %in% TRUE
  if (judged < 2 || !any(yes)) {
    return(NULL)
  }
  stand <- which(yes & false_share(p) < 0.1)
  n <- length(stand)
  paste0(
    sprintf(
      "By chance alone about %s of %s would",
      plain_format(signif(limit * judged, 2)), thousands(judged)
    ),
    if (n == 0) {
      paste(
        "; with that counted in, none stands out (no share of false finds, q,",
        "below 10%)"
      )
    } else if (n < sum(yes)) {
      sprintf(
        "; with that counted in, %s (false finds, q, below 10%%): %s",
        if (n == 1) "one stands out" else paste(thousands(n), "stand out"),
        in_words(name[stand], 6)
      )
    },
    "."
  )
}
