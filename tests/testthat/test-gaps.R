# Gaps, what fills them, and tables for other readers.

gappy <- function(
  value = c(NA, 1, 2, NA, 4, NA, NA, 7, NA, 9, NA), kind = "flow"
) {
  month <- sprintf("2031-%02d", seq_along(value))
  two <- tibble::tibble(
    month = rep(month, 2), port = rep(c("a", "b"), each = length(value)),
    kilos = c(value, value * 0 + 1)
  )
  two$kilos[[length(value) + 1]] <- 1
  two$kilos[[2 * length(value)]] <- 1
  roll_up(as_records(two, "month", c(kilos = kind), series = "port"), "month")
}

test_that("gaps are the runs of periods without a value, rows that are not there included", {
  found <- gaps(gappy())
  a <- found[found$port == "a", ]
  expect_identical(
    a$from,
    as.Date(c(
      "2031-01-01", "2031-04-01", "2031-06-01", "2031-09-01", "2031-11-01"
    ))
  )
  expect_identical(
    a$to,
    as.Date(c(
      "2031-01-01", "2031-04-01", "2031-07-01", "2031-09-01", "2031-11-01"
    ))
  )
  expect_identical(a$periods, c(1L, 1L, 2L, 1L, 1L))
  expect_identical(
    a$place, c("before", "within", "within", "within", "after")
  )
  x <- gappy()
  shorter <- gaps(x[!(x$port == "a" & x$n == 0), ])
  expect_identical(as.data.frame(shorter), as.data.frame(found))
  expect_output(print(found), "gaps of .* months without a value")
  expect_output(
    print(gaps(roll_up(records_of("2031-01", kilos = 1), "month"))), "no gaps"
  )
})

test_that("gaps are filled by the stated rules and stand as imputed, by hand", {
  filled <- function(...) {
    x <- impute_gaps(gappy(), ...)
    x$value[x$port == "a"]
  }
  expect_identical(filled("carry"), c(NA, 1, 2, 2, 4, 4, 4, 7, 7, 9, 9))
  expect_identical(filled("linear"), c(NA, 1, 2, 3, 4, 5, 6, 7, 8, 9, NA))
  expect_identical(filled("zero"), c(NA, 1, 2, 0, 4, 0, 0, 7, 0, 9, 0))
  expect_identical(
    filled("seasonal", cycle = 3), c(NA, 1, 2, NA, 4, 2, NA, 7, 2, 9, 7)
  )
  expect_identical(
    filled("carry", longest = 1), c(NA, 1, 2, 2, 4, NA, NA, 7, 7, 9, 9)
  )
  expect_identical(filled("linear", leading = TRUE)[[1]], 1)
  expect_identical(
    filled("seasonal", cycle = 3, leading = TRUE)[c(1, 4)], c(9, NA)
  )
  # Whatever the order of the rows.
  shuffled <- gappy()[c(22:12, 3, 1, 2, 11:4), ]
  expect_identical(
    impute_gaps(shuffled, "linear")$value,
    impute_gaps(gappy(), "linear")$value[c(22:12, 3, 1, 2, 11:4)]
  )
  x <- impute_gaps(gappy(), "linear")
  expect_identical(
    as.character(x$standing[x$port == "a"])[c(1, 3, 4, 11)],
    c("empty", "complete", "imputed", "empty")
  )
  expect_output(print(x), "Filled in: .* on a line between neighbours")
  # An imputed period counts as one in calculations, and further up.
  expect_false(is.na(add_growth(x)$growth_1_month[x$port == "a"][[5]]))
  expect_identical(
    as.character(roll_up(x, "quarter")$standing)[2:3], c("imputed", "imputed")
  )
  expect_error(
    impute_gaps(gappy(kind = "level"), "zero"), "not a flow",
    class = "backfill_error_argument"
  )
  expect_error(impute_gaps(gappy(), "guess"), class = "backfill_error_argument")
})

test_that("nothing later changes what carry, seasonal and zero fill in", {
  withr::local_seed(6)
  value <- replace(round(runif(60, 1, 9), 2), c(1, sample(2:59, 20)), NA)
  month <- format(
    seq(as.Date("2027-01-01"), by = "month", length.out = 60), "%Y-%m"
  )
  of <- function(rows) {
    data <- tibble::tibble(month = month, kilos = value)[rows, ]
    data$kilos[[1]] <- 5
    roll_up(as_records(data, "month", c(kilos = "flow")), "month")
  }
  for (method in c("carry", "seasonal", "zero")) {
    whole <- impute_gaps(of(1:60), method)$value
    for (end in c(20, 37, 59)) {
      expect_identical(
        impute_gaps(of(seq_len(end)), method)$value, whole[seq_len(end)],
        label = paste(method, end)
      )
    }
  }
})

test_that("a flow per day is by hand, and other measures have none", {
  data <- tibble::tibble(
    month = c("2031-01", "2031-02", "2031-04"), kilos = c(62, 56, 30),
    price = 1:3
  )
  x <- roll_up(
    as_records(data, "month", c(kilos = "flow", price = "level")), "month"
  )
  per_day <- add_per_day(x)$per_day
  expect_identical(per_day, c(2, 2, NA, 1, NA, NA, NA, NA))
  workdays <- calendar("day", workdays = 1:5, holidays = as.Date("2031-01-01"))
  expect_equal(
    add_per_day(x, workdays = workdays)$per_day[1:2], c(62 / 22, 56 / 20)
  )
  expect_error(
    add_per_day(x, workdays = TRUE), "names none",
    class = "backfill_error_argument"
  )
  expect_error(
    add_per_day(x[x$measure == "price", ], name = "value"), "already",
    class = "backfill_error_column"
  )
  expect_error(
    add_per_day(x[x$measure == "price", ]), "no flow",
    class = "backfill_error_input"
  )
})

test_that("a wide table has every value in its place", {
  x <- roll_up(inns(), "quarter")
  for (side in c("periods", "series")) {
    wide <- widen(x, side, partial = TRUE)
    long <- if (side == "periods") {
      as.vector(t(as.matrix(wide[-(1:2)])))
    } else {
      unlist(wide[-1], use.names = FALSE)
    }
    expect_identical(long, x$value, label = side)
  }
  expect_identical(
    names(widen(x, "series")),
    c("period", "Anchor", "Hearth", "Lantern", "Wherry")
  )
  expect_identical(names(widen(x))[3:4], c("2028-Q1", "2028-Q2"))
  whole <- widen(x, "series")
  expect_identical(
    unlist(whole[-1], use.names = FALSE),
    ifelse(x$standing == "complete", x$value, NA)
  )
  expect_error(widen(x, "up"), class = "backfill_error_argument")
})
