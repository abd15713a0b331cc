# How a straight line through a series, and the ends of a projection, were made.

line_prelude <- paste(
  "s <- sum((t - mean(t)) * (y - mean(y))) / sum((t - mean(t))^2);",
  "a <- mean(y) - s * mean(t);"
)

line_remainders <- "e <- y - a - s * t;"

line_memory <- paste(
  line_remainders,
  "k <- which(diff(t) == 1); r <- sum(e[k + 1] * e[k]) /",
  "(length(k) + 1) / mean(e^2);"
)

# As how many figures the remainders count, over all memories that they may
# have: `k` is what is kept, `h` the noise, `a` the weight beforehand.
line_worth <- function() {
  thought <- memories_cpp()
  paste(
    line_remainders, "n <- length(y); X <- cbind(1, t);",
    "d <- abs(outer(t, t, \"-\")); x <- t - mean(t); x <- x / sum(x^2);",
    "of <- function(k, h) { V <- (1 - h) * (if (k < 1) k^d else 1 +",
    "outer(t, t, pmin)) + h * diag(n); W <- solve(V);",
    "A <- crossprod(X, W %*% X);",
    "u <- y - X %*% solve(A, crossprod(X, W %*% y));",
    "q <- sum(u * (W %*% u)); c(-((n - 2) * log(q) + determinant(V)$modulus +",
    "determinant(A)$modulus) / 2, q / (n - 2) * sum(x * (V %*% x))) };",
    sprintf(
      "m <- mapply(of, c(%s), c(%s)); w <- c(%s) * exp(m[1, ] - max(m[1, ]));",
      toString(thought$keep), toString(thought$noise), toString(thought$weight)
    ),
    "m <- sum(w * m[2, ]) / sum(w);",
    "if (sum(e^2) <= 1e-20 * sum(y^2)) n else min(n, 2 + sum(e^2) /",
    "sum((t - mean(t))^2) / m)"
  )
}

#' @export
working_of.backfill_trends <- function(x, one, column, table) {
  about <- facts(x)
  along <- along_series(table, about$of)
  own <- known_of(places_of_line(one, along, table), along)
  number <- along$number[own]
  steps <- number - number[[1]]
  span <- steps[[length(steps)]]
  years <- years_between(
    number[[1]], number[[length(number)]], along$calendar
  )
  per_year <- sprintf("s * %s / %s", put_in(span), put_in(years))
  body <- switch(
    column, n = "length(y)", start = "a", slope = "s",
    end = sprintf("a + s * %s", put_in(span)), slope_per_year = per_year,
    percent_per_year = sprintf("100 * %s / mean(y)", per_year),
    r_squared = paste(
      line_remainders, "1 - sum(e^2) / sum((y - mean(y))^2)"
    ),
    autocorrelation = paste(line_memory, "r"),
    n_effective = line_worth(),
    slope_se = sprintf(
      "%s sqrt(sum(e^2) / (%s - 2) / sum((t - mean(t))^2))", line_remainders,
      put_in(one$n_effective)
    )
  )
  text <- if (is.null(body)) {
    sureness_text(one, column, about$confidence)
  } else {
    worked_text(
      sprintf("{%s %s}", line_prelude, body), y = along$value[own], t = steps
    )
  }
  new_working(along$order[own], text %||% NA, about$of, sprintf(
    "%s of the line through %s", gsub("_", " ", column),
    count_of(length(own), "figure")
  ))
}

# The interval of a slope and its chance, by its standard error.
sureness_text <- function(one, column, confidence) {
  free <- one$n_effective - 2
  slope <- put_in(one$slope)
  error <- put_in(one$slope_se)
  reach <- sprintf(
    "%s * %s", put_in(stats::qt((1 + confidence) / 2, max(free, 1))), error
  )
  switch(
    column, lower = sprintf("%s - %s", slope, reach),
    upper = sprintf("%s + %s", slope, reach),
    p = sprintf("2 * pt(-abs(%s / %s), %s)", slope, error, put_in(free))
  )
}

# The row of the worksheet of a projection that a row of the table has.
projected_row <- function(x, row) {
  sheet <- facts(x)$projected$worksheet
  keys <- c(facts(x)$series, "measure", "period")
  sheet[vctrs::vec_match(
    plain_tibble(x)[row, keys], plain_tibble(sheet)[keys]
  ), ]
}

# What is carried on, put back in season.
projected_step <- function(x, row, step) {
  about <- facts(x)$projected
  one <- projected_row(x, row)
  keys <- setdiff(names(about$bases), "base")
  base <- about$bases$base[vctrs::vec_match(
    plain_tibble(x)[row, keys], about$bases[keys]
  )]
  step$formula <- sprintf(
    "projected: the %s, carried on, put back in season", bases[[base]]
  )
  step$worked <- paste(
    put_in(one$carried), if (about$form == "multiplicative") "*" else "+",
    put_in(one$index)
  )
  check_worked(step)
  list(step)
}

trace_interval <- function(x, along, i, note, name) {
  about <- facts(x)$projected
  one <- projected_row(x, along$order[[i]])
  if (is.na(one$past_error)) {
    return(new_working(i, NA, note$of))
  }
  value <- put_in(one$projected)
  reach <- sprintf(
    "%s * %s", put_in(stats::qt(
      (1 + about$confidence) / 2, max(one$past_errors - 1, 1)
    )), put_in(one$past_error)
  )
  ratio <- about$form == "multiplicative"
  if (ratio) reach <- sprintf("%s * abs(%s)", reach, value)
  sign <- if (name == "lower") "-" else "+"
  text <- sprintf("%s %s %s", value, sign, reach)
  if (ratio && name == "lower") text <- sprintf("max(0, %s)", text)
  new_working(i, text, note$of, sprintf(
    "%s as far ahead were off by %s, root mean square",
    count_of(one$past_errors, "past projection"),
    if (ratio) sprintf("%.1f%%", 100 * one$past_error) else
      sprintf("%.4g", one$past_error)
  ))
}
