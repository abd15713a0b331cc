# The common step of the records of each series, found in the database.

# With `step` and `passed`, the greatest common divisors of the distances by
# the clock and in seconds that pass, as the kernel's survey.
with_steps <- function(x, outline, each) {
  rows <- timed_at(x, outline)
  clock <- outline$clock
  each$passed <- common_step(
    x, outline, rows, "t", floor(each$highest - each$lowest)
  )
  each$step <- if (length(clock$offset) == 1) {
    each$passed
  } else {
    local <- instant_to_local(each$highest, clock)
    common_step(x, outline, rows, "s", floor(local - each$anchor))
  }
  if (!facts(x)$at$moments$whole) {
    each$whole_seconds <- whole_seconds_at(x, outline, rows, each)
  }
  each
}

# Whether all distances are whole seconds, of the series where it matters.
whole_seconds_at <- function(x, outline, rows, each) {
  span <- each$highest - each$lowest
  if (!any(may_bear_out(x, each$passed, span, each$records) |
             may_bear_out(x, each$step, span, each$records))) {
    return(FALSE)
  }
  found <- match_series(outline, ask_grouped(
    facts(x)$at$engine, rows, key_names(outline$names),
    c(least = "MIN(e - own)", most = "MAX(e - own)")
  ))
  found$least == found$most
}

# Whether so many records may fill half of the slots of a step, or of a finer
# one: see borne_out(). Where days may be the slots, few can, and where some
# hours alone were kept.
may_bear_out <- function(x, step, span, records) {
  length(facts(x)$kept) > 0 | step %% 86400 == 0 |
    records >= span / pmax(step, 1) / 2
}

# Of each series the greatest common divisor of the distances of `column`. A
# multiple of it is divided by what is left over until nothing is; the span is
# the first. 0 where the span is. Some of the rows divide it for little,
# whichever they are.
common_step <- function(x, outline, rows, column, span) {
  step <- span
  for (part in c(some_rows(outline, rows), list(rows))) {
    step <- divided_step(x, outline, part, column, step, span)
  }
  step
}

# Of many records some that an engine has at hand, and the earliest, about two
# hundred of the series with the fewest.
some_rows <- function(outline, rows) {
  count <- outline$census$rows
  if (sum(count) < 1e5) {
    return(NULL)
  }
  ends <- outline$ends * if (outline$dates) 86400 else 1
  until <- ceiling(ends[[1]] + 200 / min(count) * diff(ends))
  list(
    selected(rows, "SELECT * FROM @ AS q LIMIT 10000"),
    if (200 / min(count) < 0.05) {
      only_where(rows, sprintf("t <= %s", as_digits(until)))
    }
  )
}

# Where so few records have no cadence by what is left, nor by less, a multiple
# it stays. `rows` may be NULL.
divided_step <- function(x, outline, rows, column, step, span) {
  engine <- facts(x)$at$engine
  repeat {
    wanted <- column == "month" |
      may_bear_out(x, step, span, outline$census$rows)
    open <- step > 1 & wanted
    if (!any(open) || is.null(rows)) {
      return(step)
    }
    part <- with_parameters(x, outline, rows, list(step = ifelse(
      open, step, 0
    )))
    left <- sprintf(
      "(%s + %s) %% %s", column, as_digits(1e11), engine$whole("step")
    )
    # Residues lie on one side of where they wrap or on the other; both are
    # distances.
    found <- match_series(outline, ask_grouped(
      engine, with_columns(only_where(part, "step > 0"), c(rest = left)),
      key_names(outline$names), c(low = "MIN(rest)", high = "MAX(rest)")
    ))
    rest <- ifelse(open & !is.na(found$low), found$high - found$low, 0)
    before <- step
    step[open] <- gcd(step[open], rest[open])
    if (identical(step, before)) {
      return(step)
    }
  }
}

gcd <- function(a, b) {
  while (any(b > 0)) {
    rest <- ifelse(b > 0, a %% pmax(b, 1), 0)
    a <- ifelse(b > 0, b, a)
    b <- rest
  }
  a
}
