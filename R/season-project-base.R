# What a projection carries on, and which of these would have missed least.

bases <- c(
  level = "level of its last cycle", line = "line through it",
  growth = "line through its logarithms",
  recent = "level and damped slope by exponential smoothing"
)

base_code <- function(base) match(base, names(bases)) - 1L

# What a base is held against, where the last cycle is held back.
other_base <- function(base, form) {
  other <- if (form == "multiplicative") "growth" else "level"
  ifelse(base == "line", other, "line")
}

# A growth is put back in season by ratios.
check_base <- function(base, form) {
  check_one_of(base, c(names(bases), "auto"), "base")
  if (base == "growth" && form != "multiplicative") {
    abort_backfill(
      "argument", "`base` is \"growth\", and `form` is \"{form}\".",
      i = "What grows by percentages has a season by percentages.",
      ">" = "Set `form` to \"multiplicative\", or `base` to \"line\"."
    )
  }
}

# Each series by the base that missed least; where none can tell, by its level.
# `run` makes the projection of all by one base. `missed`, besides, is what each
# of them did, a row for each series.
projected_best <- function(run, form) {
  of_form <- setdiff(names(bases), if (form != "multiplicative") "growth")
  tried <- lapply(stats::setNames(nm = of_form), run)
  missed <- missed_by_base(tried, form)
  best <- apply(missed, 1, function(one) c(which.min(one), 1)[[1]])
  made <- tried[[1]]
  for (k in unique(best)) {
    own <- best == k
    for (name in setdiff(names(made), "base")) {
      made[[name]][, own] <- tried[[k]][[name]][, own]
    }
  }
  colnames(missed) <- paste0("missed_", of_form)
  made$base <- of_form[best]
  made$missed <- missed
  made
}

# The root mean square of all past errors, a row for each series. NA for a base
# that has fewer of them than another, as it had no projection there, or one
# below zero; or whose projection is none now.
missed_by_base <- function(tried, form) {
  of_all <- function(tell) {
    told <- vapply(tried, tell, numeric(ncol(tried[[1]]$projection)))
    matrix(told, ncol = length(tried))
  }
  errors <- of_all(function(made) colSums(made$errors))
  squares <- of_all(function(made) colSums(made$error^2 * made$errors, TRUE))
  none <- of_all(function(made) {
    low <- form == "multiplicative" & made$projection <= 0
    colSums(is.na(made$projection) | low)
  })
  missed <- sqrt(squares / errors)
  missed[errors == 0 | errors < apply(errors, 1, max) | none > 0] <- NA
  missed
}
