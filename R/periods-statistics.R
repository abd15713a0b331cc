# The statistics that figures are put together by, in one table: what each is
# called, what it is `of` (the records of a period, a moving window, the
# figures so far, a cell of a profile), and what a roll-up says of it. Any
# quantile, such as "90%", goes beside them.

new_statistic <- function(
  words, of = "records", done = words, title = paste(words, "of "),
  made = sprintf("the %s of the records", words), ordered = FALSE, unit = NULL
) {
  list(
    words = words, of = of, done = done, title = title, made = made,
    ordered = ordered, unit = unit
  )
}

# `ordered` are those that need more than sums and counts of the records.
statistics <- list(
  sum = new_statistic(
    "sum", c("records", "window", "cell"), done = "added up", title = "total "
  ),
  mean = new_statistic(
    "mean", c("records", "window", "running", "cell"), done = "averaged",
    title = "mean "
  ),
  first = new_statistic(
    "first reading", title = "first ", made = "the first reading",
    ordered = TRUE
  ),
  last = new_statistic(
    "last reading", title = "last ", made = "the last reading", ordered = TRUE
  ),
  lowest = new_statistic(
    "lowest", c("records", "window", "running"), done = "lowest reading",
    title = "lowest ", made = "the lowest reading", ordered = TRUE
  ),
  highest = new_statistic(
    "highest", c("records", "window", "running"), done = "highest reading",
    title = "highest ", made = "the highest reading", ordered = TRUE
  ),
  median = new_statistic(
    "median", c("records", "window", "cell"), title = "median "
  ),
  sd = new_statistic(
    "standard deviation", c("records", "window"), ordered = TRUE
  ),
  count = new_statistic(
    "number of records", made = "the number of records", unit = "records"
  ),
  slots = new_statistic(
    "slots with a record", made = "the number of slots with a record",
    unit = "slots"
  ),
  # By the kind of a measure alone: a counter's rises, a ratio's parts, returns.
  rises = new_statistic(
    "increase", character(), done = "differenced, then summed",
    made = "what the readings rose by, added up"
  ),
  parts = new_statistic(
    "parts", character(), title = "",
    done = "made of its parts when these are rolled up",
    made = "its parts, rolled up apart, then divided"
  ),
  compound = new_statistic(
    "compound", character(), done = "compounded", title = "",
    made = "returns, compounded"
  )
)

statistics_of <- function(what) {
  names(Filter(function(one) what %in% one$of, statistics))
}

# "90%" is 0.9; NA for what is no such text.
quantile_share <- function(stat) {
  number <- suppressWarnings(as.numeric(sub("%$", "", stat))) / 100
  fits <- grepl("%$", stat) & !is.na(number) & number >= 0 & number <= 1
  ifelse(stat == "median", 0.5, ifelse(fits, number, NA))
}

find_statistic <- function(stat) {
  statistics[[stat]] %||% new_statistic(paste(stat, "quantile"))
}

statistic_in_words <- function(stat) find_statistic(stat)$words

# What became of the records of a period: as it is `done`, as a `title` starts,
# and as a figure was `made`. Of a counter the sum is of its rises.
words_of_use <- function(measure, form) {
  rises <- measure$kind == "counter" && measure$use == "sum"
  find_statistic(if (rises) "rises" else measure$use)[[form]]
}

check_statistic <- function(stat, what) {
  if (rlang::is_string(stat) && !is.na(quantile_share(stat))) {
    return(stat)
  }
  check_one_of(stat, c(statistics_of(what), "90%"), "stat")
}

# What a statistic of figures of a kind says wrongly: "means nothing", "weighs
# small and large parts alike"; NULL where it is sound.
wrong_of_kind <- function(stat, kind) {
  if (stat == "sum" && kind %in% c("level", "ratio", "return")) {
    "means nothing"
  } else if (stat == "mean" && kind == "ratio") {
    "weighs small and large parts alike"
  }
}
