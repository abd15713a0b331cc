# The name of a column never matters: series, measures and attributes that are
# called as anything is in the sources.

# Every name that a function of the package uses as a variable or an argument.
names_in_use <- function() {
  files <- Sys.glob(checkout("R", "*.R"))
  found <- lapply(files, function(file) {
    parsed <- utils::getParseData(parse(file, keep.source = TRUE))
    symbols <- parsed$token %in% c("SYMBOL", "SYMBOL_FORMALS", "SYMBOL_SUB")
    gsub("`", "", parsed$text[symbols])
  })
  sort(unique(unlist(found)), method = "radix")
}

# The result with the names of its columns put back: `new` has what the plain
# ones are called, by the plain names.
named_back <- function(x, new) {
  texts <- function(text) {
    # Longer names first, as one may be a part of another.
    for (k in order(-nchar(new))) {
      text <- gsub(new[[k]], names(new)[[k]], text, fixed = TRUE)
    }
    text
  }
  if (is.character(x)) {
    return(texts(x))
  }
  if (!is.list(x)) {
    return(x)
  }
  if (!is.null(names(x))) {
    at <- match(names(x), new)
    known <- !is.na(at)
    names(x)[known] <- names(new)[at[known]]
  }
  lapply(as.list(x), named_back, new)
}

# A failure is its class and no more, as its text has the names.
outcome_of <- function(x, new) {
  if (inherits(x, "condition")) class(x)[[1]] else named_back(x, new)
}

expect_same_results <- function(got, plain, new) {
  for (name in names(plain)) {
    expect_identical(
      outcome_of(got[[name]], new), outcome_of(plain[[name]], new),
      label = paste0(name, " with columns such as ", new[[1]])
    )
  }
}

in_lots <- function(x, size) split(x, (seq_along(x) - 1) %/% size)

test_that("a series column may be called as anything", {
  used <- setdiff(names_in_use(), c("month", "first_m", "second_m"))
  expect_gt(length(used), 1000)
  for (lot in in_lots(used, 60)) {
    neutral <- sprintf("plain%02d", seq_along(lot))
    results <- lapply(list(neutral, lot), function(series) {
      r <- suppressMessages(read_plain(plain_records(series), series))
      list(
        of = every_result(r, first = "first_m", second = "second_m"),
        series = backfill:::facts(r)$series
      )
    })
    new <- stats::setNames(results[[2]]$series, results[[1]]$series)
    expect_same_results(results[[2]]$of, results[[1]]$of, new)
  }
})
