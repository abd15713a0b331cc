# The arithmetic of a trace: R's, as text with the figures put in.

# As short as it can be without losing a digit.
put_in <- function(x) {
  text <- rep("NA", length(x))
  known <- which(!is.na(x))
  text[known] <- sprintf("%.15g", x[known])
  off <- known[as.numeric(text[known]) != x[known]]
  text[off] <- sprintf("%.17g", x[off])
  below <- which(x < 0)
  text[below] <- paste0("(", text[below], ")")
  text
}

# Long sums as calls: R reads no thousands of nested additions.
plus_text <- function(terms) {
  if (length(terms) <= 100) {
    paste(terms, collapse = " + ")
  } else {
    sprintf("sum(c(%s))", paste(terms, collapse = ", "))
  }
}

sum_text <- function(x) plus_text(put_in(x))

mean_text <- function(x) {
  if (length(x) == 1) put_in(x) else
    sprintf("(%s) / %d", sum_text(x), length(x))
}

# Values put into R arithmetic: "max(c(1, 2))", or "(function(x) x^2 - x)(c(1,
# 2))" where they stand in it more than once.
worked_text <- function(formula, ...) {
  values <- list(...)
  once <- length(values) == 1 &&
    lengths(regmatches(formula, gregexpr("\\bx\\b", formula))) == 1
  given <- vapply(values, function(one) {
    if (length(one) == 0) return("numeric()")
    sprintf("c(%s)", paste(put_in(one), collapse = ", "))
  }, "")
  if (once) {
    return(sub("\\bx\\b", given, formula))
  }
  sprintf(
    "(function(%s) %s)(%s)", paste(names(values), collapse = ", "), formula,
    paste(given, collapse = ", ")
  )
}

# A statistic of values in order of time, NA for one that is not of them alone.
statistic_text <- function(value, use) {
  share <- quantile_share(use)
  if (!is.na(share)) {
    return(worked_text(sprintf("quantile(x, %s)", put_in(share)), x = value))
  }
  switch(
    use, sum = sum_text(value), mean = mean_text(value),
    first = put_in(value[[1]]), last = put_in(value[[length(value)]]),
    lowest = worked_text("min(x)", x = value), highest = worked_text(
      "max(x)", x = value
    ),
    sd = worked_text("sd(x)", x = value), count = as.character(length(value)),
    NA
  )
}
