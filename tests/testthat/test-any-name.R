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
  found <- setdiff(unlist(found), ls(asNamespace("backfill"), all.names = TRUE))
  sort(unique(found), method = "radix")
}

# Whether a result is the same as the plain one but for the names in it: `new`
# has what is called otherwise, by the plain names.
same_but_names <- function(got, plain, new) {
  if (inherits(plain, "condition") || inherits(got, "condition")) {
    identical(class(got), class(plain))
  } else if (is.character(plain) && is.character(got)) {
    same_text(got, plain, new)
  } else if (is.list(plain) && is.list(got)) {
    same_list(got, plain, new)
  } else {
    identical(got, plain)
  }
}

same_text <- function(got, plain, new) {
  # That a column was renamed is told of the one and not of the other.
  got <- grep("renamed, as results", got, value = TRUE, invert = TRUE)
  got <- renamed_back(got, new)
  identical(got, plain) || identical(
    without_names(got, new), without_names(plain, new)
  )
}

same_list <- function(got, plain, new) {
  length(got) == length(plain) && same_but_names(
    names(got) %||% "", names(plain) %||% "", new
  ) && all(mapply(
    same_but_names, unclass(got), unclass(plain), MoreArgs = list(new = new)
  ))
}

# A cell that is a name is named back; in sentences all names are blanked out,
# as words of the sentence may be among them.
renamed_back <- function(text, new) {
  at <- match(text, new)
  text[!is.na(at)] <- names(new)[at[!is.na(at)]]
  text
}

without_names <- function(text, new) {
  names <- c(new, names(new))
  for (one in names[order(-nchar(names))]) {
    text <- gsub(
      sprintf("(?<![\\w.])\\Q%s\\E(?![\\w.])", one), "#", text, perl = TRUE
    )
  }
  text
}

expect_same_results <- function(got, plain, new) {
  failed <- vapply(plain, inherits, NA, "condition")
  expect_identical(names(plain)[failed], character())
  same <- mapply(same_but_names, got, plain, MoreArgs = list(new = new))
  expect_identical(
    names(plain)[!same], character(),
    label = paste("what columns change such as", new[[1]])
  )
}

`%||%` <- rlang::`%||%`

# What the tables of the calls are called by themselves.
own_names <- c("month", "first_m", "second_m", "basin", "beside")

in_lots <- function(x, size) split(x, (seq_along(x) - 1) %/% size)

test_that("no series can be called as a column that a result has beside its series", {
  r <- suppressMessages(read_plain(plain_records("named"), "named"))
  m <- roll_up(r, every = "month")
  sheets <- lapply(
    list(
      usual = seasonal_index(m),
      moving = seasonal_index(m, combine = "moving mean"),
      overall = seasonal_index(m, method = "overall average")
    ),
    function(index) backfill:::facts(index)$worksheet
  )
  results <- every_result(r, first = "first_m", second = "second_m")
  along <- Filter(function(x) "named" %in% names(x), results)
  own <- unlist(lapply(c(along, sheets), names), use.names = FALSE)
  expect_setequal(
    setdiff(own, backfill:::result_columns),
    c(
      "named", "first_m", "second_m", "beside", "growth_1_year",
      "running_highest", "value_1_month_before", "moving_mean",
      grep("^[0-9]{4}-[0-9]{2}$", own, value = TRUE)
    )
  )
})

test_that("a series column may be called as anything", {
  used <- setdiff(names_in_use(), c(own_names, "..."))
  expect_gt(length(used), 1000)
  withr::local_seed(as.integer(Sys.getenv("BACKFILL_ORACLE", "1")))
  if (!thorough()) used <- sample(used, 250)
  for (lot in in_lots(used, 700)) {
    neutral <- sprintf("plain%03d", seq_along(lot))
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
  expect_error(
    read_plain(plain_records("..."), "..."), "keeps to itself",
    class = "backfill_error_column"
  )
})

test_that("a measure may be called as anything", {
  used <- setdiff(names_in_use(), c(own_names, "..."))
  withr::local_seed(as.integer(Sys.getenv("BACKFILL_ORACLE", "1")))
  # A measure more is a line more in every table, hence some of the names.
  few <- if (thorough()) length(used) else 30
  for (lot in in_lots(sample(used, few), 30)) {
    neutral <- sprintf("plain%02d", seq_along(lot))
    results <- lapply(list(neutral, lot), function(measures) {
      r <- suppressMessages(read_plain(
        plain_records("site", measures, months = 38), "site", measures
      ))
      every_result(r, first = measures[[1]], second = measures[[2]])
    })
    expect_same_results(
      results[[2]], results[[1]], stats::setNames(lot, neutral)
    )
  }
})
