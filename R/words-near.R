# Words of the trade that are called otherwise here, and slips of the pen.

words_elsewhere <- c(
  max = "highest", maximum = "highest", high = "highest",
  min = "lowest", minimum = "lowest", low = "lowest",
  average = "mean", avg = "mean", total = "sum", added = "sum",
  std = "sd", "standard deviation" = "sd", zscore = "sd", "z-score" = "sd",
  p50 = "median", percentile = "quantile",
  center = "centred", centre = "centred", centered = "centred",
  right = "trailing", rolling = "trailing", backward = "trailing",
  left = "leading", forward = "leading",
  "last year" = "a cycle before", "year ago" = "a cycle before",
  "year before" = "a cycle before", "same month" = "a cycle before",
  previous = "previous period", before = "previous period",
  dekad = "third", decade = "third", "ten days" = "third",
  interpolate = "linear", interpolation = "linear", fill = "carry",
  "carry forward" = "carry", "last observation" = "carry",
  pct = "percent", "%" = "percent", diff = "difference",
  arithmetic = "simple", logarithmic = "log", dayofweek = "weekday",
  "day of week" = "weekday",
  yearday = "day of year"
)

# What a word that is not one of `choices` is called there, as a sentence; NULL
# where nothing is near.
word_meant <- function(x, choices) {
  if (!rlang::is_string(x)) {
    return()
  }
  plain <- gsub("_", " ", tolower(trimws(x)))
  meant <- unname(words_elsewhere[plain])
  if (!is.na(meant) && meant %in% choices) {
    return(sprintf("Here it is called %s.", quoted(meant)))
  }
  near <- if (nchar(plain) > 3) {
    agrep(
      plain, choices, max.distance = list(all = 1), value = TRUE,
      ignore.case = TRUE
    )
  }
  if (length(near) == 0) {
    # "working days", where it is "working".
    words <- strsplit(plain, " ", fixed = TRUE)[[1]]
    near <- choices[tolower(choices) %in% words]
  }
  if (length(near) > 0) {
    sprintf("Did you mean %s?", in_words(quoted(near), last = " or "))
  }
}
