# What needs the values of a cell in order: the first and the last in time, the
# spread about the mean, quantiles.

# list(first, last, first_at, last_at, sd), those that `use` asks for.
further_at <- function(x, frame, rows, use) {
  asked <- intersect(use, c("first", "last", "sd"))
  if (length(asked) == 0) {
    return(NULL)
  }
  engine <- facts(x)$at$engine
  found <- engine$ordered$further(engine, only_where(rows, "u IS NOT NULL"),
                                  c(key_names(frame$names), "p"))
  at <- places_at(frame, found)
  if (anyNA(at)) check_unchanged(frame, found, at)
  for (end in intersect(asked, c("first", "last"))) {
    check_one_at_end(engine, found, end)
  }
  placed <- function(values) {
    out <- rep(NA_real_, nrow(frame$names) * frame$columns$count)
    out[at] <- values
    out
  }
  list(
    first = placed(found$first_low), last = placed(found$last_low),
    first_at = placed(found$first_at), last_at = placed(found$last_at),
    sd = placed(deviation_of(found))
  )
}

deviation_of <- function(found) {
  ifelse(found$n < 2, NA, sqrt(found$squares / (found$n - 1)))
}

# Of several records at the first time of a period, a table without an order has
# no first.
check_one_at_end <- function(engine, found, end) {
  low <- found[[paste0(end, "_low")]]
  high <- found[[paste0(end, "_high")]]
  if (any(low != high)) {
    stop_inexact(engine, sprintf("tell the %s value of a period", end), paste(
      "several records with unlike values have the same time, and a table has",
      "no order of rows"
    ))
  }
}

further_columns <- c(
  n = "COUNT(*)", squares = "SUM((u - avg_u) * (u - avg_u))",
  first_low = "MIN(CASE WHEN e = first_e THEN u END)",
  first_high = "MAX(CASE WHEN e = first_e THEN u END)",
  last_low = "MIN(CASE WHEN e = last_e THEN u END)",
  last_high = "MAX(CASE WHEN e = last_e THEN u END)",
  first_at = "MIN(e)", last_at = "MAX(e)"
)

# By window functions.
ordered_by_windows <- list(
  in_windows = TRUE,
  # Rows with `columns` of the row of the same series before, with a b before
  # their names; of the others those in `kept` are needed later.
  before = function(steps, by, columns, kept) {
    over <- sprintf(
      "OVER (%s ORDER BY e)",
      if (length(by) > 0) paste("PARTITION BY", listed(by)) else ""
    )
    with_columns(steps, stats::setNames(
      sprintf("LAG(%s) %s", columns, over), paste0("b", columns)
    ))
  },
  further = function(engine, rows, by) {
    over <- sprintf("OVER (PARTITION BY %s)", listed(by))
    rows <- with_columns(rows, c(
      avg_u = paste("AVG(u)", over), first_e = paste("MIN(e)", over),
      last_e = paste("MAX(e)", over)
    ))
    ask_grouped(engine, rows, by, further_columns)
  },
  # The values of each group at the places below and above a quantile.
  around = function(engine, rows, by, share) {
    rows <- with_columns(rows, c(
      place = sprintf(
        "ROW_NUMBER() OVER (PARTITION BY %s ORDER BY u)", listed(by)
      ),
      many = sprintf("COUNT(*) OVER (PARTITION BY %s)", listed(by))
    ))
    # With one to spare, whatever the engine makes of fractions.
    rows <- with_columns(rows, c(rank = sprintf(
      "(%s - 1) * %s", engine$real("many"), engine$real(as_digits(share))
    )))
    near <- only_where(rows, "ABS(place - 1 - rank) < 1.5")
    ask_grouped(engine, near, c(by, "place"), c(
      n = "MIN(many)", figure = "MIN(u)"
    ))
  }
)

# A quantile of the values of each cell, of groups where there are some.
quantiles_at <- function(x, frame, rows, share) {
  engine <- facts(x)$at$engine
  names <- frame$names
  by <- key_names(names)
  if (frame$groups$count > 0) {
    by <- by[match(frame$by, names(names))]
    names <- frame$groups$names
  }
  found <- engine$ordered$around(
    engine, only_where(rows, "u IS NOT NULL"), c(by, "p"), share
  )
  found <- stats::setNames(
    found, replace(names(found), match(by, names(found)), key_names(names))
  )
  interpolated(
    found, places_at(frame, found, names), share,
    nrow(names) * frame$columns$count
  )
}

# The quantile of each place `at`, of the figures below and above its rank.
interpolated <- function(found, at, share, size) {
  rank <- (found$n - 1) * share
  below <- floor(rank)
  out <- rep(NA_real_, size)
  low <- found$place - 1 == below
  out[at[low]] <- found$figure[low]
  above <- found$place - 1 == below + 1 & rank > below
  part <- rank[above] - below[above]
  out[at[above]] <- out[at[above]] + part * (
    found$figure[above] - out[at[above]]
  )
  out
}
