# Base R's own functions, with one quantile for all.
own_answer <- function(text) {
  eval(str2lang(text), list(
    quantile = function(x, share, type = 7) {
      stats::quantile(x, share, names = FALSE, type = type)
    },
    sd = stats::sd, pnorm = stats::pnorm, pt = stats::pt
  ), baseenv())
}
