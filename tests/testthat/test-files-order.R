# Several files, each with an order of dates of its own.

dated_files <- function(..., env = parent.frame()) {
  folder <- withr::local_tempdir(.local_envir = env)
  forms <- list(...)
  file.path(folder, vapply(names(forms), function(name) {
    day <- seq(as.Date(forms[[name]]$from), by = "day", length.out = 40)
    writeLines(c("day,kilos", paste0(
      format(day, forms[[name]]$form), ",", as.numeric(day)
    )), file.path(folder, paste0(name, ".csv")))
    paste0(name, ".csv")
  }, ""))
}

test_that("the order of dates is settled file by file", {
  forms <- c(dmy = "%d/%m/%Y", mdy = "%m/%d/%Y", ymd = "%y/%m/%d",
             iso = "%Y-%m-%d")
  for (one in names(forms)) {
    for (other in setdiff(names(forms), one)) {
      files <- dated_files(
        a = list(from = "2031-01-02", form = forms[[one]]),
        b = list(from = "2031-05-03", form = forms[[other]])
      )
      read <- read_records(files, "day", c(kilos = "flow"))
      expect_identical(as.numeric(read$day), read$kilos, label = one)
      expect_length(read$day, 80)
      notes <- account(read)$notes
      if (!"iso" %in% c(one, other)) {
        expect_match(notes, "a.csv has .* and b.csv has ", all = FALSE)
      }
    }
  }
})

test_that("a file that fits two orders follows the others where these agree, else it is asked", {
  short <- function(name, folder, form) {
    day <- as.Date("2031-08-01") + 0:5
    file <- file.path(folder, name)
    writeLines(c("day,kilos", paste0(format(day, form), ",", as.numeric(day))),
               file)
    file
  }
  files <- dated_files(
    a = list(from = "2031-01-02", form = "%d/%m/%Y"),
    b = list(from = "2031-05-03", form = "%d/%m/%Y")
  )
  both <- c(files, short("c.csv", dirname(files[[1]]), "%d/%m/%Y"))
  read <- read_records(both, "day", c(kilos = "flow"))
  expect_identical(as.numeric(read$day), read$kilos)
  files <- dated_files(
    a = list(from = "2031-01-02", form = "%d/%m/%Y"),
    b = list(from = "2031-05-03", form = "%m/%d/%Y")
  )
  all <- c(files, short("c.csv", dirname(files[[1]]), "%d/%m/%Y"))
  expect_error(
    read_records(all, "day", c(kilos = "flow")), "Two orders fit",
    class = "backfill_error_date_order"
  )
})

test_that("two orders in one file are an error, not some rows misread", {
  days <- as.Date("2031-01-05") + 3 * 0:60
  text <- c(
    format(days[1:40], "%d/%m/%Y"), format(days[41:61], "%m/%d/%Y")
  )
  data <- data.frame(day = text, v = 1)
  error <- expect_error(
    as_records(data, "day", c(v = "flow"), duplicates = "keep"),
    "written in two orders", class = "backfill_error_date_order"
  )
  expect_identical(error$choices, list(date_order = "dmy"))
  # Said to be one, the rows that only fit the other are set aside.
  read <- as_records(
    data, "day", c(v = "flow"), duplicates = "keep", date_order = "dmy"
  )
  month_first <- sum(as.POSIXlt(days[41:61])$mday > 12)
  expect_identical(nrow(rows_set_aside(read)), month_first)
  # Beside dates of ISO 8601 none is misread.
  mixed <- data.frame(
    day = c(format(days[1:40]), "13/04/2031", "04/14/2031"), v = 1
  )
  expect_identical(
    nrow(rows_set_aside(as_records(mixed, "day", c(v = "flow")))), 2L
  )
})
