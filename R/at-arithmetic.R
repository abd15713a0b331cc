# The calendar in whole numbers: the same arithmetic as that of the kernels,
# written as SQL, so that no function of an engine decides a boundary.

# A number that no calculation loses a digit of.
as_digits <- function(x) {
  ifelse(
    x == round(x), format(x, scientific = FALSE, trim = TRUE, digits = 15),
    sprintf("%.17g", x)
  )
}

# The quotient rounded down, of whole numbers of either sign: `a` is lifted
# above 0 first.
floor_div_sql <- function(engine, a, b) {
  if (b == 1) {
    return(sprintf("(%s)", a))
  }
  lift <- as_digits(ceiling(1e11 / b))
  sprintf(
    "(%s - %s)",
    engine$div(sprintf("(%s) + %s", a, as_digits(ceiling(1e11 / b) * b)),
               as_digits(b)),
    lift
  )
}

# The value that holds from the last of `from` (the first is -Inf) up to `at`:
# a tree of cases, so that many changes cost few comparisons.
piecewise_sql <- function(at, from, values) {
  if (length(values) == 1) {
    return(as_digits(values))
  }
  middle <- length(values) %/% 2
  low <- seq_len(middle)
  sprintf(
    "CASE WHEN %s < %s THEN %s ELSE %s END", at, as_digits(from[[middle + 1]]),
    piecewise_sql(at, from[low], values[low]),
    piecewise_sql(at, from[-low], values[-low])
  )
}

# Monday is 0. 1970-01-01 was a Thursday.
weekday_sql <- function(day) {
  sprintf("((%s + %s) %% 7)", day, as_digits(7 * 1e8 + 3))
}

# 1 in a leap year, else 0.
leap_sql <- function(year) {
  sprintf(
    paste(
      "CASE WHEN %s %% 400 = 0 OR (%s %% 4 = 0 AND %s %% 100 <> 0) THEN 1",
      "ELSE 0 END"
    ), year, year, year
  )
}

# The day's month since January 1970 (`month`), its place in it (`dom`), and its
# place (`r`, from 0) in the `year` that starts in March, so that the leap day
# is the last, for the range of `days`. In the years of hundreds that have none,
# a day is left out. The names may have a `prefix`.
civil_columns <- function(engine, from, day, days, prefix = "") {
  if (paste0(prefix, "civil") %in% attr(from, "has")) {
    return(from)
  }
  years <- as.POSIXlt(.Date(days))$year + 1900
  base <- (years[[1]] - 4) %/% 4 * 4
  march <- function(year) as.numeric(as.Date(sprintf("%04d-03-01", year)))
  hundreds <- seq(100 * (base %/% 100), years[[2]] + 100, by = 100)
  short <- hundreds[hundreds %% 400 != 0 & hundreds > base]
  short <- march(short[short <= years[[2]]])
  left_out <- sprintf("CASE WHEN %s >= %s THEN 1 ELSE 0 END", day,
                      as_digits(short))
  z <- paste(c(sprintf("%s - (%s)", day, as_digits(march(base))), left_out),
             collapse = " + ")
  column <- function(name, form, ...) {
    part <- function(x) paste0(prefix, x)
    given <- lapply(list(...), part)
    stats::setNames(do.call(sprintf, c(form, given)), part(name))
  }
  from <- with_columns(from, stats::setNames(z, paste0(prefix, "z")))
  from <- with_columns(from, column("y", engine$div("4 * %s + 3", "1461"), "z"))
  from <- with_columns(from, column(
    "r", paste("%s -", engine$div("1461 * %s", "4")), "z", "y"
  ))
  from <- with_columns(from, column("m", engine$div("5 * %s + 2", "153"), "r"))
  from <- with_columns(from, c(
    column("month", paste(
      "12 * %s + %s + (", as_digits((base - 1970) * 12 + 2), ")"
    ), "y", "m"),
    column(
      "dom", paste("%s -", engine$div("153 * %s + 2", "5"), "+ 1"), "r", "m"
    ),
    column("year", paste("%s +", as_digits(base)), "y")
  ))
  now_has(from, paste0(prefix, "civil"))
}

# Whether a day is open, by the weekdays and holidays of a laid calendar; NULL
# where all are.
open_sql <- function(day, calendar) {
  weekdays <- which(bitwAnd(calendar$weekdays, 2^(0:6)) > 0) - 1
  off <- calendar$holidays
  parts <- c(
    if (length(weekdays) < 7) {
      sprintf("%s IN (%s)", weekday_sql(day), listed(weekdays))
    },
    if (length(off) > 0) sprintf("%s NOT IN (%s)", day, listed(as_digits(off)))
  )
  if (length(parts) > 0) paste(parts, collapse = " AND ")
}

# How many open days lie before a day, from the Monday before 1970 on, as the
# kernel counts them.
open_before_sql <- function(engine, day, calendar) {
  weekdays <- bitwAnd(calendar$weekdays, 2^(0:6)) > 0
  off <- calendar$holidays
  off <- sort(off[weekdays[(off + 3) %% 7 + 1]])
  paste(
    sprintf(
      "%s * %s", as_digits(sum(weekdays)),
      floor_div_sql(engine, sprintf("%s + 3", day), 7)
    ),
    "+",
    piecewise_sql(
      weekday_sql(day), c(-Inf, 1:6), c(0, cumsum(weekdays))[1:7]
    ),
    "- (",
    piecewise_sql(day, c(-Inf, off + 1), seq(0, length(off))), ") - (",
    as_digits(open_before_1970(weekdays, off)), ")"
  )
}

# Of 1970-01-01, a Thursday.
open_before_1970 <- function(weekdays, off) sum(weekdays[1:3]) - sum(off < 0)

# The months of whole weeks that hold the range of `days`, as a tree of cases.
week_month_sql <- function(day, calendar, days) {
  each <- calendar
  each[c("count", "origin")] <- list(1, 0)
  ends <- number_of_days_cpp(days, each)
  month <- seq(ends[[1]], ends[[2]])
  piecewise_sql(day, c(-Inf, period_start_cpp(month[-1], each)), month)
}

# Rows of `from` with the number of the period that each is in, as `p`.
with_period <- function(engine, from, calendar, days) {
  base <- base_of(calendar)
  if (base == "clock") {
    shifted <- sprintf(
      "t + %s - (%s)",
      piecewise_sql("t", calendar$shifts$from, calendar$shifts$offset),
      as_digits(calendar$origin)
    )
    p <- floor_div_sql(engine, shifted, calendar$count)
    return(with_columns(from, c(p = p)))
  }
  if (base %in% c("month", "third")) {
    from <- civil_columns(engine, from, "d", days)
  }
  index <- switch(
    base, day = "d", month = "month",
    third = sprintf(
      "3 * month + CASE WHEN dom > 20 THEN 2 WHEN dom > 10 THEN 1 ELSE 0 END"
    ),
    "open day" = open_before_sql(engine, "d", calendar),
    "week month" = week_month_sql("d", calendar, days)
  )
  with_columns(from, c(p = floor_div_sql(
    engine, sprintf("%s - (%s)", index, as_digits(calendar$origin)),
    calendar$count
  )))
}
