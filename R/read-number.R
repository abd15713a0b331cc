# From a column to doubles. A blank, NA or NaN is a missing value; of text that is no finite number, `bad` names the
# rows and `reason` says what is wrong with each.
read_number <- function(x) {
  if (is.numeric(x) && !is.object(x)) {
    value <- as.double(x)
    if (anyNA(value)) {
      value[is.nan(value)] <- NA
    }
    bad <- which(is.infinite(value))
    return(list(value = value, bad = bad, reason = rep(infinite, length(bad))))
  }
  # Each distinct text is read once.
  text <- as.character(x)
  distinct <- unique(text)
  trimmed <- trimws(distinct)
  plain <- grepl("^[+-]?([0-9]+\\.?[0-9]*|\\.[0-9]+)([eE][+-]?[0-9]+)?$", trimmed)
  value <- rep(NA_real_, length(distinct))
  value[plain] <- as.numeric(trimmed[plain])
  reason <- rep(NA_character_, length(distinct))
  reason[!plain & !trimmed %in% c(NA, "", "NA", "NaN")] <- "not a number"
  reason[is.infinite(value)] <- infinite
  at <- match(text, distinct)
  bad <- which(!is.na(reason[at]))
  list(value = value[at], bad = bad, reason = reason[at][bad])
}

infinite <- "not a finite number"
