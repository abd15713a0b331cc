# Two rows of headers, and files that name their series.

panel <- c(
  ",Open,,,Close,,", "Date,A,B,C,A,B,C", "2031-04-09,7,8,9,10,11,12",
  "2031-04-10,1,2,3,4,5,6", "2031-04-11,2,3,4,5,6,7"
)

expect_panel <- function(records) {
  at <- order(records$when_of, records$series)
  expect_equal(records$series[at], rep(c("A", "B", "C"), 3))
  expect_equal(records$Open[at], c(7:9, 1:3, 2:4))
  expect_equal(records$Close[at], c(10:12, 4:6, 5:7))
}

test_that("an upper row of names that is filled once for several columns is read, and found", {
  read <- function(file) {
    records <- read_records(
      file, when = "Date", measures = c(Open = "level", Close = "level"),
      series = "series", layout = "series across", header_rows = 2
    )
    records$when_of <- records$Date
    records
  }
  file <- text_file(panel)
  expect_panel(read(file))
  found <- inspect_file(file)
  expect_equal(found$arguments$header_rows, 2)
  expect_equal(found$arguments$layout, "series across")
  expect_equal(
    unlist(found$arguments$measures), c(Open = "level", Close = "level")
  )
  expect_match(
    found$notes, "upper row of the header is taken for the names of measures",
    all = FALSE
  )
  records <- found$records
  records$when_of <- records$Date
  expect_panel(records)
  # Filled in every column it is found by names that repeat.
  full <- text_file(",Open,Open,Open,Close,Close,Close", panel[-1])
  expect_equal(inspect_file(full)$arguments$header_rows, 2)
  book <- withr::local_tempfile(fileext = ".xlsx")
  cells <- do.call(rbind, strsplit(paste0(panel, ",x"), ","))[, 1:7]
  cells[cells == ""] <- NA
  writexl::write_xlsx(as.data.frame(cells), book, col_names = FALSE)
  expect_equal(inspect_file(book)$arguments$header_rows, 2)
})

test_that("a title above the header is one still, and a header of one row stays one", {
  titled <- text_file(
    "Landings of April,,", "date,north,south", "2031-04-09,1,2",
    "2031-04-10,3,4"
  )
  found <- inspect_file(titled)
  expect_identical(found$arguments$skip, 1L)
  expect_match(found$notes[[1]], "looks like a title .* is therefore 1")
  # What the user says is never overruled.
  expect_error(
    inspect_file(titled, skip = 0), "looks like a title",
    class = "backfill_error_file"
  )
  bare <- text_file("2031-04-09,1,2", "2031-04-10,3,4", "2031-04-11,3,4")
  found <- inspect_file(bare)
  expect_identical(found$arguments$header_rows, 0L)
  expect_identical(nrow(found$records), 3L)
  expect_match(found$notes[[1]], "`header_rows` is therefore 0")
  expect_error(
    read_records(
      titled, when = "date", measures = c(kilos = "flow"),
      layout = "series across", header_rows = 2
    ),
    "title", class = "backfill_error_title"
  )
  plain <- text_file(
    "date,north,south", "2031-04-09,1,2", "2031-04-10,3,4", "2031-04-11,3,4"
  )
  expect_null(inspect_file(plain)$arguments$header_rows)
})

test_that("files that name their series go with every layout", {
  folder <- withr::local_tempdir()
  put <- function(name, ...) writeLines(c(...), file.path(folder, name))
  pattern <- file.path(folder, "*.csv")
  put("east.csv", "line,2031-04,2031-05", "blue,1,2", "red,3,4")
  put("west.csv", "line,2031-04,2031-05", "blue,5,6", "red,7,8")
  across <- read_records(
    pattern, measures = c(kilos = "flow"), series = "line",
    layout = "dates across", source = "coast"
  )
  found <- roll_up(across, "month")
  expect_equal(nrow(found), 8)
  value <- function(x, coast, line) x$value[x$coast == coast & x$line == line]
  expect_equal(value(found, "east", "red"), c(3, 4))
  expect_equal(value(found, "west", "blue"), c(5, 6))

  put("east.csv", "month,blue,red", "2031-04,1,3", "2031-05,2,4")
  put("west.csv", "month,blue,red", "2031-04,5,7", "2031-05,6,8")
  series <- read_records(
    pattern, when = "month", measures = c(kilos = "flow"), series = "line",
    layout = "series across", source = "coast"
  )
  expect_equal(value(roll_up(series, "month"), "west", "red"), c(7, 8))
  expect_equal(value(roll_up(series, "month"), "east", "blue"), c(1, 2))
  unnamed <- read_records(
    pattern, when = "month", measures = c(kilos = "flow"),
    layout = "series across", source = "coast"
  )
  expect_setequal(names(unnamed), c("month", "series", "coast", "kilos"))

  put("east.csv", ",Open,,Close,", "month,blue,red,blue,red", "2031-04,1,2,3,4")
  put("west.csv", ",Open,,Close,", "month,blue,red,blue,red", "2031-04,5,6,7,8")
  two <- read_records(
    pattern, when = "month", measures = c(Open = "level", Close = "level"),
    series = "line", layout = "series across", header_rows = 2, source = "coast"
  )
  two <- as.data.frame(two)
  expect_equal(two$Close[two$coast == "west" & two$line == "blue"], 7)
  expect_equal(two$Open[two$coast == "east" & two$line == "red"], 2)
})

