# From columns to doubles. A blank, a code for a missing value and NaN are
# missing; of text that is no finite number, `bad` names the rows and `reason`
# says what is wrong with each.

# Texts that stand for a missing value in any file, those of a workbook's
# formula that failed among them. Numbers never do so unasked.
missing_marks <- c(
  "", "NA", "N/A", "n/a", "na", "#N/A", "NaN", "nan", "NULL", "null", "None",
  "none", "missing", "-", "--", "---", ".", "..", "...", "?", "\u2013",
  "\u2014", "#DIV/0!", "#NAME?", "#NULL!", "#NUM!", "#REF!", "#VALUE!"
)

# list(value, bad, reason, missing, marks): `missing` counts the missing values
# by what stood there. `x` may be what distinct_figures() made of a column.
read_number <- function(x, decimal_mark = ".", codes = character()) {
  if (is.numeric(x) && !is.object(x)) {
    return(typed_numbers(x, codes))
  }
  distinct <- if (is.list(x)) x else distinct_figures(x)
  at <- distinct$at
  parsed <- read_numbers_cpp(distinct$text, decimal_mark)
  number <- parsed$outcome == 0L
  # Most columns have few texts that are no numbers.
  other <- which(!number)
  trimmed <- trimws(distinct$text[other])
  is_mark <- is.na(trimmed) | trimmed %in% c(missing_marks, codes)
  coded <- which(number & parsed$value %in% code_numbers(codes))
  absent <- c(other[is_mark], coded)
  parsed$value[absent] <- NA
  reason <- c(NA, "not a number", infinite)[parsed$outcome[other]]
  is_bad <- seq_along(number) %in% other[!is_mark & !is.na(reason)]
  bad <- which(is_bad[at])
  weight <- tabulate(at, length(distinct$text))
  code <- c(trimmed[is_mark], trimws(distinct$text[coded]))
  code[is.na(code) | code == ""] <- "blank"
  list(
    value = parsed$value[at], bad = bad, reason = reason[match(at[bad], other)],
    missing = tapply_counts(code, weight[absent]),
    marks = marks_found(parsed, weight * replace(number, coded, FALSE))
  )
}

# Each text of a column once, and which of them stands in each row.
distinct_figures <- function(x) distinct_texts_cpp(as.character(x))

# Texts without the unit of their measure in front or behind, where it stands
# there, as in "51 cm".
without_unit <- function(text, unit) {
  bare <- trimmed_wide(text)
  behind <- which(endsWith(bare, unit))
  bare[behind] <- substr(bare[behind], 1, nchar(bare[behind]) - nchar(unit))
  before <- which(startsWith(bare, unit))
  bare[before] <- substring(bare[before], nchar(unit) + 1)
  taken <- union(behind, before)
  bare <- trimmed_wide(bare)
  text[taken] <- ifelse(nzchar(bare[taken]), bare[taken], text[taken])
  text
}

# Without blanks at the ends, those that do not break among them.
trimmed_wide <- function(text) trimws(text, whitespace = "[\\h\\v]")

typed_numbers <- function(x, codes) {
  value <- as.double(x)
  if (length(codes) == 0 && all_finite_cpp(value, FALSE)) {
    return(list(
      value = value, bad = integer(), reason = character(), missing = integer(),
      marks = list()
    ))
  }
  coded <- if (length(codes) > 0) {
    which(value %in% code_numbers(codes))
  } else {
    integer()
  }
  missing <- tapply_counts(
    plain_format(value[coded], trim = TRUE), rep(1L, length(coded))
  )
  blank <- if (anyNA(value)) sum(is.na(value)) else 0L
  nan <- 0L
  if (blank > 0) {
    nan <- sum(is.nan(value))
    value[is.nan(value)] <- NA
  }
  value[coded] <- NA
  bad <- which(is.infinite(value))
  list(value = value, bad = bad, reason = rep(infinite, length(bad)),
       missing = c(
         if (blank > nan) c(blank = blank - nan), if (nan > 0) c("NaN" = nan),
         missing
       ), marks = list())
}

infinite <- "not a finite number"

code_numbers <- function(codes) {
  number <- suppressWarnings(as.numeric(codes))
  number[!is.na(number)]
}

tapply_counts <- function(name, weight) {
  counts <- tapply(weight, name, sum)
  stats::setNames(as.integer(counts), names(counts))
}

# What stood with the figures, in bits of enum NumberMark in
# src/kernels/written_number.h, by the number of values.
marks_found <- function(parsed, weight) {
  count <- function(bit) sum(weight[bitwAnd(parsed$marks, bit) > 0])
  currency <- unique(
    parsed$currency[bitwAnd(parsed$marks, 4L) > 0 & weight > 0]
  )
  list(
    percent = count(1L), thousands = count(2L), currency = count(4L),
    brackets = count(8L), signs = currency, values = sum(weight)
  )
}

# The mark that fits most of the texts of all columns; where both fit all of
# them and give different figures, that is an error. A point is one by custom:
# 1.250 is not taken for 1250 unless another value says so.
find_decimal_mark <- function(texts, at) {
  marks <- c(".", ",")
  # Each distinct text, read with each of the marks.
  read <- lapply(texts, function(distinct) {
    lapply(marks, function(mark) read_numbers_cpp(distinct$text, mark))
  })
  fits <- vapply(seq_along(marks), function(k) {
    sum(vapply(seq_along(texts), function(i) {
      times <- tabulate(texts[[i]]$at, length(texts[[i]]$text))
      sum(times[read[[i]][[k]]$outcome == 0L])
    }, 0))
  }, 0)
  if (fits[[1]] != fits[[2]]) {
    return(marks[[which.max(fits)]])
  }
  for (i in seq_along(texts)) {
    stop_both_marks(names(texts)[[i]], texts[[i]], read[[i]], at)
  }
  "."
}

# Where both marks fit every text but mean different numbers.
stop_both_marks <- function(name, distinct, read, at) {
  differ <- which(
    read[[1]]$outcome == 0L & grepl(",", distinct$text, fixed = TRUE) &
      read[[1]]$value != read[[2]]$value
  )
  if (length(differ) == 0) {
    return()
  }
  shown <- utils::head(differ, 3)
  examples <- sprintf(
    "Line %d: %s is %s, or %s.", at(match(shown, distinct$at))$line,
    quoted(distinct$text[shown]), format_each(read[[1]]$value[shown]),
    format_each(read[[2]]$value[shown])
  )
  abort_backfill(
    "number",
    "In column \"{name}\" the comma may part thousands or decimals: both fit",
    "every value.",
    "{rlang::set_names(examples, 'x')}",
    ">" = "Say which: `decimal_mark` is \".\" or \",\".",
    choices = list(decimal_mark = ".")
  )
}
