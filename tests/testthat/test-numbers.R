test_that("numbers are read as people write them", {
  read <- function(...) {
    text <- c(...)
    as_records(
      data.frame(day = as.Date("2031-04-01") + seq_along(text), kilos = text),
      "day", c(kilos = "flow")
    )
  }
  expect_identical(
    read(
      "1250", "-3.5", "1.2e6", ".5", "+7", "12-", "(1,250)", "\u22124"
    )$kilos,
    c(1250, -3.5, 1.2e6, 0.5, 7, -12, -1250, -4)
  )
  expect_identical(
    read("1,250.5", "1 250", "1'250", "1\u00a0250", "12,345,678", "x")$kilos,
    c(1250.5, 1250, 1250, 1250, 12345678)
  )
  expect_identical(
    read("1.250,5", "1 250,25", "3,5", "1.250")$kilos,
    c(1250.5, 1250.25, 3.5, 1250)
  )
  expect_identical(read("12.5%", "3 %")$kilos, c(12.5, 3))
  expect_identical(read("$ 4.20", "-$3", "5 $")$kilos, c(4.2, -3, 5))
  aside <- rows_set_aside(read(
    1:19, "1,25,0", "1.2.3", "4O", "0x1F", "5kg", "1e999", "Inf", "- -3",
    "12,34.5"
  ))
  expect_identical(
    aside$reason,
    c(
      rep("not a number", 5), rep("not a finite number", 2),
      rep("not a number", 2)
    )
  )
})

test_that("what stood with the figures is reported, and a comma of two meanings asked about", {
  read <- function(text, ...) {
    as_records(
      data.frame(day = as.Date("2031-04-01") + seq_along(text), kilos = text),
      "day", c(kilos = "flow"), ...
    )
  }
  expect_match(
    account(read(c("5%", "6")))$notes, "percent signs \\(on 1 of 2 values"
  )
  expect_match(
    account(read(c("\u20ac5", "6", "(7)", "1,000.5")))$notes,
    "thousands marks, the sign \u20ac and brackets"
  )
  expect_match(
    account(read(c("1,5", "2")))$notes, "comma is read as the decimal mark"
  )
  expect_error(
    read(c("\u20ac5", "$6")), "several currencies",
    class = "backfill_error_number"
  )
  expect_error(
    read(c("1,250", "7")), "Line 1: \"1,250\" is 1250, or 1.25",
    class = "backfill_error_number"
  )
  expect_identical(
    read(c("1,250", "7"), decimal_mark = ",")$kilos, c(1.25, 7)
  )
  expect_identical(read(c("1.250", "n/a"))$kilos, c(1.25, NA))
})

test_that("where a decimal comma is found, a point parts thousands in every column of the file", {
  file <- text_file(
    "day;price;kilos", "2031-04-01;3,5;1.250", "2031-04-02;3,6;2.500"
  )
  records <- read_records(file, "day", c(price = "level", kilos = "flow"))
  expect_identical(records$price, c(3.5, 3.6))
  expect_identical(records$kilos, c(1250, 2500))
})

test_that("missing values are counted by what stood there, and no number is one unasked", {
  file <- text_file(
    "day,kilos", "2031-04-01,5", "2031-04-02,", "2031-04-03,n/a",
    "2031-04-04,..", "2031-04-05,-99", "2031-04-06,closed", "2031-04-07,n/a"
  )
  plain <- read_records(file, "day", c(kilos = "flow"))
  expect_identical(plain$kilos, c(5, NA, NA, NA, -99, NA))
  declared <- read_records(
    file, "day", c(kilos = "flow"), missing = c("-99", "closed")
  )
  expect_identical(declared$kilos, c(5, rep(NA, 6)))
  counts <- account(declared)$missing
  expect_identical(
    stats::setNames(counts$count, counts$reason)[
      c("blank", "n/a", "..", "-99", "closed")
    ],
    c(blank = 1L, "n/a" = 2L, ".." = 1L, "-99" = 1L, closed = 1L)
  )
  # The same where the column holds numbers alone.
  numbers <- as_records(
    data.frame(day = as.Date("2031-04-01") + 0:2, kilos = c(5, -99, NaN)),
    "day", c(kilos = "flow"), missing = -99
  )
  expect_identical(numbers$kilos, c(5, NA, NA))
})

test_that("attributes are read as the numbers of records are", {
  x <- as_records(
    data.frame(day = as.Date("2031-01-01") + 0:1, site = c("a", "b"), v = 1:2),
    "day", c(v = "flow"), series = "site"
  )
  people <- function(text) {
    add_attributes(
      x, data.frame(site = c("a", "b"), people = text), "site",
      c(people = "level")
    )$people
  }
  expect_identical(people(c("12,000", "9,500")), c(12000, 9500))
  expect_identical(people(c("1.5", "")), c(1.5, NA))
  expect_error(people(c("1.5", "few")), "Row 2 has \"few\"")
})
