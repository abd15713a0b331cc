# What a verb says of each series of a table, by which it is judged.

quiet <- function(expr) suppressWarnings(suppressMessages(expr))

# Each pair of neighbouring series once.
pairs_of <- function(x, judge) {
  names <- unique(x$id)
  names <- names[seq_len(min(length(names), 120))]
  odd <- seq(1, length(names) - 1, by = 2)
  vapply(odd, function(i) judge(x, names[i], names[i + 1]), NA)
}

# Whether two series of one measure are told apart, of which the second is moved
# by `more`.
gap_found <- function(x, first, second, more = 0) {
  x <- x[x$id %in% c(first, second), ]
  moved <- x$id == second
  x$value[moved] <- x$value[moved] + more
  found <- quiet(series_differences(x))
  found$p < 0.05
}

index_facts <- function(x, form = "additive") {
  summary(quiet(seasonal_index(x, form = form)))
}

flags_of <- function(x, ...) quiet(flag_periods(x, ...))$flag

held_of <- function(x, base, combine = "mean without outliers") {
  ends <- utils::tail(sort(unique(x$period)), 12)
  known <- x[x$period < ends[1], ]
  made <- quiet(project(known, 12, base = base, combine = combine))
  made <- made[made$standing == "projected", ]
  truth <- x$value[match(
    paste(made$id, made$period), paste(x$id, x$period)
  )]
  !(truth >= made$lower & truth <= made$upper)
}

of_groups <- function(x, on) {
  n <- length(unique(x$period))
  on <- on(n)[as.integer(factor(x$period))] == 1
  out <- quiet(group_differences(x, by = on))
  out$p[!duplicated(out$id)] < 0.05
}

# Whether weekdays are found to matter, by a `limit`, where each Saturday more
# in place of an average day adds `more`.
weekdays_found <- function(x, more = 0, limit = 0.05, ...) {
  saturdays <- (as.numeric(period_end(x$period, "month")) + 6) %/% 7 -
    (as.numeric(x$period) + 5) %/% 7
  x$value <- x$value + more * (
    saturdays - days_in_period(x$period, "month") / 7
  )
  made <- quiet(calendar_effects(x, form = "additive", ...))
  made$joint_p[!duplicated(made$id)] < limit
}

# Whether an effect that has a row for each series is found, where the periods
# `there` are more by `more`.
effect_found <- function(x, effect, there, more = 0, ...) {
  x$value <- x$value + more * there(x$period)
  made <- quiet(calendar_effects(x, form = "additive", ...))
  made$p[made$effect == effect] < 0.05
}

leap_month <- function(period) days_in_period(period, "month") == 29

# A festival of one day, in March or April.
festivals <- as.Date("1960-04-05") + round(
  365.25 * 0:150 + 25 * sin(7 * 0:150)
)
festival_month <- function(period) {
  format(period, "%Y-%m") %in% format(festivals, "%Y-%m")
}

# Whether anything stands out in tables of sixty, all of noise.
stand_out <- function(x, describe) {
  names <- unique(x$id)
  sixty <- split(names, ceiling(seq_along(names) / 60))
  vapply(sixty, function(names) {
    said <- sentences_of(quiet(describe(x[x$id %in% names, ])))
    grepl("By chance alone", said) && !grepl("none stands out", said)
  }, NA, USE.NAMES = FALSE)
}
