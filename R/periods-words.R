# What became of the records of a period, in words: as it is `done`, as a
# `title` starts, and as a figure was `made`. Of a counter the sum is of its
# rises.

words_of_use <- function(measure, form) {
  words <- use_words[[form]]
  rises <- measure$kind == "counter" && measure$use == "sum"
  use <- if (rises) "rises" else measure$use
  if (use %in% names(words)) {
    words[[use]]
  } else {
    sprintf(words[["quantile"]], use)
  }
}

use_words <- list(
  done = c(
    sum = "added up", rises = "differenced, then added up", mean = "averaged",
    parts = "made of its parts when these are rolled up",
    compound = "compounded", first = "first reading", last = "last reading",
    lowest = "lowest reading", highest = "highest reading", median = "median",
    sd = "standard deviation", count = "number of records",
    slots = "slots with a record", quantile = "%s quantile"
  ),
  title = c(
    sum = "total ", rises = "increase of ", mean = "mean ", parts = "",
    compound = "", first = "first ", last = "last ", lowest = "lowest ",
    highest = "highest ", median = "median ", sd = "standard deviation of ",
    count = "number of records of ", slots = "slots with a record of ",
    quantile = "%s quantile of "
  ),
  made = c(
    sum = "the sum of the records",
    rises = "what the readings rose by, added up",
    mean = "the mean of the records",
    parts = "its parts, rolled up apart, then divided",
    compound = "returns, compounded", first = "the first reading",
    last = "the last reading", lowest = "the lowest reading",
    highest = "the highest reading", median = "the median of the records",
    sd = "the standard deviation of the records",
    count = "the number of records",
    slots = "the number of slots with a record",
    quantile = "the %s quantile of the records"
  )
)
