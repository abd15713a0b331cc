# How figures that describe series were made.

# Base R's names for the statistics of a description, and what they are.
described_texts <- c(
  n = "length(x)", mean = "mean(x)", sd = "sd(x)", variance = "sd(x)^2",
  lowest = "min(x)", highest = "max(x)",
  lowest_times = "sum(x == min(x))", highest_times = "sum(x == max(x))",
  lower_quartile = "quantile(x, 0.25)",
  median = "quantile(x, 0.5)", upper_quartile = "quantile(x, 0.75)",
  iqr = "quantile(x, 0.75) - quantile(x, 0.25)",
  skewness = paste(
    "sqrt(n * (n - 1)) / (n - 2) * mean((x - mean(x))^3) /",
    "mean((x - mean(x))^2)^1.5"
  ),
  kurtosis = paste(
    "(n - 1) / ((n - 2) * (n - 3)) * ((n + 1) *",
    "(mean((x - mean(x))^4) / mean((x - mean(x))^2)^2 - 3) + 6)"
  ),
  outliers = paste(
    "sum(x < 2.5 * quantile(x, 0.25) - 1.5 * quantile(x, 0.75) |",
    "x > 2.5 * quantile(x, 0.75) - 1.5 * quantile(x, 0.25))"
  )
)

#' @export
working_of.backfill_series_summary <- function(x, one, column, table) {
  about <- facts(x)
  along <- along_series(table, about$of)
  own <- places_of_line(one, along, table)
  rows <- known_of(own, along)
  if (!is.null(about$by)) {
    rows <- places_in_time(own, periods_of_group(one, about), along)
  }
  if (column %in% c("partial", "missing")) {
    return(working_of_lacking(one, column, own, along, table, about))
  }
  value <- along$value[rows]
  probs <- about$probs[match(column, quantile_names(about$probs))]
  body <- if (length(probs) > 0 && !is.na(probs)) {
    sprintf("quantile(x, %s)", put_in(probs))
  } else {
    described_texts[column]
  }
  text <- if (column == "autocorrelation") {
    next_text(value, open_numbers(table, along)[rows])
  } else if (column == "normality_p") {
    normality_text(value)
  } else if (!is.na(body)) {
    worked_text(gsub("\\bn\\b", length(value), body), x = value)
  } else {
    NA
  }
  new_working(along$order[rows], text, about$of, sprintf(
    "%s of %s", gsub("_", " ", column), count_of(length(value), "figure")
  ))
}

# The periods with a figure of the group that a row is of.
periods_of_group <- function(one, about) {
  points <- about$points
  keys <- c(about$series, "measure", about$by)
  points$period[vctrs::vec_in(
    points[keys], vctrs::vec_cast(one[keys], points[keys])
  )]
}

working_of_lacking <- function(one, column, own, along, table, about) {
  lacks <- is.na(along$value[own])
  standing <- as.character(table$standing[along$order[own]])
  partial <- about$of == "value" & standing == "partial"
  rows <- own[lacks & partial == (column == "partial")]
  # Which group a period without a figure is of, the result does not keep.
  by_group <- !is.null(about$by)
  new_working(
    if (!by_group) along$order[rows],
    if (by_group) NA else as.character(length(rows)), about$of,
    if (column == "partial") "partial periods" else "periods without a figure"
  )
}

# By the normal deviates that the skewness and the kurtosis come to.
normality_text <- function(value) {
  off <- value - mean(value)
  n <- length(value)
  square <- mean(off^2)
  sprintf(
    "exp(-(%s^2 + %s^2) / 2)",
    put_in(normal_skewness(mean(off^3) / square^1.5, n)),
    put_in(normal_kurtosis(mean(off^4) / square^2, n))
  )
}

# The correlation of neighbours about the mean of all.
next_text <- function(value, number) {
  later <- which(diff(number) == 1) + 1
  worked_text(
    paste(
      "sum((a - mean(x)) * (b - mean(x))) / (length(a) + 1) /",
      "mean((x - mean(x))^2)"
    ), x = value,
    a = value[later - 1], b = value[later]
  )
}
