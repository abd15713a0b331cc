# What each verb says of simulated series: a verdict of every line, NA where
# none is given, with the worlds in which it would be wrong and those in which
# it would be right.

shapes <- c(
  "noise", "memory 0.3", "memory 0.6", "memory 0.9", "random walk",
  "t with 3 degrees", "lognormal 0.5", "lognormal 1.5", "spread by position",
  "spread that grows", "sparse counts", "5% missing", "20% missing",
  "one outlier"
)
slopes <- sprintf("slope of %d sd", c(1, 2, 3, 6))
seasons <- sprintf("season of %s sd", c(0.5, 1, 3))
levels_of <- c(
  "level", "level, growth of 1% a month", "level, season of 40%",
  "level, season of 40% and growth", "level, spread by position",
  "level, t with 3 degrees", "level, lognormal 0.5"
)

# `n` are the lengths of all worlds of months, `noise` further ones of noise,
# `days` those of worlds of days; `few` lines are looked at in a hurry.
verdict <- function(verb, said, stated, false, found, n, judge, lines = 400,
                    few = 20, noise = c(26, 365), days = 365) {
  as.list(environment())
}

outside <- function(base, ...) {
  verdict(
    "project()", paste(c("outside the interval", base, ...), collapse = ", "),
    0.05, c(levels_of[1:4], "level, season that moves"),
    character(), c(72, 120), function(x) held_of(x, base, ...)
  )
}