test_that("texts of different encodings that are the same are one series", {
  name <- "Sk\u00e4r"
  data <- tibble::tibble(
    when = as.Date("2031-04-01") + 0:3, village = rep(name, 4), litres = 1
  )
  latin <- iconv(name, "UTF-8", "latin1")
  Encoding(latin) <- "latin1"
  data$village[3:4] <- latin
  read <- as_records(data, "when", c(litres = "flow"), series = "village")
  expect_equal(roll_up(read, "month")$value, 4)
  data$village <- factor(data$village)
  expect_equal(
    roll_up(
      as_records(data, "when", c(litres = "flow"), series = "village"), "month"
    )$value,
    4
  )
})

test_that("a title does not hide how the lines below it are cut, and the hint is right", {
  file <- text_file(
    "Sales of the mill, 2031; all sites", "Made by hand", "date;kilos;price",
    "2031-01-01;5;1,5", "2031-01-02;6;1,6", "2031-01-03;7;1,7"
  )
  expect_error(
    read_records(file, "date", c(kilos = "flow", price = "level")),
    "`skip` is 2 where line 3 is the header", class = "backfill_error_title"
  )
  found <- inspect_file(file)
  expect_identical(found$arguments$skip, 2L)
  expect_match(found$notes[[1]], "`skip` is therefore 2", fixed = TRUE)
  expect_identical(found$records$price, c(1.5, 1.6, 1.7))
  x <- read_records(
    file, "date", c(kilos = "flow", price = "level"), skip = 2,
    decimal_mark = ","
  )
  expect_identical(x$price, c(1.5, 1.6, 1.7))
  # Commas in notes do not cut a file of semicolons.
  notes <- text_file(
    "date;note;v", "2031-01-01;one, two, three;4", "2031-01-02;a, b, c;5",
    "2031-01-03;d, e, f"
  )
  x <- read_records(notes, "date", c(v = "flow"))
  expect_identical(x$v, c(4, 5))
})

test_that("a file without a header does not lose its first row", {
  rows <- sprintf("2031-01-%02d,%d", 1:9, 11:19)
  file <- text_file(rows)
  expect_error(
    read_records(file, "2031-01-01", c("11" = "flow")),
    "reads as its rows do.*`header_rows` to 0"
  )
  expect_identical(nrow(inspect_file(file)$records), 9L)
  x <- read_records(file, "V1", c(V2 = "flow"), header_rows = 0)
  expect_identical(x$V2, as.numeric(11:19))
  expect_equal(x$V1, as.Date("2031-01-01") + 0:8)
  chunked <- read_records(
    file, "V1", c(V2 = "flow"), header_rows = 0, chunked = TRUE
  )
  expect_identical(roll_up(chunked, "month")$value, sum(11:19) + 0)
  found <- inspect_file(file, header_rows = 0)
  expect_output(print(found), "header_rows = 0")
  # Dates that stand across are names.
  across <- text_file(
    "site,2031-01-01,2031-01-02", "a,1,2", "b,3,4", "c,5,6"
  )
  expect_identical(nrow(read_records(
    across, measures = c(v = "flow"), series = "site", layout = "dates across"
  )), 6L)
})

test_that("figures without codes are hardly ever taken for some", {
  withr::local_seed(7)
  worlds <- list(
    level = \() round(rnorm(200, 15, 5), 1),
    signed = \() round(rnorm(200, 0, 3)),
    rare = \() rpois(200, 0.02), skewed = \() round(rlnorm(200, 0, 1.5)),
    heavy = \() round(rt(200, 2)), yes_no = \() rbinom(200, 1, 0.1),
    steps = \() sample(c(1, 2, 5, 10, 20, 100), 200, TRUE, c(5:1, 0.05))
  )
  for (name in names(worlds)) {
    named <- replicate(
      200, length(backfill:::odd_codes_in(worlds[[name]]())$code)
    )
    expect_lt(mean(named > 0), 0.02, label = name)
  }
})

test_that("a value that stands often, far from all else, is named as a likely code", {
  withr::local_seed(5)
  value <- round(rnorm(200, 15, 3), 1)
  for (code in c(-999.9, 777, -9999, 88888)) {
    value[seq(3, 200, 9)] <- code
    x <- as_records(
      data.frame(day = as.Date("2031-01-01") + 0:199, temp = value), "day",
      c(temp = "level")
    )
    expect_match(account(x)$notes, paste("in 22 rows it is", code))
    expect_match(
      paste(capture.output(print(x)), collapse = " "), "Look at temp"
    )
  }
  # One code behind the other.
  value[seq(4, 200, 9)] <- c(-99, -9999)
  x <- as_records(
    data.frame(day = as.Date("2031-01-01") + 0:199, temp = value), "day",
    c(temp = "level")
  )
  expect_identical(
    sub(".*it is ([0-9-]+),.*", "\\1", account(x)$notes),
    c("-9999", "88888", "-99")
  )
  value[value > 100 | value < -50] <- 16
  x <- as_records(
    data.frame(day = as.Date("2031-01-01") + 0:199, temp = value), "day",
    c(temp = "level")
  )
  expect_identical(length(account(x)$notes), 0L)
})
